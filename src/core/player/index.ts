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
  playerSpendable,
  playerUse,
  playerUses,
  yieldTake,
} from './player.js';
export type { Changed, Player, Profile, Received, Stack } from './player.js';
