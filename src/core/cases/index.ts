export { casesJunit } from './junit.js';
export { caseRead } from './read.js';
export { caseRun, caseTold, casesRun } from './run.js';
export type { CaseMiss, CaseResult, CaseState } from './run.js';
export type { CaseProblem } from './types.js';
