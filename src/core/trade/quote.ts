/** What an offer costs and gives for a player, for one or more times at once. */
import { basketAddAll, basketEquals, basketTimes, basketTimesOver } from '../amount/index.js';
import type { Basket } from '../amount/index.js';
import { choiceBasket, quantitiesEvaluate, quantityFormula } from '../economy/index.js';
import type { Economy, Offer, PriceChoice, QuantityBasket, QuantityProblem } from '../economy/index.js';
import type { Formula, FormulaInput, Scope } from '../formula/index.js';
import { basketArrivals } from '../player/index.js';
import { salesReduce, salesRunning } from './sale.js';
import type { Reduced } from './sale.js';

/** Times next to each other that cost and give the same. */
export interface Step {
  times: number;
  /** Of a single time. */
  cost: Basket;
  gives: Basket;
}

export interface Quote {
  /** The price of the first of the times, before any reduction. */
  base: Basket;
  /** The sales that lower it, the one that holds first. */
  sales: Reduced[];
  total: Basket;
  gives: Basket;
  /** The times one after another. */
  steps: Step[];
  inputs: FormulaInput[];
}
export type QuoteResult =
  | { ok: true; quote: Quote }
  /** By how much it passes the ceiling. */
  | { ok: false; why: 'too-large'; over: Basket }
  /** `time`: which of the times would cost nothing, or give nothing, from 1. */
  | { ok: false; why: 'zero-price' | 'gives-nothing'; time: number }
  | { ok: false; why: 'bad-formula'; problem: QuantityProblem };

/** A time's terms: what it costs and gives, and what its price was before sales. */
interface Terms {
  base: Basket;
  sales: Reduced[];
  cost: Basket;
  gives: Basket;
}

/**
 * Buying several times at once costs and gives exactly what buying one after the other would: where a formula or a
 * sale's condition looks at what is owned, held or bought, each time sees the ones before it. Linear in `times` then,
 * constant otherwise.
 */
export function quoteMake(
  economy: Economy,
  offer: Offer,
  choice: PriceChoice | undefined,
  times: number,
  scope: Scope,
  nowMs: number,
): QuoteResult {
  const price = choice ? choiceBasket(choice) : NO_PRICE;
  const first = termsNow(economy, offer, choice, price, scope, nowMs);
  if (!first.ok) return failedAt(first, 1);
  const { base, sales, cost, gives } = first.terms;
  const inputs = inputsOf(price, offer.gives, scope);
  if (times === 1 || !looksBack(price, offer)) {
    const total = basketTimes(cost, times);
    const given = basketTimes(gives, times);
    return total && given
      ? { ok: true, quote: { base, sales, total, gives: given, steps: [{ times, cost, gives }], inputs } }
      : { ok: false, why: 'too-large', over: { ...basketTimesOver(cost, times), ...basketTimesOver(gives, times) } };
  }
  const total = { ...cost };
  const given = { ...gives };
  const steps: Step[] = [{ times: 1, cost, gives }];
  const after = new After(economy, scope, offer.id);
  for (let time = 2; time <= times; time++) {
    after.pass(steps.at(-1)!, 1);
    const next = termsNow(economy, offer, choice, price, after.scope, nowMs);
    if (!next.ok) return failedAt(next, time);
    const { terms } = next;
    const over = basketAddAll(total, terms.cost) ?? basketAddAll(given, terms.gives);
    if (over) return { ok: false, why: 'too-large', over };
    const last = steps.at(-1)!;
    if (basketEquals(last.cost, terms.cost) && basketEquals(last.gives, terms.gives)) last.times++;
    else steps.push({ times: 1, cost: terms.cost, gives: terms.gives });
  }
  return { ok: true, quote: { base, sales, total, gives: given, steps, inputs } };
}

type TermsResult =
  | { ok: true; terms: Terms }
  | { ok: false; why: 'zero-price' | 'gives-nothing' }
  | { ok: false; why: 'bad-formula'; problem: QuantityProblem };

function termsNow(
  economy: Economy,
  offer: Offer,
  choice: PriceChoice | undefined,
  price: QuantityBasket,
  scope: Scope,
  nowMs: number,
): TermsResult {
  const asked = quantitiesEvaluate(price, scope);
  const gift = quantitiesEvaluate(offer.gives, scope);
  if (!asked.ok) return { ok: false, why: 'bad-formula', problem: asked.problem };
  if (!gift.ok) return { ok: false, why: 'bad-formula', problem: gift.problem };
  const base = asked.basket;
  const sales = offer.sales.length === 0 ? NO_SALES : salesReduce(economy, salesRunning(offer, scope, nowMs), base);
  const cost = sales[0]?.price ?? base;
  // Free is written, not worked out: a price that comes to nothing is no price.
  if (choice?.kind === 'assets' && isNothing(cost)) return { ok: false, why: 'zero-price' };
  if (basketGivesNothing(economy, gift.basket)) return { ok: false, why: 'gives-nothing' };
  return { ok: true, terms: { base, sales, cost, gives: gift.basket } };
}

const failedAt = (failed: Extract<TermsResult, { ok: false }>, time: number): QuoteResult =>
  failed.why === 'bad-formula' ? failed : { ...failed, time };

const NO_PRICE: QuantityBasket = [];
const NO_SALES: Reduced[] = [];

function isNothing(basket: Readonly<Basket>): boolean {
  for (const asset in basket) if (basket[asset]! > 0) return false;
  return true;
}

/** Whether nothing at all arrives of a basket, once bundles are unpacked. */
export function basketGivesNothing(economy: Economy, gives: Readonly<Basket>): boolean {
  for (const asset in gives) {
    const item = economy.items.get(asset);
    if (gives[asset]! > 0 && (item?.kind !== 'bundle' || !isNothing(item.contents))) return false;
  }
  return true;
}

/** Whether a time's terms may depend on the ones before it. */
const looksBack = (price: QuantityBasket, { gives, sales }: Offer): boolean =>
  price.some(quantityLooksBack) ||
  gives.some(quantityLooksBack) ||
  sales.some(({ when }) => when !== undefined && formulaLooksBack(when));

const quantityLooksBack = (quantity: QuantityBasket[number]): boolean => {
  const formula = quantityFormula(quantity);
  return formula !== undefined && formulaLooksBack(formula);
};

const formulaLooksBack = ({ references }: Formula): boolean => references.length > 0;

function inputsOf(price: QuantityBasket, gives: QuantityBasket, scope: Scope): FormulaInput[] {
  if (!price.some(quantityFormula) && !gives.some(quantityFormula)) return [];
  const inputs = new Map<string, FormulaInput>();
  for (const quantities of [price, gives])
    for (const quantity of quantities)
      for (const input of quantityFormula(quantity)?.inputs(scope) ?? []) inputs.set(input.name, input);
  return [...inputs.values()];
}

/** A player as they will be after some of the times, for formulas. */
class After {
  readonly scope: Scope;
  private done = 0;
  private readonly moved = new Map<string, number>();

  constructor(
    private readonly economy: Economy,
    before: Scope,
    offer: string | undefined,
  ) {
    this.scope = {
      name: (name) => before.name(name),
      owned: (item) => before.owned(item) + this.by(item),
      balance: (currency) => {
        // Added up in smallest units: sums of fractions would not be what the balance will be.
        const scale = 10 ** (economy.currencies.get(currency)?.decimals ?? 0);
        return (Math.round(before.balance(currency) * scale) + this.by(currency)) / scale;
      },
      bought: (id) => before.bought(id) + (id === offer ? this.done : 0),
    };
  }

  private by(asset: string): number {
    return this.moved.get(asset) ?? 0;
  }

  pass({ cost, gives }: Step, times: number): void {
    const arrivals = basketArrivals(this.economy, gives);
    for (const asset in cost) this.moved.set(asset, this.by(asset) - times * cost[asset]!);
    for (const asset in arrivals) this.moved.set(asset, this.by(asset) + times * arrivals[asset]!);
    this.done += times;
  }
}

/** The first of the times at which a condition does not hold, from 1, with what it read then. */
export interface Unmet {
  time: number;
  inputs: FormulaInput[];
}

/** Asks a condition for each of the times as it will be by then; once where it does not look back. `offer`: the one bought. */
export function conditionUnmet(
  economy: Economy,
  offer: string | undefined,
  when: Formula | undefined,
  steps: readonly Step[],
  scope: Scope,
): Unmet | undefined {
  if (!when) return undefined;
  if (when.run(scope) !== true) return { time: 1, inputs: when.inputs(scope) };
  if (!formulaLooksBack(when)) return undefined;
  const after = new After(economy, scope, offer);
  let time = 1;
  for (const [at, step] of steps.entries())
    for (let one = 0; one < step.times; one++) {
      if (at === steps.length - 1 && one === step.times - 1) return undefined;
      after.pass(step, 1);
      time++;
      if (when.run(after.scope) !== true) return { time, inputs: when.inputs(after.scope) };
    }
  return undefined;
}

export interface Reach {
  /** What must be there before the first of the times, of what is paid. */
  needed: Basket;
  /** The most that there is more than before after any of them, of what arrives; below 0 where it only falls. */
  peak: Record<string, number>;
}

/** What several times ask for where one asset is both paid and given: each time pays before it receives. Linear in the steps. */
export function stepsReach(economy: Economy, steps: readonly Step[]): Reach {
  const needed: Basket = {};
  const peak: Record<string, number> = {};
  const moved: Record<string, number> = {};
  for (const { times, cost, gives } of steps) {
    const arrivals = basketArrivals(economy, gives);
    for (const asset in cost) {
      const by = (arrivals[asset] ?? 0) - cost[asset]!;
      const before = moved[asset] ?? 0;
      // It rises or falls by the same each time: what most is needed for is the first of them, or the last.
      needed[asset] = Math.max(needed[asset] ?? 0, cost[asset]! - before, cost[asset]! - before - (times - 1) * by);
      moved[asset] = before + times * by;
    }
    for (const asset in arrivals) {
      const by = arrivals[asset]! - (cost[asset] ?? 0);
      const before = asset in cost ? moved[asset]! - times * by : (moved[asset] ?? 0);
      peak[asset] = Math.max(peak[asset] ?? -Infinity, before + by, before + times * by);
      if (!(asset in cost)) moved[asset] = before + times * by;
    }
  }
  return { needed, peak };
}
