export { eventApply, eventProblems, ruleLimits } from './earn.js';
export type { GameEvent, RuleOutcome } from './earn.js';
