export {
  assetMost,
  basketArrivals,
  playerCreate,
  playerHolds,
  playerMadeUp,
  playerPay,
  playerReceive,
  playerScope,
  playerSettle,
} from './player.js';
export type { Changed, Player, Profile, Received, Stack } from './player.js';
