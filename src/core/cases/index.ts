export { caseKept, rehearsalKept } from './keep.js';
export type { Kept, Rehearsal } from './keep.js';
export { casesJunit } from './junit.js';
export { casesProposed } from './propose.js';
export type { Proposal } from './propose.js';
export { caseRead } from './read.js';
export { caseRun, caseTold, casesRun } from './run.js';
export type { CaseMiss, CaseResult, CaseState } from './run.js';
export type { CaseProblem } from './types.js';
