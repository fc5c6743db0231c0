/** Carries out a purchase that the check allowed: paying and receiving are one act, or nothing happens. */
import type { Economy, Offer } from '../economy/index.js';
import { shopAccount } from '../ledger/index.js';
import type { Movement } from '../ledger/index.js';
import { playerPay, playerReceive, playerSettle } from '../player/index.js';
import type { Player } from '../player/index.js';
import { levelChange, limitCount } from '../schedule/index.js';
import type { Counter, Level } from '../schedule/index.js';
import { offerStock } from './check.js';
import type { SharedStocks } from './check.js';
import type { Verdict } from './verdict.js';

export interface Purchased {
  player: Player;
  /** The offer's new shared stock, where it has one. */
  stock?: Level;
  movements: Movement[];
}

/** Throws when the verdict does not allow the purchase: asking first is the caller's duty. */
export function purchaseApply(economy: Economy, player: Player, shared: SharedStocks, verdict: Verdict): Purchased {
  const offer = economy.offers.get(verdict.offer);
  if (!verdict.allowed || !verdict.price || !offer) throw new Error(`the purchase of ${verdict.offer} was not allowed`);
  const { atMs, times } = verdict;
  const cause = `purchase:${offer.id}`;
  const till = shopAccount(offer.shop.id);
  const settled = playerSettle(economy, player, atMs);
  const paid = playerPay(economy, settled.player, verdict.price.total, till, cause, atMs);
  const received = playerReceive(economy, paid.player, verdict.gives, till, cause, atMs);
  if (Object.keys(received.dropped).length > 0)
    throw new Error(`the purchase of ${offer.id} would have lost ${JSON.stringify(received.dropped)}`);
  const counted = { ...received.player, counters: countersAfter(economy, received.player, offer, times, atMs) };
  const movements = [...settled.movements, ...paid.movements, ...received.movements];
  const before = offerStock(player, shared, offer, atMs);
  if (!before) return { player: counted, movements };
  const stock = levelChange(before, -times, offer.stock!.restock, atMs);
  return offer.stock!.scope === 'player'
    ? { player: { ...counted, stocks: { ...counted.stocks, [offer.id]: stock } }, movements }
    : { player: counted, stock, movements };
}

function countersAfter(
  economy: Economy,
  player: Player,
  offer: Offer,
  times: number,
  nowMs: number,
): Record<string, Counter> {
  const counters = { ...player.counters };
  // The lifetime count is always kept: `bought(offer)` reads it.
  const periods = offer.limits.some(({ period }) => period === 'lifetime')
    ? offer.limits
    : [...offer.limits, { period: 'lifetime', most: Infinity, everyMs: undefined }];
  for (const limit of periods) {
    const key = `offer ${offer.id} ${limit.period}`;
    counters[key] = limitCount(limit, counters[key], economy.zone, nowMs, times);
  }
  return counters;
}
