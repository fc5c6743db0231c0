/** Cash on hand: purchases fill a till, selling back empties it, and it refills by itself up to what it began with. */
import { MAX_UNITS } from '../amount/index.js';
import type { Basket } from '../amount/index.js';
import type { Shop } from '../economy/index.js';
import { shopAccount, tillAccount, worldAccount } from '../ledger/index.js';
import type { Account, Movement } from '../ledger/index.js';
import { levelChange, levelSettle } from '../schedule/index.js';
import type { Level } from '../schedule/index.js';
import { UNTOUCHED } from './shared.js';
import type { Shared } from './shared.js';

/** What a till holds of an asset; undefined where there is no till, or it does not name the asset. */
export function tillLevel(shop: Shop, { tills }: Shared, asset: string, nowMs: number): Level | undefined {
  const drawer = shop.till?.get(asset);
  if (!drawer) return undefined;
  const level = tills[shop.id]?.[asset] ?? { units: drawer.holds, sinceMs: null };
  return drawer.refill ? levelSettle(level, drawer.refill, nowMs) : level;
}

/** The account on a shop's side of what is paid: its till, or the shop itself for what the till does not name. */
export const paymentAccount =
  (shop: Shop) =>
  (asset: string): Account =>
    shop.till?.has(asset) ? tillAccount(shop.id) : shopAccount(shop.id);

export interface TillChanged {
  /** What changed of what all players share. */
  shared: Shared;
  /** What the till began with, what was refilled, and what it has no room for; the payment itself is not among them. */
  movements: Movement[];
}

/** Changes a till by a payment: `way` is 1 where players pay a basket in, -1 where they are paid from it. */
export function tillChange(
  shop: Shop,
  shared: Shared,
  basket: Readonly<Basket>,
  way: 1 | -1,
  nowMs: number,
): TillChanged {
  const changed: Record<string, Level> = {};
  const movements: Movement[] = [];
  const account = tillAccount(shop.id);
  const cause = `till:${shop.id}`;
  for (const asset in basket) {
    const level = tillLevel(shop, shared, asset, nowMs);
    if (!level || basket[asset] === 0) continue;
    const written = shared.tills[shop.id]?.[asset];
    const came = level.units - (written?.units ?? 0);
    if (came > 0)
      movements.push({ asset, units: came, from: worldAccount(written ? 'refill' : 'till'), to: account, cause });
    const by = Math.min(way * basket[asset]!, MAX_UNITS - level.units);
    const over = way * basket[asset]! - by;
    if (over > 0) movements.push({ asset, units: over, from: account, to: worldAccount('over-cap'), cause });
    changed[asset] = levelChange(level, by, shop.till!.get(asset)!.refill, nowMs);
  }
  return Object.keys(changed).length === 0
    ? { shared: UNTOUCHED, movements }
    : { shared: { ...UNTOUCHED, tills: { [shop.id]: changed } }, movements };
}
