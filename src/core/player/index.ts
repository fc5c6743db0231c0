export { DEFAULT_PLACE, assetMost, assetRoom, basketArrivals, playerBought, playerCreate, playerHolds, playerPay, playerReceive, playerScope, playerSettle } from './player.js';
export type { Changed, Player, Received, Stack } from './player.js';
