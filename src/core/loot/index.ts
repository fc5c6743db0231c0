export { boxOdds, lootMeans, lootOdds } from './openings.js';
export type { AssetOdds, LootOdds } from './openings.js';
export { playerLoot } from './player.js';
export { lootRoll } from './roll.js';
