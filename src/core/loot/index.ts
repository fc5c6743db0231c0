export { MOST_TOGETHER, boxOdds, lootMeans, lootOdds, togetherProblem } from './openings.js';
export type { AssetOdds, LootOdds, OpeningsNeeded } from './openings.js';
export { playerLoot } from './player.js';
export { lootRoll } from './roll.js';
