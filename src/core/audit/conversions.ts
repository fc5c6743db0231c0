/** Everything in an economy that turns some assets into others, as one list: what money loops are made of. */
import { basketHolds } from '../amount/index.js';
import type { Basket } from '../amount/index.js';
import { amountText, basketText, economyLabels } from '../texts/index.js';
import { itemTurns, quantitiesEvaluate } from '../economy/index.js';
import type { Currency, Economy, Item, Offer, PriceChoice, Sale, Shop } from '../economy/index.js';
import type { Scope } from '../formula/index.js';
import { boxOdds } from '../loot/index.js';
import { basketArrivals } from '../player/index.js';
import { openingIsOpen } from '../schedule/index.js';
import type { Opening } from '../schedule/index.js';
import { buybackTakes, buybackUnit, salesReduce } from '../trade/index.js';
import { offerIsHidden, offerPointer } from './finding.js';
import type { Probes } from './probes.js';

/** `takes` and `gives` in smallest units for one time; `gives` of a box is what it gives on average. */
export interface Conversion {
  words: string;
  pointer: string;
  takes: readonly [string, number][];
  gives: readonly [string, number][];
  /** What keeps it from being done without end, in words. */
  limits: string[];
  /** By chance, so that it pays only on average. */
  chance: boolean;
  /** A purchase: what it takes is money of a kind, so a circle may begin with it. */
  buys: boolean;
  /** It can be done while all of these are open. */
  opens: readonly Opening[];
}

const listed = (basket: Readonly<Basket>): [string, number][] =>
  Object.entries(basket).filter(([, units]) => units > 0);

/**
 * All that can ever be done: purchases at each price that holds for someone at some time, selling back, using and
 * opening, and what currencies turn into when they end. Linear in the economy for formulas of a fixed number of inputs.
 */
export function economyConversions(economy: Economy, probes: Probes): Conversion[] {
  const shops = [...economy.shops.values()].filter(({ hidden }) => !hidden);
  const items = [...economy.items.values()];
  return [
    ...[...economy.offers.values()]
      .filter((offer) => !offerIsHidden(offer))
      .flatMap((offer) =>
        (offer.prices ?? []).flatMap((price) => purchaseConversions(economy, offer, price, probes, shops)),
      ),
    ...shops.flatMap((shop) => items.flatMap((item) => buybackConversions(economy, shop, item))),
    ...items.flatMap((item) => turnConversions(economy, item, probes.newPlayer)),
    ...economy.endingCurrencies.flatMap((currency) => endConversions(economy, currency)),
  ];
}

/** Those that can be done at an instant. */
export const conversionsAt = (conversions: readonly Conversion[], nowMs: number): Conversion[] =>
  conversions.filter(({ opens }) => opens.every((opening) => openingIsOpen(opening, nowMs)));

function purchaseConversions(
  economy: Economy,
  offer: Offer,
  price: PriceChoice,
  probes: Probes,
  shops: readonly Shop[],
): Conversion[] {
  if (price.kind !== 'assets') return [];
  const made = probes.byAll(offer, [...price.basket, ...offer.gives]).flatMap(({ scope, words }) => {
    const full = quantitiesEvaluate(price.basket, scope);
    const gift = quantitiesEvaluate(offer.gives, scope);
    if (!full.ok || !gift.ok) return [];
    const only = words.map((word) => `${offer.name}: only while ${word}`);
    // Whom a sale is for does not matter here: someone it is for can go round.
    const lowered = salesReduce(economy, offer.sales, full.basket).map(({ sale, price: cost }) => ({
      cost,
      opens: [sale.opening],
      limits: [...only, saleLimit(offer, sale)],
      by: ` (${sale.name})`,
    }));
    return [{ cost: full.basket, opens: [], limits: only, by: '' }, ...lowered].flatMap(({ cost, opens, limits, by }) =>
      listed(cost).length === 0
        ? []
        : [
            {
              cost,
              gift: gift.basket,
              words: `buy ${offer.name} at ${offer.shop.name} for ${basketText(economyLabels(economy), cost)}${by}`,
              pointer: offerPointer(offer),
              takes: listed(cost),
              gives: listed(basketArrivals(economy, gift.basket)),
              limits: [...offerLimits(offer), ...limits],
              chance: false,
              buys: true,
              opens: [offer.shop.opening, offer.opening, ...opens],
            },
          ],
    );
  });
  return best(made).flatMap(({ cost, gift, ...bought }) => [
    bought,
    ...shops.flatMap((shop) => backForPaid(economy, bought, cost, gift, shop)),
  ]);
}

/** Without those that take as much or more and give as much or less than another that can be done at the same times. */
function best<C extends Pick<Conversion, 'takes' | 'gives' | 'opens'>>(conversions: readonly C[]): C[] {
  if (conversions.length < 2) return [...conversions];
  const kept: C[] = [];
  const beats = (one: C, other: C): boolean =>
    one.opens.every((opening) => other.opens.includes(opening)) &&
    basketHolds(Object.fromEntries(other.takes), Object.fromEntries(one.takes)) &&
    basketHolds(Object.fromEntries(one.gives), Object.fromEntries(other.gives));
  for (const one of conversions) {
    if (kept.some((other) => beats(other, one))) continue;
    for (let index = kept.length - 1; index >= 0; index--) if (beats(one, kept[index]!)) kept.splice(index, 1);
    kept.push(one);
  }
  return kept;
}

const saleLimit = (offer: Offer, { name, when }: Sale): string =>
  `${offer.name}: only while ${name} runs${when ? `, and only if ${when.text.slice(1).trim()}` : ''}`;

/** Buying and selling back for a part of what was paid: one step, since what it pays depends on that very purchase. */
function backForPaid(economy: Economy, bought: Conversion, cost: Basket, gift: Basket, shop: Shop): Conversion[] {
  const [asset, ...others] = Object.keys(gift);
  const item = economy.items.get(asset ?? '');
  if (!item || others.length > 0 || !takesBack(shop, item) || shop.buyback!.of !== 'paid') return [];
  const paid = Object.fromEntries(Object.entries(cost).map(([id, units]) => [id, Math.floor(units / gift[asset!]!)]));
  const unit = buybackUnit(shop.buyback!, item, paid);
  const gives = listed(unit).map(([id, units]): [string, number] => [id, units * gift[asset!]!]);
  const words = `${bought.words}, sell it back at ${shop.name} for a part of that`;
  return gives.length === 0
    ? []
    : [
        {
          ...bought,
          words,
          gives,
          limits: [...bought.limits, ...tillLimits(shop)],
          opens: [...bought.opens, shop.opening],
        },
      ];
}

const takesBack = (shop: Shop, item: Item): boolean =>
  shop.buyback !== undefined && item.sellable && buybackTakes(shop.buyback, item);

function buybackConversions(economy: Economy, shop: Shop, item: Item): Conversion[] {
  if (!takesBack(shop, item) || shop.buyback!.of !== 'worth') return [];
  const unit = buybackUnit(shop.buyback!, item, null);
  if (listed(unit).length === 0) return [];
  return [
    {
      words: `sell ${item.name} back at ${shop.name} for ${basketText(economyLabels(economy), unit)}`,
      pointer: `/shops/${shop.id}/buyback`,
      takes: [[item.id, 1]],
      gives: listed(unit),
      limits: tillLimits(shop),
      chance: false,
      buys: false,
      opens: [shop.opening],
    },
  ];
}

/** What using or opening a piece turns it into, where it goes by that: what stays gives no circle of its own. */
function turnConversions(economy: Economy, item: Item, scope: Scope): Conversion[] {
  return itemTurns(item).flatMap(({ act, field, gives, loot, needs, times }) => {
    const gift = quantitiesEvaluate(gives, scope);
    if (act === 'unpack' || times === Infinity || !gift.ok) return [];
    const each: [string, number][] =
      loot === undefined
        ? listed(basketArrivals(economy, gift.basket))
        : boxOdds(economy, { id: item.id, name: item.name, gives: gift.basket, loot }, scope).assets.map(
            ({ asset, longRunExpected }) => [asset, longRunExpected],
          );
    if (each.length === 0) return [];
    return [
      {
        words: `${act} ${item.name}`,
        pointer: `/items/${item.id}${loot === undefined ? `/${field}` : ''}`,
        takes: [[item.id, 1], ...(needs && !needs.keeps ? [[needs.item, 1] as [string, number]] : [])],
        gives: each.flatMap(([asset, units]): [string, number][] => (units > 0 ? [[asset, units * times]] : [])),
        limits: [],
        chance: loot !== undefined,
        buys: false,
        opens: [],
      },
    ];
  });
}

/** What is held of a currency when it ends: as if a shop bought it back at that instant. */
function endConversions(economy: Economy, { id, name, ends }: Currency): Conversion[] {
  if (ends?.into === undefined) return [];
  const { atMs, into, numerator, denominator } = ends;
  const gives = Number(numerator) / Number(denominator);
  if (gives === 0) return [];
  return [
    {
      words: `keep ${name} until they end, for ${amountText(economyLabels(economy), into, Number(gives.toFixed(4)))} each`,
      pointer: `/currencies/${id}/ends`,
      takes: [[id, 1]],
      gives: [[into, gives]],
      limits: [`${name}: once, at their end`],
      chance: false,
      buys: false,
      opens: [{ fromMs: atMs, untilMs: atMs + 1, recurrences: [] }],
    },
  ];
}

function offerLimits({ name, limits, stock, when, shelf }: Offer): string[] {
  const per = (period: string) => (period === 'lifetime' ? 'ever' : `per ${period}`);
  return [
    ...limits.map(({ period, most }) => `${name}: ${most} ${per(period)}`),
    ...(stock ? [`${name}: ${stock.units} in stock${stock.restock ? ', restocked' : ''}`] : []),
    ...(when ? [`${name}: only if ${when.text.slice(1).trim()}`] : []),
    ...(shelf.rotation ? [`${name}: only while it is on show`] : []),
  ];
}

const tillLimits = (shop: Shop): string[] => (shop.till ? [`${shop.name}: what its till holds`] : []);
