/** Which assets a player can come to have at all. */
import { basketArrivals } from '../player/index.js';
import type { Economy, QuantityBasket } from '../economy/index.js';
import { offerIsHidden } from './finding.js';

/**
 * A fixed point: what players start with, what comes back by itself, what is sold for money (premium), what
 * earning rules give, and then whatever offers can be paid with that, until nothing new is found.
 * At most one pass over all offers for each asset.
 */
export function obtainableAssets(economy: Economy): Set<string> {
  const reached = new Set<string>();
  const reach = (quantities: QuantityBasket): void => {
    const basket = Object.fromEntries(quantities.filter(({ units }) => units !== 0).map(({ asset }) => [asset, 1]));
    for (const asset in basket) reached.add(asset);
    for (const asset in basketArrivals(economy, basket)) reached.add(asset);
  };
  for (const { id, start, refill, premium } of economy.currencies.values())
    if (start > 0 || refill || premium) reached.add(id);
  for (const rule of economy.earning.values()) reach(rule.gives);
  for (let before = -1; before !== reached.size;) {
    before = reached.size;
    for (const offer of economy.offers.values()) {
      const payable = (offer.prices ?? []).some(({ basket }) => basket.every(({ asset }) => reached.has(asset)));
      if (payable && !offerIsHidden(offer)) reach(offer.gives);
    }
  }
  return reached;
}
