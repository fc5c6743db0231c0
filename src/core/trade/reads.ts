/** What the formulas of an offer read at a purchase: with it the purchase can be understood, and made again, later. */
import { choiceBasket, quantityFormula } from '../economy/index.js';
import type { Economy, Offer } from '../economy/index.js';
import type { Value } from '../formula/index.js';
import { playerScope } from '../player/index.js';
import type { Player } from '../player/index.js';

/** Names as a verdict tells them: `level`, `owned(wax)`, `balance(shells)`, `bought(kit)`. */
export function offerReads(economy: Economy, player: Player, offer: Offer, nowMs: number): Record<string, Value> {
  const quantities = [...offer.gives, ...(offer.prices ?? []).flatMap(choiceBasket)];
  const formulas = [
    offer.when,
    offer.shop.when,
    ...offer.sales.map(({ when }) => when),
    ...quantities.map(quantityFormula),
  ];
  const scope = playerScope(economy, player, nowMs);
  const reads: Record<string, Value> = {};
  for (const formula of formulas) for (const { name, value } of formula?.inputs(scope) ?? []) reads[name] = value;
  return reads;
}
