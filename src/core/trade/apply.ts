/** Carries out a purchase that the check allowed: paying and receiving are one act, or nothing happens. */
import type { Basket } from '../amount/index.js';
import type { Economy, Offer } from '../economy/index.js';
import { shopAccount } from '../ledger/index.js';
import type { Movement } from '../ledger/index.js';
import { counterKey, playerPay, playerReceive, playerSettle, playerWith } from '../player/index.js';
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
  const paid = playerPay(economy, settled.player, verdict.price.total, paymentAccount(shop), cause, atMs);
  const each = paidForEach(verdict.price.total, verdict.gives);
  const received = playerReceive(economy, paid.player, verdict.gives, shopAccount(shop.id), cause, atMs, each);
  if (Object.keys(received.dropped).length > 0)
    throw new Error(`the purchase of ${offer.id} would have lost ${JSON.stringify(received.dropped)}`);
  const counters = countersAfter(economy, received.player, offer, times, atMs);
  const counted = playerWith(received.player, { counters });
  const till = tillChange(shop, shared, verdict.price.total, 1, atMs);
  const stock = stockChange(counted, shared, offer, -times, cause, atMs);
  const movements = [
    ...settled.movements,
    ...till.movements,
    ...paid.movements,
    ...stock.movements,
    ...received.movements,
  ];
  const made = progressMake(economy, stock.player, { purchase: { offer: offer.id, times }, movements }, atMs, luck);
  return {
    player: made.player,
    shared: sharedWith(till.shared, stock.shared),
    movements: [...movements, ...made.movements],
    progress: made.progress,
  };
}

/** What each unit cost, rounded down, where one kind of thing was bought: selling back by the price paid needs it. */
export function paidForEach(total: Readonly<Basket>, gives: Readonly<Basket>): Basket | null {
  const [asset, ...others] = Object.keys(gives);
  if (asset === undefined || others.length > 0 || gives[asset]! < 1) return null;
  const each: Basket = {};
  for (const paid in total) each[paid] = Math.floor(total[paid]! / gives[asset]!);
  return each;
}

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
