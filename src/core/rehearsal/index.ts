export { basketRead, stepsRead, untilRead } from './read.js';
export type { RehearsalFile, StepsRead, WrittenStep } from './read.js';
export { NOT_POSSIBLE, luckWork, refusedFor, rehearsalSteps, rehearse } from './rehearse.js';
export type { RehearsalState, StepDone, StepProblem, Taken } from './rehearse.js';
export { STEP_VERBS, VERBS, verbOf } from './step.js';
export type { RehearsalStep, Verb } from './step.js';
export { rehearsalEnd, stepWords, stepsTold } from './told.js';
export type { RehearsalEnd, StepTold } from './told.js';
