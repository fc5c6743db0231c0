/** What single units cost, for rules that compare prices. */
import { choiceBasket, fixedUnits } from '../economy/index.js';
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
  const count = given && fixedUnits(given);
  if (!count || others.length > 0) return [];
  return (offer.prices ?? []).flatMap((choice) => {
    const [paid, ...more] = choiceBasket(choice);
    const units = paid && fixedUnits(paid);
    return units === undefined || more.length > 0
      ? []
      : [{ item: given.asset, count, asset: paid!.asset, units: units / count }];
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
