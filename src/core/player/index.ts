export {
  assetMost,
  basketArrivals,
  playerCreate,
  playerEmptied,
  playerHolding,
  playerMadeUp,
  playerPay,
  playerReceive,
  playerScope,
} from './player.js';
export type { Profile, Receiving } from './player.js';
export { attributeProblems } from './attributes.js';
export type { AttributeProblem } from './attributes.js';
export { keptOutOf } from './keptOut.js';
export type { KeptOut } from './keptOut.js';
export { paidParts } from './paid.js';
export type { Paid } from './paid.js';
export { playerSettle } from './settle.js';
export { stacksAdd, stacksLeaving, stacksRemove } from './stacks.js';
export { DEFAULT_PLACE, playerHolds, playerReach, playerSpendable, playerWith } from './state.js';
export type { Player, Stack, Team } from './state.js';
export { playerUse, playerUses } from './uses.js';
export { sharedTold, teamPay, teamReceive, teamShare } from './team.js';
export { yieldTake } from './yields.js';
export { counterKey } from './counters.js';
export type { CounterKey, Counters } from './counters.js';
