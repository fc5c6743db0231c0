/** What may stand against a purchase: each rule with the reason that it tells. */
import { MAX_UNITS, basketHolds, basketTimes, unitsOver } from '../amount/index.js';
import type { Basket } from '../amount/index.js';
import type { Economy, Offer, PriceChoice, Shop } from '../economy/index.js';
import type { Scope } from '../formula/index.js';
import { assetMost, playerSpendable } from '../player/index.js';
import type { Player } from '../player/index.js';
import { isOnShow, offerShownNextMs, shelfShown } from '../rotation/index.js';
import { levelReachesMs, openingChangesMs, openingIsOpen } from '../schedule/index.js';
import { anyText, finiteNumber, listOf } from '../schema/index.js';
import type { Quote, QuoteResult, Unmet } from './quote.js';
import { amounts, comesMs, count, formulaFields, nearest, units } from './reasonBlocks.js';
import type { ReasonTable, ReasonsOf } from './reasonBlocks.js';
import { MAX_TIMES } from './verdict.js';
import type { LimitLeft, PurchaseRequest, StockLeft } from './verdict.js';

/** What each code says; the rules below tell them. `unknown-offer` is told before there is anything to rule on. */
export const PURCHASE_REASONS = {
  'unknown-offer': { offer: anyText(), nearest: nearest() },
  'shop-closed': { shop: anyText(), opensMs: comesMs() },
  /** `time`: which of the times it stands against, from 1. */
  'not-for-this-player': { shop: anyText(), time: count(), ...formulaFields },
  'not-on-show': { offer: anyText(), fromMs: comesMs() },
  'no-price': { offer: anyText() },
  'zero-price': { offer: anyText(), time: count() },
  /** `id`: the offer, or the thing that is used or opened. */
  'gives-nothing': { id: anyText(), time: count() },
  'bad-formula': { where: anyText(), problem: anyText(), ...formulaFields },
  'requirement-unmet': { time: count(), ...formulaFields },
  'short-of': { asset: anyText(), needed: units(), held: units(), short: units(), refilledMs: comesMs() },
  'limit-reached': { period: anyText(), most: count(), used: count(), left: count(), resetsMs: comesMs() },
  'out-of-stock': { left: units(), wanted: count(), restocksMs: comesMs() },
  'carry-full': { item: anyText(), most: units(), held: units(), arriving: units() },
  'over-cap': { currency: anyText(), cap: units(), held: units(), arriving: units() },
  'price-changed': { expected: amounts(), actual: amounts() },
  'pay-choice-needed': { choices: listOf(anyText(), { most: 100, of: 'choices' }) },
  'receipt-needed': { money: amounts() },
  /** `over`: by how much amounts would pass the ceiling; none where it is the number of times. */
  'too-large': { times: finiteNumber(), most: count(), over: amounts() },
} as const satisfies ReasonTable;
export type PurchaseReason = ReasonsOf<typeof PURCHASE_REASONS>;

/** Everything a rule may look at. */
export interface Case {
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
  /** What must be there before the first of the times. */
  needed: Basket;
  /** The most that is held after any of the times. */
  highest: Record<string, number>;
  arrivals: Basket;
  /** Where the conditions of the shop and the offer do not hold. */
  shopUnmet: Unmet | undefined;
  offerUnmet: Unmet | undefined;
  limits: LimitLeft[];
  stock: StockLeft | null;
}
type Rule = (facts: Case) => PurchaseReason[];

/** Real money for all the times together; undefined where it is paid in the game. */
export const moneyOf = (choice: PriceChoice, times: number): Basket | undefined =>
  choice.kind === 'money' ? basketTimes(choice.amounts, times) : undefined;

/** What stands against dealing with a shop at all, whatever the deal. */
export function shopReasons(shop: Shop, unmet: Unmet | undefined, nowMs: number): PurchaseReason[] {
  const reasons: PurchaseReason[] = [];
  if (shop.hidden || !openingIsOpen(shop.opening, nowMs))
    reasons.push({
      code: 'shop-closed',
      shop: shop.id,
      opensMs: shop.hidden ? null : openingChangesMs(shop.opening, nowMs),
    });
  if (unmet) reasons.push({ code: 'not-for-this-player', shop: shop.id, formula: shop.when!.text, ...unmet });
  return reasons;
}

/** The order here is the order in which reasons are told. */
export const RULES: readonly Rule[] = [
  function shopServes({ offer: { shop }, shopUnmet, nowMs }) {
    return shopReasons(shop, shopUnmet, nowMs);
  },
  function notOnShow({ economy, player, offer, nowMs }) {
    if (offer.hidden || offer.shelf.hidden) return [{ code: 'not-on-show', offer: offer.id, fromMs: null }];
    if (!openingIsOpen(offer.opening, nowMs))
      return [{ code: 'not-on-show', offer: offer.id, fromMs: openingChangesMs(offer.opening, nowMs) }];
    return isOnShow(shelfShown(economy, offer.shelf, player.id, nowMs), offer.id)
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
  function zeroPrice({ offer, result }) {
    return !result.ok && result.why === 'zero-price'
      ? [{ code: 'zero-price', offer: offer.id, time: result.time }]
      : [];
  },
  function givesNothing({ offer, result }) {
    return !result.ok && result.why === 'gives-nothing'
      ? [{ code: 'gives-nothing', id: offer.id, time: result.time }]
      : [];
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
  function tooLarge({ times, result, quote, before, after, highest, arrivals }) {
    const counted = Number.isSafeInteger(times) && times >= 1 && times <= MAX_TIMES;
    const over = !result.ok && result.why === 'too-large' ? { ...result.over } : {};
    for (const asset in highest)
      if (highest[asset]! > MAX_UNITS)
        over[asset] = unitsOver(
          highest[asset] === after[asset]
            ? BigInt(before[asset]!) - BigInt(quote?.total[asset] ?? 0) + BigInt(arrivals[asset] ?? 0)
            : BigInt(highest[asset]!),
        );
    return counted && Object.keys(over).length === 0 ? [] : [{ code: 'too-large', times, most: MAX_TIMES, over }];
  },
  function requirementUnmet({ offer, offerUnmet }) {
    return offerUnmet ? [{ code: 'requirement-unmet', formula: offer.when!.text, ...offerUnmet }] : [];
  },
  function limitReached({ limits, times }) {
    return limits.filter(({ left }) => times > left).map((limit) => ({ code: 'limit-reached', ...limit }));
  },
  function outOfStock({ stock, times }) {
    return stock && times > stock.left
      ? [{ code: 'out-of-stock', left: stock.left, wanted: times, restocksMs: stock.restocksMs }]
      : [];
  },
  function shortOf({ economy, player, needed: all }) {
    return Object.keys(all).flatMap((asset): PurchaseReason[] => {
      const needed = all[asset]!;
      const held = playerSpendable(economy, player, asset);
      if (held >= needed) return [];
      const level = player.balances[asset];
      const refilledMs = (level && levelReachesMs(level, economy.currencies.get(asset)?.refill, needed)) ?? null;
      return [{ code: 'short-of', asset, needed, held, short: needed - held, refilledMs }];
    });
  },
  function carryFull({ economy, arrivals, before, highest }) {
    return Object.keys(arrivals)
      .filter((asset) => economy.items.has(asset) && highest[asset]! > assetMost(economy, asset))
      .map((item) => ({
        code: 'carry-full',
        item,
        most: assetMost(economy, item),
        held: before[item]!,
        arriving: arrivals[item]!,
      }));
  },
  function overCap({ economy, arrivals, before, highest }) {
    return Object.keys(arrivals)
      .filter(
        (asset) => economy.currencies.get(asset)?.cap !== undefined && highest[asset]! > assetMost(economy, asset),
      )
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
    // Less than was shown is charged and told: a sale that begins meanwhile refuses nobody.
    return request.expect && actual && !basketHolds(request.expect, actual)
      ? [{ code: 'price-changed', expected: request.expect, actual }]
      : [];
  },
];
