/**
 * The one place that decides whether a purchase is allowed. The live service, dry runs, the storefront and
 * the simulator all call this function; it reads no clock and keeps nothing.
 */
import { basketEquals, basketTimes } from '../amount/index.js';
import type { Basket } from '../amount/index.js';
import type { Economy, Offer, PriceChoice, Shop } from '../economy/index.js';
import type { Formula, Scope } from '../formula/index.js';
import { nearestName } from '../issue/index.js';
import {
  assetMost,
  basketArrivals,
  counterKey,
  playerHolds,
  playerScope,
  playerSettle,
  playerSpendable,
} from '../player/index.js';
import type { Player } from '../player/index.js';
import { offerShownNextMs, shelfShown } from '../rotation/index.js';
import { levelReachesMs, limitPeriod, limitUsed, openingChangesMs, openingIsOpen } from '../schedule/index.js';
import { quoteMake } from './quote.js';
import type { Quote, QuoteResult } from './quote.js';
import { saleEndsMs } from './sale.js';
import type { Reduced } from './sale.js';
import type { Shared } from './shared.js';
import { stockLeft } from './stock.js';
import { MAX_TIMES } from './verdict.js';
import type { LimitLeft, PriceBreakdown, PurchaseRequest, Reason, SalePrice, StockLeft, Verdict } from './verdict.js';

/** Everything a rule may look at. */
interface Case {
  economy: Economy;
  player: Player;
  request: PurchaseRequest;
  nowMs: number;
  offer: Offer;
  scope: Scope;
  times: number;
  /** The alternative in question; undefined where there is no price or no choice was made. */
  choice: PriceChoice | undefined;
  result: QuoteResult;
  quote: Quote | undefined;
  before: Record<string, number>;
  after: Record<string, number>;
  arrivals: Basket;
  limits: LimitLeft[];
  stock: StockLeft | null;
}
type Rule = (facts: Case) => Reason[];

/**
 * Checks a request for a player at an instant. All reasons that stand against it are listed, not the first.
 * Cost: constant for fixed prices, linear in `times` for prices that depend on what was bought before.
 */
export function purchaseCheck(
  economy: Economy,
  player: Player,
  shared: Shared,
  request: PurchaseRequest,
  nowMs: number,
): Verdict {
  const offer = economy.offers.get(request.offer);
  if (!offer) return unknownOffer(economy, request, nowMs);
  const settled = playerSettle(economy, player, nowMs).player;
  const scope = playerScope(economy, settled, nowMs);
  const times = request.times ?? 1;
  const asked = Number.isSafeInteger(times) && times >= 1 && times <= MAX_TIMES ? times : 1;
  const choices = offer.prices ?? [];
  const choice =
    request.pay === undefined
      ? choices.length === 1
        ? choices[0]
        : undefined
      : choices.find(({ pay }) => pay === request.pay);
  const result = quoteMake(economy, offer, choice, asked, scope, nowMs);
  const quote = result.ok ? result.quote : undefined;
  const arrivals = quote ? basketArrivals(economy, quote.gives) : {};
  const facts: Case = {
    economy,
    player: settled,
    request,
    nowMs,
    offer,
    scope,
    times,
    choice,
    result,
    quote,
    arrivals,
    ...holdings(economy, settled, choice ? (quote?.total ?? {}) : {}, arrivals),
    limits: limitsLeft(economy, settled, offer, nowMs),
    stock: stockLeft(settled, shared, offer, nowMs),
  };
  const reasons = RULES.flatMap((rule) => rule(facts));
  return {
    allowed: reasons.length === 0,
    reasons,
    offer: offer.id,
    name: offer.name,
    shop: offer.shop.id,
    times,
    atMs: nowMs,
    choices: totals(economy, offer, asked, scope, nowMs, choice, quote),
    price: quote && choice ? priceOf(choice, quote, asked, nowMs) : null,
    gives: quote?.gives ?? {},
    before: facts.before,
    after: facts.after,
    limits: facts.limits,
    stock: facts.stock,
  };
}

function totals(
  economy: Economy,
  offer: Offer,
  times: number,
  scope: Scope,
  nowMs: number,
  chosen: PriceChoice | undefined,
  quote: Quote | undefined,
): Verdict['choices'] {
  return (offer.prices ?? []).flatMap((choice) => {
    if (choice === chosen) return quote ? [choiceTotal(choice, quote, times)] : [];
    const result = quoteMake(economy, offer, choice, times, scope, nowMs);
    return result.ok ? [choiceTotal(choice, result.quote, times)] : [];
  });
}

/** Real money for all the times together; undefined where it is paid in the game. */
const moneyOf = (choice: PriceChoice, times: number): Basket | undefined =>
  choice.kind === 'money' ? basketTimes(choice.amounts, times) : undefined;

function choiceTotal(choice: PriceChoice, quote: Quote, times: number): Verdict['choices'][number] {
  const { pay } = choice;
  const { total, base, sales } = quote;
  const money = moneyOf(choice, times);
  return { pay, total, ...(money ? { money } : {}), ...(sales.length > 0 ? { before: base } : {}) };
}

function priceOf(choice: PriceChoice, quote: Quote, times: number, nowMs: number): PriceBreakdown {
  const { pay } = choice;
  const { base, total, inputs } = quote;
  const money = moneyOf(choice, times);
  const [sale, ...passedOver] = quote.sales.map((reduced) => salePrice(reduced, nowMs));
  return {
    pay,
    base,
    total,
    inputs,
    ...(money ? { money } : {}),
    ...(sale ? { sale } : {}),
    ...(passedOver.length > 0 ? { passedOver } : {}),
  };
}

const salePrice = ({ sale, price }: Reduced, nowMs: number): SalePrice => ({
  id: sale.id,
  name: sale.name,
  price,
  endsMs: saleEndsMs(sale, nowMs),
});

function unknownOffer(economy: Economy, request: PurchaseRequest, nowMs: number): Verdict {
  const nearest = nearestName(request.offer, economy.offers.keys()) ?? null;
  return {
    allowed: false,
    reasons: [{ code: 'unknown-offer', offer: request.offer, nearest }],
    offer: request.offer,
    name: request.offer,
    shop: '',
    times: request.times ?? 1,
    atMs: nowMs,
    choices: [],
    price: null,
    gives: {},
    before: {},
    after: {},
    limits: [],
    stock: null,
  };
}

function holdings(economy: Economy, player: Player, paid: Basket, arrivals: Basket): Pick<Case, 'before' | 'after'> {
  const before: Record<string, number> = {};
  const after: Record<string, number> = {};
  for (const basket of [paid, arrivals])
    for (const asset in basket) before[asset] ??= playerHolds(economy, player, asset);
  for (const asset in before) after[asset] = before[asset]! - (paid[asset] ?? 0) + (arrivals[asset] ?? 0);
  return { before, after };
}

function limitsLeft(economy: Economy, player: Player, offer: Offer, nowMs: number): LimitLeft[] {
  return offer.limits.map((limit) => {
    const counter = player.counters[counterKey.offer(offer.id, limit.period)];
    const used = limitUsed(limit, counter, economy.zone, nowMs);
    const { endMs } = limitPeriod(limit, counter, economy.zone, nowMs);
    const running = limit.span.kind !== 'duration' || used > 0;
    return {
      period: limit.period,
      most: limit.most,
      used,
      left: Math.max(0, limit.most - used),
      resetsMs: Number.isFinite(endMs) && running ? endMs : null,
    };
  });
}

const holds = (formula: Formula | undefined, scope: Scope): boolean =>
  formula === undefined || formula.run(scope) === true;

/** What stands against dealing with a shop at all, whatever the deal. */
export function shopReasons(shop: Shop, scope: Scope, nowMs: number): Reason[] {
  const reasons: Reason[] = [];
  if (shop.hidden || !openingIsOpen(shop.opening, nowMs))
    reasons.push({
      code: 'shop-closed',
      shop: shop.id,
      opensMs: shop.hidden ? null : openingChangesMs(shop.opening, nowMs),
    });
  if (!holds(shop.when, scope))
    reasons.push({
      code: 'not-for-this-player',
      shop: shop.id,
      formula: shop.when!.text,
      inputs: shop.when!.inputs(scope),
    });
  return reasons;
}

/** The order here is the order in which reasons are told. */
const RULES: readonly Rule[] = [
  function shopServes({ offer: { shop }, scope, nowMs }) {
    return shopReasons(shop, scope, nowMs);
  },
  function notOnShow({ economy, player, offer, nowMs }) {
    if (offer.hidden || offer.shelf.hidden) return [{ code: 'not-on-show', offer: offer.id, fromMs: null }];
    if (!openingIsOpen(offer.opening, nowMs))
      return [{ code: 'not-on-show', offer: offer.id, fromMs: openingChangesMs(offer.opening, nowMs) }];
    const shown = shelfShown(economy, offer.shelf, player.id, nowMs);
    return !shown || shown.offers.includes(offer.id)
      ? []
      : [
          {
            code: 'not-on-show',
            offer: offer.id,
            fromMs: offerShownNextMs(economy, offer.shelf, offer.id, player.id, nowMs),
          },
        ];
  },
  function noPrice({ offer }) {
    return offer.prices === undefined ? [{ code: 'no-price', offer: offer.id }] : [];
  },
  function payChoiceNeeded({ offer, choice }) {
    return offer.prices !== undefined && choice === undefined
      ? [{ code: 'pay-choice-needed', choices: offer.prices.map(({ pay }) => pay) }]
      : [];
  },
  function receiptNeeded({ choice, times }) {
    const money = choice && moneyOf(choice, times);
    return money ? [{ code: 'receipt-needed', money }] : [];
  },
  function badFormula({ result, offer }) {
    if (result.ok || result.why !== 'bad-formula') return [];
    const { formula, inputs, message } = result.problem;
    return [{ code: 'bad-formula', where: offer.id, formula, problem: message, inputs }];
  },
  function tooLarge({ times, result, after }) {
    const counted = Number.isSafeInteger(times) && times >= 1 && times <= MAX_TIMES;
    const fits =
      (result.ok || result.why !== 'too-large') &&
      Object.values(after).every((units) => units <= Number.MAX_SAFE_INTEGER);
    return counted && fits ? [] : [{ code: 'too-large', times, most: MAX_TIMES }];
  },
  function requirementUnmet({ offer, scope }) {
    return holds(offer.when, scope)
      ? []
      : [{ code: 'requirement-unmet', formula: offer.when!.text, inputs: offer.when!.inputs(scope) }];
  },
  function limitReached({ limits, times }) {
    return limits.filter(({ left }) => times > left).map((limit) => ({ code: 'limit-reached', ...limit }));
  },
  function outOfStock({ stock, times }) {
    return stock && times > stock.left
      ? [{ code: 'out-of-stock', left: stock.left, wanted: times, restocksMs: stock.restocksMs }]
      : [];
  },
  function shortOf({ economy, player, choice, quote }) {
    const total = choice && quote ? quote.total : {};
    return Object.keys(total).flatMap((asset): Reason[] => {
      const needed = total[asset]!;
      const held = playerSpendable(economy, player, asset);
      if (held >= needed) return [];
      const level = player.balances[asset];
      const refilledMs = (level && levelReachesMs(level, economy.currencies.get(asset)?.refill, needed)) ?? null;
      return [{ code: 'short-of', asset, needed, held, short: needed - held, refilledMs }];
    });
  },
  function carryFull({ economy, arrivals, before, after }) {
    return Object.keys(arrivals)
      .filter((asset) => economy.items.has(asset) && after[asset]! > assetMost(economy, asset))
      .map((item) => ({
        code: 'carry-full',
        item,
        most: assetMost(economy, item),
        held: before[item]!,
        arriving: arrivals[item]!,
      }));
  },
  function overCap({ economy, arrivals, before, after }) {
    return Object.keys(arrivals)
      .filter((asset) => economy.currencies.get(asset)?.cap !== undefined && after[asset]! > assetMost(economy, asset))
      .map((currency) => ({
        code: 'over-cap',
        currency,
        cap: assetMost(economy, currency),
        held: before[currency]!,
        arriving: arrivals[currency]!,
      }));
  },
  function priceChanged({ request, choice, quote }) {
    const actual = choice && quote?.total;
    return request.expect && actual && !basketEquals(request.expect, actual)
      ? [{ code: 'price-changed', expected: request.expect, actual }]
      : [];
  },
];
