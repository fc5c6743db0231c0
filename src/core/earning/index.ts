export { eventApply, eventProblems, ruleLimits } from './earn.js';
export type { GameEvent, RuleOutcome } from './earn.js';
export { eventsTry } from './try.js';
export type { RuleTried, Tried, TriedEvent } from './try.js';
