/** Carries out a purchase that the check allowed: paying and receiving are one act, or nothing happens. */
import type { Basket } from '../amount/index.js';
import type { Economy, Offer } from '../economy/index.js';
import { shopAccount } from '../ledger/index.js';
import type { Movement } from '../ledger/index.js';
import { counterKey, playerPay, playerReceive, playerSettle } from '../player/index.js';
import type { Counters, Player } from '../player/index.js';
import { levelChange, limitCount } from '../schedule/index.js';
import type { Limit } from '../schedule/index.js';
import { offerStock } from './check.js';
import type { SharedStocks } from './check.js';
import { tillsAfter } from './till.js';
import type { Verdict } from './verdict.js';

export interface Purchased {
  player: Player;
  /** What changed of what all players share. */
  shared: SharedStocks;
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
  const each = paidForEach(verdict);
  const received = playerReceive(economy, paid.player, verdict.gives, till, cause, atMs, each);
  if (Object.keys(received.dropped).length > 0)
    throw new Error(`the purchase of ${offer.id} would have lost ${JSON.stringify(received.dropped)}`);
  const counted = { ...received.player, counters: countersAfter(economy, received.player, offer, times, atMs) };
  const movements = [...settled.movements, ...paid.movements, ...received.movements];
  const tills = tillsAfter(offer.shop, shared, verdict.price.total, 1, atMs);
  const before = offerStock(player, shared, offer, atMs);
  if (!before) return { player: counted, shared: tills, movements };
  const stock = levelChange(before, -times, offer.stock!.restock, atMs);
  return offer.stock!.scope === 'player'
    ? { player: { ...counted, stocks: { ...counted.stocks, [offer.id]: stock } }, shared: tills, movements }
    : { player: counted, shared: { ...tills, [offer.id]: stock }, movements };
}

/** What each unit cost, rounded down, where one kind of thing was bought: selling back by the price paid needs it. */
function paidForEach({ price, gives }: Verdict): Basket | null {
  const [asset, ...others] = Object.keys(gives);
  if (asset === undefined || others.length > 0 || gives[asset]! < 1) return null;
  const total = price!.total;
  return Object.fromEntries(Object.keys(total).map((paid) => [paid, Math.floor(total[paid]! / gives[asset]!)]));
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
