/** What an offer costs and gives the player who acts. */
import type { Basket } from '../../amount/index.js';
import { choiceBasket, quantitiesFixed } from '../../economy/index.js';
import type { Economy, Offer, PriceChoice } from '../../economy/index.js';
import { quoteMake } from '../../trade/index.js';
import { quantitiesBind, quantityNow } from './earning.js';
import type { Quantity } from './earning.js';
import type { OnShow } from './onShow.js';
import { termsOf } from './slots.js';
import type { Amounts, Deal, Gift, Slots, Terms, Untold, Way } from './slots.js';
import type { State } from './state.js';

/** What is given at one time. */
type Given = Gift & Pick<Terms, 'gives'>;

/** A price and gifts of which a formula says some. */
interface BoundTerms {
  price: readonly Quantity[];
  /** Worked out already where no formula says any of it. */
  gives: readonly Quantity[] | Given;
}

/** Undefined where a formula comes to no amount. */
function amountsNow(quantities: readonly Quantity[]): Amounts | undefined {
  const slots: number[] = [];
  const units: number[] = [];
  for (const quantity of quantities) {
    const now = quantityNow(quantity);
    if (now === undefined) return undefined;
    slots.push(quantity.slot);
    units.push(now);
  }
  return { slots, units };
}

export class Pricing {
  /** Prices and gifts that formulas say. */
  private readonly formulas = new Map<Way, BoundTerms>();

  constructor(
    private readonly economy: Economy,
    private readonly slots: Slots,
    private readonly state: State,
    private readonly onShow: OnShow,
  ) {
    for (const { offer, ways } of slots.deals)
      for (const way of ways)
        if (!way.fixed)
          this.formulas.set(way, {
            price: quantitiesBind(slots, state, choiceBasket(way.choice)),
            gives: this.givenAlways(offer) ?? quantitiesBind(slots, state, offer.gives),
          });
  }

  /** Whether it can be paid for in any way. */
  isPayable(deal: Deal): boolean {
    for (const way of deal.ways) if (this.isPaidBy(deal, way)) return true;
    return false;
  }

  private isPaidBy(deal: Deal, way: Way): boolean {
    if (this.isTooDear(deal, way)) return false;
    if (!way.fixed && !this.onShow.isLowered(deal)) {
      // Most often a price that is worked out is more than is held, and no more need be.
      for (const quantity of this.formulas.get(way)!.price)
        if (!(this.state.heldOf(quantity.slot) >= quantityNow(quantity)!)) return false;
    }
    const terms = this.terms(deal, way);
    return typeof terms !== 'string' && this.state.holdsAll(terms.cost);
  }

  /** What one time costs and gives now, or why that cannot be worked out. */
  terms(deal: Deal, way: Way): Terms | Untold {
    const { offer } = deal;
    if (!this.onShow.isLowered(deal)) return way.fixed ?? this.workedOut(way);
    // While the same sales run for everybody, everybody is told the same.
    if (!way.reduced) return this.quoted(offer, way.choice);
    const running = this.onShow.running(deal);
    const known = way.reduced.get(running);
    if (known) return known;
    const terms = this.quoted(offer, way.choice);
    way.reduced.set(running, terms);
    return terms;
  }

  /** No sale lowers it, and its price is more than is held: known without working anything out. */
  isTooDear(deal: Deal, { least }: Way): boolean {
    return least !== undefined && this.state.heldOf(least.slot) < least.units && !this.onShow.isLowered(deal);
  }

  /** As `quoteMake` has it for one time, where no sale runs. */
  private workedOut(way: Way): Terms | Untold {
    const { price, gives: written } = this.formulas.get(way)!;
    const cost = amountsNow(price);
    const given = cost && ('gives' in written ? written : this.givenNow(written));
    if (!given) return 'bad-formula';
    if (way.choice.kind === 'assets' && cost.units.every((units) => units === 0)) return 'zero-price';
    const { gives, bundles, arrivals } = given;
    if (arrivals.units.every((units) => units === 0)) return 'gives-nothing';
    return { total: this.basketOf(cost), gives, cost, bundles, arrivals };
  }

  private givenAlways({ gives }: Offer): Given | undefined {
    const basket = quantitiesFixed(gives);
    return basket && { gives: basket, ...this.state.giftOf(basket) };
  }

  private givenNow(quantities: readonly Quantity[]): Given | undefined {
    const amounts = amountsNow(quantities);
    if (!amounts) return undefined;
    const gives = this.basketOf(amounts);
    return { gives, ...this.state.giftOf(gives) };
  }

  private basketOf({ slots, units }: Amounts): Basket {
    const basket: Basket = {};
    for (let i = 0; i < slots.length; i++) basket[this.slots.assets[slots[i]!]!.id] = units[i]!;
    return basket;
  }

  private quoted(offer: Offer, choice: PriceChoice): Terms | Untold {
    const { economy, slots } = this;
    const result = quoteMake(economy, offer, choice, 1, this.state.scope, this.state.nowMs);
    return result.ok ? termsOf(slots.assetOf, economy, result.quote.total, result.quote.gives) : result.why;
  }
}
