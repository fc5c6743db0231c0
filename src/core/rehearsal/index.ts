export { stepsRead } from './read.js';
export type { StepsRead, WrittenStep } from './read.js';
export { MOST_REPEATED, MOST_STEPS, rehearse, stepTake } from './rehearse.js';
export type { RehearsalState, StepDone, StepProblem } from './rehearse.js';
export { STEP_VERBS, VERBS, verbOf } from './step.js';
export type { RehearsalStep, Verb } from './step.js';
