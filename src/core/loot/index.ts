export { MOST_OPENINGS, boxOdds, lootOdds } from './openings.js';
export type { AssetOdds, LootOdds } from './openings.js';
export { lootRoll } from './roll.js';
export type { Rolled } from './roll.js';
export { playerLoot } from './player.js';
