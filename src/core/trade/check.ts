/**
 * The one place that decides whether a purchase is allowed. The live service, dry runs, the storefront and
 * the simulator all call this function; it reads no clock and keeps nothing.
 */
import { basketEquals, basketHolds, basketOverlaps } from '../amount/index.js';
import type { Basket } from '../amount/index.js';
import type { Economy, Offer, PriceChoice } from '../economy/index.js';
import type { Scope } from '../formula/index.js';
import { nearestName } from '../issue/index.js';
import { basketArrivals, counterKey, playerHolds, playerScope, playerSettle } from '../player/index.js';
import type { Player } from '../player/index.js';
import { limitPeriod, limitUsed } from '../schedule/index.js';
import { promisesKept } from './promise.js';
import { conditionUnmet, quoteMake, stepsReach } from './quote.js';
import type { Quote } from './quote.js';
import { RULES, moneyOf } from './rules.js';
import type { Case, PurchaseReason } from './rules.js';
import { saleEndsMs } from './sale.js';
import type { Reduced } from './sale.js';
import type { Shared } from './shared.js';
import { stockLeft } from './stock.js';
import { MAX_TIMES } from './verdict.js';
import type { LimitLeft, PriceBreakdown, PurchaseRequest, SalePrice } from './verdict.js';
import type { Verdict } from './reasons.js';

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
  const verdict = checkNow(economy, player, shared, request, nowMs);
  if (verdict.allowed) return verdict;
  const reasons = promisesKept(verdict.reasons, (ms) => checkNow(economy, player, shared, request, ms).reasons);
  return { ...verdict, reasons };
}

/** The same with promises as they are made, whether or not they will hold. */
function checkNow(economy: Economy, player: Player, shared: Shared, request: PurchaseRequest, nowMs: number): Verdict {
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
  const steps = quote?.steps ?? [];
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
    ...holdings(economy, settled, choice ? quote : undefined, arrivals),
    shopUnmet: conditionUnmet(economy, offer.id, offer.shop.when, steps, scope),
    offerUnmet: conditionUnmet(economy, offer.id, offer.when, steps, scope),
    limits: limitsLeft(economy, settled, offer, nowMs),
    stock: stockLeft(settled, shared, offer, nowMs),
  };
  // Asked thousands of times a second: `flatMap` would take as long as all rules together.
  const reasons: PurchaseReason[] = [];
  for (const rule of RULES) reasons.push(...rule(facts));
  return {
    allowed: reasons.length === 0,
    reasons,
    offer: offer.id,
    name: offer.name,
    shop: offer.shop.id,
    times,
    atMs: nowMs,
    choices: totals(economy, offer, asked, scope, nowMs, choice, quote),
    price: quote && choice ? priceOf(choice, quote, asked, request.expect, nowMs) : null,
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
  const all: Verdict['choices'] = [];
  for (const choice of offer.prices ?? []) {
    if (choice === chosen) {
      if (quote) all.push(choiceTotal(choice, quote, times));
      continue;
    }
    const result = quoteMake(economy, offer, choice, times, scope, nowMs);
    if (result.ok) all.push(choiceTotal(choice, result.quote, times));
  }
  return all;
}

function choiceTotal(choice: PriceChoice, quote: Quote, times: number): Verdict['choices'][number] {
  const { pay } = choice;
  const { total, base, sales } = quote;
  const money = moneyOf(choice, times);
  return { pay, total, ...(money ? { money } : {}), ...(sales.length > 0 ? { before: base } : {}) };
}

function priceOf(
  choice: PriceChoice,
  quote: Quote,
  times: number,
  expected: Basket | undefined,
  nowMs: number,
): PriceBreakdown {
  const { pay } = choice;
  const { base, total, inputs, steps } = quote;
  const money = moneyOf(choice, times);
  const [sale, ...passedOver] = quote.sales.map((reduced) => salePrice(reduced, nowMs));
  return {
    pay,
    base,
    total,
    inputs,
    ...(steps.length > 1 ? { steps } : {}),
    ...(expected && basketHolds(expected, total) && !basketEquals(expected, total) ? { expected } : {}),
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

function holdings(
  economy: Economy,
  player: Player,
  quote: Quote | undefined,
  arrivals: Basket,
): Pick<Case, 'before' | 'after' | 'needed' | 'highest'> {
  const paid = quote?.total ?? {};
  const before: Record<string, number> = {};
  const after: Record<string, number> = {};
  for (const basket of [paid, arrivals])
    for (const asset in basket) before[asset] ??= playerHolds(economy, player, asset);
  for (const asset in before) after[asset] = before[asset]! - (paid[asset] ?? 0) + (arrivals[asset] ?? 0);
  if (!quote || !basketOverlaps(paid, arrivals)) return { before, after, needed: paid, highest: after };
  const { needed, peak } = stepsReach(economy, quote.steps);
  const highest = { ...after };
  for (const asset in peak) highest[asset] = before[asset]! + peak[asset]!;
  return { before, after, needed, highest };
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
