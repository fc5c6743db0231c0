/** What sales do to a price. They do not add up: of those that run, the lowest resulting price holds. */
import { unitsShare } from '../amount/index.js';
import type { Basket } from '../amount/index.js';
import type { Economy, Offer, Sale } from '../economy/index.js';
import type { Scope } from '../formula/index.js';
import { openingChangesMs, openingIsOpen } from '../schedule/index.js';

/** A sale that lowers a price, and what the price of one time is under it. */
export interface Reduced {
  sale: Sale;
  price: Basket;
}

/** The sales that run for an offer and a player at an instant. */
export function salesRunning(offer: Offer, scope: Scope, nowMs: number): Sale[] {
  return offer.sales.filter(
    ({ opening, when }) => openingIsOpen(opening, nowMs) && (when === undefined || when.run(scope) === true),
  );
}

/** Those that lower the price, the lowest first; of two as low, the one that stands first in the economy. */
export function salesReduce(economy: Economy, running: readonly Sale[], price: Readonly<Basket>): Reduced[] {
  if (running.length === 0) return [];
  return running
    .map((sale) => ({ sale, price: reduced(economy, sale, price) }))
    .map((one) => ({ ...one, share: shareOf(one.price, price) }))
    .filter(({ share }) => share < 1)
    .sort((a, b) => a.share - b.share)
    .map(({ sale, price: lower }) => ({ sale, price: lower }));
}

function reduced(economy: Economy, { reduces }: Sale, price: Readonly<Basket>): Basket {
  if ('keeps' in reduces)
    return Object.fromEntries(
      Object.entries(price).map(([asset, units]) => {
        const rounding = economy.currencies.get(asset)?.rounding ?? 'down';
        // A price never becomes nothing by rounding: free is written, not worked out.
        return [asset, units === 0 ? 0 : Math.max(1, unitsShare(units, reduces.keeps, rounding)!)];
      }),
    );
  const assets = Object.keys(price);
  const fits =
    assets.length === Object.keys(reduces.to).length &&
    assets.every((asset) => reduces.to[asset] !== undefined && reduces.to[asset] <= price[asset]!);
  return fits ? { ...reduces.to } : { ...price };
}

/** What part of a price another is, as the mean over its assets; 1 where it is not lower. */
function shareOf(lower: Readonly<Basket>, price: Readonly<Basket>): number {
  const assets = Object.keys(price);
  if (assets.length === 0) return 1;
  return (
    assets.reduce((sum, asset) => sum + (price[asset] === 0 ? 1 : lower[asset]! / price[asset]!), 0) / assets.length
  );
}

/** When the sale ends that runs now, epoch ms; null when it has no end. */
export const saleEndsMs = (sale: Sale, nowMs: number): number | null => openingChangesMs(sale.opening, nowMs);
