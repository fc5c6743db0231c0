/** Carries out a purchase that the check allowed: paying and receiving are one act, or nothing happens. */
import { basketOverlaps, basketTimes } from '../amount/index.js';
import type { Basket } from '../amount/index.js';
import type { Economy, Offer } from '../economy/index.js';
import { shopAccount } from '../ledger/index.js';
import type { Movement } from '../ledger/index.js';
import {
  basketArrivals,
  counterKey,
  paidParts,
  playerPay,
  playerReceive,
  playerSettle,
  playerWith,
} from '../player/index.js';
import type { Counters, Player } from '../player/index.js';
import { progressMake } from '../progress/index.js';
import type { Progress } from '../progress/index.js';
import { keyOf } from '../random/index.js';
import { limitCount } from '../schedule/index.js';
import type { Limit } from '../schedule/index.js';
import { sharedWith } from './shared.js';
import type { Shared } from './shared.js';
import { stockChange } from './stock.js';
import { paymentAccount, tillChange } from './till.js';
import type { Verdict } from './reasons.js';

export interface Purchased {
  player: Player;
  /** What changed of what all players share. */
  shared: Shared;
  movements: Movement[];
  /** What it did for goals and levels. */
  progress: Progress[];
}

/** `luck`: what rewards of goals draw by. Throws when the verdict does not allow the purchase: asking first is the caller's duty. */
export function purchaseApply(
  economy: Economy,
  player: Player,
  shared: Shared,
  verdict: Verdict,
  luck = keyOf(economy.seed, player.id),
): Purchased {
  const offer = economy.offers.get(verdict.offer);
  if (!verdict.allowed || !verdict.price || !offer) throw new Error(`the purchase of ${verdict.offer} was not allowed`);
  const { atMs, times } = verdict;
  const { shop } = offer;
  const cause = `purchase:${offer.id}`;
  const settled = playerSettle(economy, player, atMs);
  const exchanged = exchange(economy, settled.player, offer, verdict, cause);
  const counters = countersAfter(economy, exchanged.player, offer, times, atMs);
  const counted = playerWith(exchanged.player, { counters });
  const till = tillChange(shop, shared, verdict.price.total, 1, atMs);
  const stock = stockChange(counted, shared, offer, -times, cause, atMs);
  const movements = [
    ...settled.movements,
    ...till.movements,
    ...exchanged.paid,
    ...stock.movements,
    ...exchanged.received,
  ];
  const made = progressMake(economy, stock.player, { purchase: { offer: offer.id, times }, movements }, atMs, luck);
  return {
    player: made.player,
    shared: sharedWith(till.shared, stock.shared),
    movements: [...movements, ...made.movements],
    progress: made.progress,
  };
}

/**
 * Pays and receives, each of the times with what it costs and gives, so that each thing remembers its own price. Times
 * that are alike are one, unless one pays with what another gives.
 */
function exchange(
  economy: Economy,
  before: Player,
  { id, shop }: Offer,
  { price, gives, times, atMs }: Verdict,
  cause: string,
): { player: Player; paid: Movement[]; received: Movement[] } {
  const result = { player: before, paid: [] as Movement[], received: [] as Movement[] };
  const to = paymentAccount(shop);
  const pass = (total: Readonly<Basket>, given: Readonly<Basket>): void => {
    const paid = playerPay(economy, result.player, total, to, cause, atMs);
    const parts = paidParts(economy, total, basketArrivals(economy, given));
    const came = playerReceive(economy, paid.player, given, shopAccount(shop.id), cause, atMs, { paid: parts });
    if (Object.keys(came.dropped).length > 0)
      throw new Error(`the purchase of ${id} would have lost ${JSON.stringify(came.dropped)}`);
    result.player = came.player;
    result.paid.push(...paid.movements);
    result.received.push(...came.movements);
  };
  const { total, steps = [{ times, cost: basketShare(total, times), gives: basketShare(gives, times) }] } = price!;
  const alone = times > 1 && basketOverlaps(total, basketArrivals(economy, gives));
  for (const step of steps)
    if (alone) for (let time = 0; time < step.times; time++) pass(step.cost, step.gives);
    else pass(basketTimes(step.cost, step.times)!, basketTimes(step.gives, step.times)!);
  return result;
}

/** A `times`th part of amounts that are as many times as much. */
const basketShare = (basket: Readonly<Basket>, times: number): Basket => {
  const share: Basket = {};
  for (const asset in basket) share[asset] = basket[asset]! / times;
  return share;
};

const LIFETIME: Limit = { period: 'lifetime', most: Infinity, span: { kind: 'lifetime' } };

function countersAfter(economy: Economy, player: Player, offer: Offer, times: number, nowMs: number): Counters {
  const counters = { ...player.counters };
  // The lifetime count is always kept: `bought(offer)` reads it.
  const periods = offer.limits.some(({ period }) => period === 'lifetime') ? offer.limits : [...offer.limits, LIFETIME];
  for (const limit of periods) {
    const key = counterKey.offer(offer.id, limit.period);
    counters[key] = limitCount(limit, counters[key], economy.zone, nowMs, times);
  }
  return counters;
}
