/** Cash on hand: purchases fill a till, selling back empties it, and it refills by itself up to what it began with. */
import { MAX_UNITS } from '../amount/index.js';
import type { Basket } from '../amount/index.js';
import type { Shop } from '../economy/index.js';
import { levelChange, levelSettle } from '../schedule/index.js';
import type { Level } from '../schedule/index.js';
import type { SharedStocks } from './check.js';

const tillKey = (shop: Shop, asset: string): string => `till ${shop.id} ${asset}`;

/** What a till holds of an asset; undefined where it never runs out. */
export function tillLevel(shop: Shop, shared: SharedStocks, asset: string, nowMs: number): Level | undefined {
  const drawer = shop.till?.get(asset);
  if (!drawer) return undefined;
  const level = shared[tillKey(shop, asset)] ?? { units: drawer.holds, sinceMs: null };
  return drawer.refill ? levelSettle(level, drawer.refill, nowMs) : level;
}

/** The drawers that a basket changes: `way` is 1 where players pay it in, -1 where they are paid from it. */
export function tillsAfter(
  shop: Shop,
  shared: SharedStocks,
  basket: Readonly<Basket>,
  way: 1 | -1,
  nowMs: number,
): SharedStocks {
  const changed: Record<string, Level> = {};
  for (const asset in basket) {
    const level = tillLevel(shop, shared, asset, nowMs);
    if (!level || basket[asset] === 0) continue;
    const by = Math.min(way * basket[asset]!, MAX_UNITS - level.units);
    changed[tillKey(shop, asset)] = levelChange(level, by, shop.till!.get(asset)!.refill, nowMs);
  }
  return changed;
}

/** The keys of what all players share that a shop's storefront depends on: shared stock, and the till for who has something to sell. */
export function sharedKeys(shop: Shop, sells: boolean): string[] {
  const stocks = shop.shelves.flatMap(({ offers }) =>
    offers.filter(({ stock }) => stock?.scope === 'shared').map(({ id }) => id),
  );
  const drawers = sells ? [...(shop.till?.keys() ?? [])].map((asset) => tillKey(shop, asset)) : [];
  return [...stocks, ...drawers];
}
