/** What single units cost, for rules that compare prices. */
import type { Economy, Offer } from '../economy/index.js';
import { offerIsHidden } from './finding.js';

export interface UnitPrice {
  /** Smallest units for one unit of the item; may be a fraction where several are sold together. */
  units: number;
  offer: Offer;
}

/** What one unit costs in an offer of one kind of item at a fixed price in one asset. */
export function unitPrices(offer: Offer): { item: string; count: number; asset: string; units: number }[] {
  const [given, ...others] = offer.gives;
  if (!given?.units || others.length > 0) return [];
  return (offer.prices ?? []).flatMap(({ basket, money }) => {
    const paid = basket.length === 1 && !money ? basket[0]! : undefined;
    return paid?.units === undefined
      ? []
      : [{ item: given.asset, count: given.units!, asset: paid.asset, units: paid.units / given.units! }];
  });
}

/** Item to currency to the lowest price of a unit, over all offers that players can meet. */
export function cheapestUnits(economy: Economy): Map<string, Map<string, UnitPrice>> {
  const cheapest = new Map<string, Map<string, UnitPrice>>();
  for (const offer of economy.offers.values()) {
    if (offerIsHidden(offer)) continue;
    for (const { item, asset, units } of unitPrices(offer)) {
      if (!cheapest.has(item)) cheapest.set(item, new Map());
      const known = cheapest.get(item)!.get(asset);
      if (!known || units < known.units) cheapest.get(item)!.set(asset, { units, offer });
    }
  }
  return cheapest;
}
