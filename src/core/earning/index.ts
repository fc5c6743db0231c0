export { eventApply, eventProblems } from './earn.js';
export type { GameEvent, RuleOutcome } from './earn.js';
