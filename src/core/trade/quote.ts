/** What an offer costs and gives for a player, for one or more times at once. */
import { basketAddAll, basketTimes, basketTimesOver } from '../amount/index.js';
import type { Basket } from '../amount/index.js';
import { choiceBasket, quantitiesEvaluate, quantitiesFixed, quantityFormula } from '../economy/index.js';
import type { Economy, Offer, PriceChoice, QuantityBasket, QuantityProblem, Sale } from '../economy/index.js';
import type { FormulaInput, Scope } from '../formula/index.js';
import { salesReduce, salesRunning } from './sale.js';
import type { Reduced } from './sale.js';

export interface Quote {
  /** The price of the first of the times, before any reduction. */
  base: Basket;
  /** The sales that lower it, the one that holds first. */
  sales: Reduced[];
  total: Basket;
  gives: Basket;
  inputs: FormulaInput[];
}
export type QuoteResult =
  | { ok: true; quote: Quote }
  /** By how much it passes the ceiling. */
  | { ok: false; why: 'too-large'; over: Basket }
  /** `time`: which of the times would cost nothing, from 1. */
  | { ok: false; why: 'zero-price'; time: number }
  | { ok: false; why: 'bad-formula'; problem: QuantityProblem };

/**
 * Buying several times at once costs exactly what buying one after the other would: where a formula looks at
 * what is owned, held or bought, each time sees the ones before it. Linear in `times` then, constant otherwise.
 */
export function quoteMake(
  economy: Economy,
  offer: Offer,
  choice: PriceChoice | undefined,
  times: number,
  scope: Scope,
  nowMs: number,
): QuoteResult {
  const price = choice ? choiceBasket(choice) : [];
  const priced = choice?.kind === 'assets';
  const running = offer.sales.length === 0 ? NO_SALES : salesRunning(offer, scope, nowMs);
  const base = quantitiesFixed(price);
  const given = quantitiesFixed(offer.gives);
  if (base && given) {
    const sales = salesReduce(economy, running, base);
    const charged = sales[0]?.price ?? base;
    if (priced && costsNothing(charged)) return { ok: false, why: 'zero-price', time: 1 };
    const total = basketTimes(charged, times);
    const gives = basketTimes(given, times);
    return total && gives
      ? { ok: true, quote: { base, sales, total, gives, inputs: [] } }
      : { ok: false, why: 'too-large', over: { ...basketTimesOver(charged, times), ...basketTimesOver(given, times) } };
  }
  return quoteStepwise(economy, offer, { price, priced }, times, scope, running);
}

/** Free is written, not worked out: a price that comes to nothing is no price. */
const costsNothing = (price: Readonly<Basket>): boolean => Object.values(price).every((units) => units === 0);

const NO_SALES: readonly Sale[] = [];

function quoteStepwise(
  economy: Economy,
  offer: Offer,
  { price, priced }: { price: QuantityBasket; priced: boolean },
  times: number,
  scope: Scope,
  running: readonly Sale[],
): QuoteResult {
  const total: Basket = {};
  const gives: Basket = {};
  let base: Basket | undefined;
  let sales: Reduced[] = [];
  for (let done = 0; done < times; done++) {
    const step = done === 0 ? scope : scopeAfter(economy, scope, offer.id, done, total, gives);
    const cost = quantitiesEvaluate(price, step);
    const gift = quantitiesEvaluate(offer.gives, step);
    if (!cost.ok) return { ok: false, why: 'bad-formula', problem: cost.problem };
    if (!gift.ok) return { ok: false, why: 'bad-formula', problem: gift.problem };
    const lower = running.length === 0 ? [] : salesReduce(economy, running, cost.basket);
    if (!base) {
      base = cost.basket;
      sales = lower;
    }
    const charged = lower[0]?.price ?? cost.basket;
    if (priced && costsNothing(charged)) return { ok: false, why: 'zero-price', time: done + 1 };
    const over = basketAddAll(total, charged) ?? basketAddAll(gives, gift.basket);
    if (over) return { ok: false, why: 'too-large', over };
  }
  const inputs = new Map<string, FormulaInput>();
  for (const quantity of [...price, ...offer.gives])
    for (const input of quantityFormula(quantity)?.inputs(scope) ?? []) inputs.set(input.name, input);
  return { ok: true, quote: { base: base ?? {}, sales, total, gives, inputs: [...inputs.values()] } };
}

/** The scope as it will be after `done` purchases that paid `paid` and gave `gained`. */
function scopeAfter(
  economy: Economy,
  scope: Scope,
  offer: string,
  done: number,
  paid: Readonly<Basket>,
  gained: Readonly<Basket>,
): Scope {
  const moved = (asset: string): number => (gained[asset] ?? 0) - (paid[asset] ?? 0);
  return {
    name: (name) => scope.name(name),
    owned: (item) => scope.owned(item) + moved(item),
    balance: (currency) =>
      scope.balance(currency) + moved(currency) / 10 ** (economy.currencies.get(currency)?.decimals ?? 0),
    bought: (id) => scope.bought(id) + (id === offer ? done : 0),
  };
}
