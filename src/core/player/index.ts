export {
  DEFAULT_PLACE,
  assetMost,
  assetRoom,
  basketArrivals,
  playerBought,
  playerCreate,
  playerHolds,
  playerMadeUp,
  playerPay,
  playerReceive,
  playerScope,
  playerSettle,
} from './player.js';
export type { Changed, Player, Profile, Received, Stack } from './player.js';
