export { eventApply, eventProblems } from './earn.js';
export type { Earned, GameEvent, RuleOutcome, SkipReason } from './earn.js';
