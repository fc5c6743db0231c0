/** What is given to a player and taken from one by hand: support does it, and whoever rehearses. */
import type { Basket } from '../amount/index.js';
import type { Economy } from '../economy/index.js';
import type { Account, Movement } from '../ledger/index.js';
import { playerPay, playerReach, playerReceive, playerSettle } from '../player/index.js';
import type { Player } from '../player/index.js';
import { progressMake } from '../progress/index.js';
import type { Progress } from '../progress/index.js';

export interface Granted {
  player: Player;
  movements: Movement[];
  given: Basket;
  taken: Basket;
  /** Kept out by a cap or carry. */
  dropped: Basket;
  /** Not there to be taken. */
  missed: Basket;
  progress: Progress[];
}

/** Takes first, so that what is taken makes room. Never below zero: what could not be taken is `missed`. */
export function grantApply(
  economy: Economy,
  player: Player,
  { gives, takes }: { gives: Basket; takes: Basket },
  { account, cause }: { account: Account; cause: string },
  nowMs: number,
): Granted {
  const settled = playerSettle(economy, player, nowMs);
  const { taken, missed } = playerReach(economy, settled.player, takes);
  const paid = playerPay(economy, settled.player, taken, account, cause, nowMs);
  const received = playerReceive(economy, paid.player, gives, account, cause, nowMs);
  const movements = [...settled.movements, ...paid.movements, ...received.movements];
  const made = progressMake(economy, received.player, { movements }, nowMs);
  const { given, dropped } = received;
  return {
    player: made.player,
    movements: [...movements, ...made.movements],
    given,
    taken,
    dropped,
    missed,
    progress: made.progress,
  };
}
