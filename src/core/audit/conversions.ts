/** Everything in an economy that turns some assets into others, as one list: what money loops are made of. */
import { basketHolds } from '../amount/index.js';
import type { Basket } from '../amount/index.js';
import { amountText, basketText, economyLabels } from '../texts/index.js';
import { itemOnUse, itemTurns, quantitiesEvaluate, quantityFormula } from '../economy/index.js';
import type { Currency, Economy, Item, Offer, PriceChoice, QuantityBasket, Sale, Shop } from '../economy/index.js';
import type { Formula } from '../formula/index.js';
import { boxOdds } from '../loot/index.js';
import { basketArrivals, paidParts } from '../player/index.js';
import { openingIsOpen } from '../schedule/index.js';
import { buybackTakes, buybackUnit, salesReduce, tillNames } from '../trade/index.js';
import type { Conversion } from './conversion.js';
import { offerIsHidden, offerPointer } from './finding.js';
import type { Probes } from './probes.js';
import { differentConversions, rewardConversions, summed } from './rewards.js';
import type { Doing } from './rewards.js';

const listed = (basket: Readonly<Basket>): [string, number][] =>
  Object.entries(basket).filter(([, units]) => units > 0);

/**
 * All that can ever be done: purchases at each price that holds for someone at some time, selling back, using and
 * opening, and what currencies turn into when they end. Linear in the economy for formulas of a fixed number of inputs.
 */
export function economyConversions(economy: Economy, probes: Probes): Conversion[] {
  const shops = [...economy.shops.values()].filter(({ hidden }) => !hidden);
  const items = [...economy.items.values()];
  const purchases = [...economy.offers.values()]
    .filter((offer) => !offerIsHidden(offer))
    .flatMap((offer) =>
      (offer.prices ?? []).flatMap((price) => purchaseConversions(economy, offer, price, probes, shops)),
    );
  const all = [
    ...purchases,
    ...differentConversions(economy, purchases, probes.newPlayer),
    ...shops.flatMap((shop) => items.flatMap((item) => buybackConversions(economy, shop, item))),
    ...items.flatMap((item) => turnConversions(economy, item, probes)),
    ...economy.endingCurrencies.flatMap((currency) => endConversions(economy, currency)),
  ];
  return all.map(netted);
}

/**
 * What is both taken and given counts by the difference, since it need only be there at the beginning. What would then
 * take nothing stays as it is.
 */
function netted(conversion: Conversion): Conversion {
  const { takes, gives } = conversion;
  const given = new Map(gives);
  const both = takes.filter(([asset]) => given.has(asset));
  if (both.length === 0) return conversion;
  const less = takes.flatMap(([asset, units]): [string, number][] =>
    units > (given.get(asset) ?? 0) ? [[asset, units - (given.get(asset) ?? 0)]] : [],
  );
  if (less.length === 0) return conversion;
  const taken = new Map(takes);
  const more = gives.flatMap(([asset, units]): [string, number][] =>
    units > (taken.get(asset) ?? 0) ? [[asset, units - (taken.get(asset) ?? 0)]] : [],
  );
  return { ...conversion, takes: less, gives: more };
}

/** Those that can be done at an instant. */
export const conversionsAt = (conversions: readonly Conversion[], nowMs: number): Conversion[] =>
  conversions.filter(({ opens }) => opens.every((opening) => openingIsOpen(opening, nowMs)));

/** What one time of an offer may cost and give, for whom and when. */
interface Terms extends Pick<Conversion, 'takes' | 'gives' | 'opens' | 'limits'> {
  cost: Basket;
  gift: Basket;
  /** The sale that lowers it, in words. */
  by: string;
}

function purchaseConversions(
  economy: Economy,
  offer: Offer,
  price: PriceChoice,
  probes: Probes,
  shops: readonly Shop[],
): Conversion[] {
  if (price.kind !== 'assets') return [];
  return best(offerTerms(economy, offer, price.basket, probes)).flatMap(({ cost, gift, by, ...terms }) => {
    const bought: Conversion = {
      ...terms,
      words: `buy ${offer.name} at ${offer.shop.name} for ${basketText(economyLabels(economy), cost)}${by}`,
      pointer: offerPointer(offer),
      limits: [...offerLimits(offer), ...terms.limits],
      chance: false,
      buys: true,
      rewards: [],
    };
    const arrivals = basketArrivals(economy, gift);
    const doing: Doing = { offer, cost, arrived: arrivals, earned: {}, sets: [] };
    return [
      bought,
      ...backForPaid(economy, bought, cost, arrivals, shops),
      ...rewardConversions(economy, bought, doing, probes.newPlayer),
    ];
  });
}

/** At full price and under each sale, for every player whom a formula may tell apart. */
function offerTerms(economy: Economy, offer: Offer, price: QuantityBasket, probes: Probes): Terms[] {
  return probes.byAll(offer, [...price, ...offer.gives]).flatMap(({ scope, words }) => {
    const full = quantitiesEvaluate(price, scope);
    const gift = quantitiesEvaluate(offer.gives, scope);
    if (!full.ok || !gift.ok) return [];
    const only = words.map((word) => `${offer.name}: only while ${word}`);
    const gives = listed(basketArrivals(economy, gift.basket));
    const terms = (cost: Basket, sale?: Sale): Terms[] =>
      listed(cost).length === 0 || gives.length === 0
        ? []
        : [
            {
              cost,
              gift: gift.basket,
              takes: listed(cost),
              gives,
              limits: sale ? [...only, saleLimit(offer, sale)] : only,
              opens: [offer.shop.opening, offer.opening, ...(sale ? [sale.opening] : [])],
              by: sale ? ` (${sale.name})` : '',
            },
          ];
    // Whom a sale is for does not matter here: someone it is for can go round.
    const lowered = salesReduce(economy, offer.sales, full.basket);
    return [...terms(full.basket), ...lowered.flatMap(({ sale, price: cost }) => terms(cost, sale))];
  });
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

/** More ways to sell parts of one purchase back, some here and some there, are not looked at. */
const MOST_WAYS = 64;

/** Buying and selling parts of it back for a part of what was paid: one step, since what it pays depends on that very purchase. */
function backForPaid(
  economy: Economy,
  bought: Conversion,
  cost: Basket,
  arrivals: Basket,
  shops: readonly Shop[],
): Conversion[] {
  const paid = paidParts(economy, cost, arrivals);
  const options = listed(arrivals).map(([asset, units]) => {
    const item = economy.items.get(asset);
    const keep = { shop: undefined as Shop | undefined, asset, gives: [[asset, units]] as [string, number][] };
    const sold = shops.flatMap((shop) => {
      if (!item || !takesBack(shop, item) || shop.buyback!.of !== 'paid') return [];
      const unit = buybackUnit(shop.buyback!, item, paid[asset] ?? null);
      const gives = listed(unit).map(([id, each]): [string, number] => [id, each * units]);
      return gives.length > 0 && tillNames(shop, unit) ? [{ shop, asset, gives }] : [];
    });
    return [keep, ...sold];
  });
  const count = options.reduce((product, { length }) => product * length, 1);
  const ways =
    count <= MOST_WAYS
      ? options.reduce<(typeof options)[number][]>(
          (all, some) => all.flatMap((way) => some.map((one) => [...way, one])),
          [[]],
        )
      : shops.map((shop) => options.map((some) => some.find((one) => one.shop === shop) ?? some[0]!));
  return ways.flatMap((way) => {
    const sold = way.filter(({ shop }) => shop !== undefined);
    if (sold.length === 0) return [];
    const names = [...new Set(sold.map(({ shop }) => shop!.name))].join(' and ');
    const what = options.length === 1 ? 'it' : sold.map(({ asset }) => economy.items.get(asset)!.name).join(' and ');
    return [
      {
        ...bought,
        words: `${bought.words}, sell ${what} back at ${names} for a part of that`,
        gives: summed(way.flatMap(({ gives }) => gives)),
        limits: [...bought.limits, ...new Set(sold.flatMap(({ shop }) => tillLimits(shop!)))],
        opens: [...bought.opens, ...sold.map(({ shop }) => shop!.opening)],
      },
    ];
  });
}

const takesBack = (shop: Shop, item: Item): boolean =>
  shop.buyback !== undefined && item.sellable && buybackTakes(shop.buyback, item);

function buybackConversions(economy: Economy, shop: Shop, item: Item): Conversion[] {
  if (!takesBack(shop, item) || shop.buyback!.of !== 'worth') return [];
  const unit = buybackUnit(shop.buyback!, item, null);
  if (listed(unit).length === 0 || !tillNames(shop, unit)) return [];
  return [
    {
      words: `sell ${item.name} back at ${shop.name} for ${basketText(economyLabels(economy), unit)}`,
      pointer: `/shops/${shop.id}/buyback`,
      takes: [[item.id, 1]],
      gives: listed(unit),
      limits: tillLimits(shop),
      chance: false,
      buys: false,
      rewards: [],
      opens: [shop.opening],
    },
  ];
}

/**
 * What using or opening a piece turns it into, where it goes by that, for every player whom its formulas may tell apart:
 * what stays gives no circle of its own.
 */
function turnConversions(economy: Economy, item: Item, probes: Probes): Conversion[] {
  return itemTurns(item).flatMap((turn) => {
    const { act, field, gives, loot, needs, times } = turn;
    if (act === 'unpack' || times === Infinity) return [];
    const formulas = [
      ...gives.flatMap((quantity) => quantityFormula(quantity) ?? []),
      ...(loot === undefined ? [] : tableConditions(economy, loot)),
    ];
    const known = new Set<string>();
    return probes.byFormulas(formulas).flatMap(({ scope, words }) => {
      const gift = quantitiesEvaluate(gives, scope);
      if (!gift.ok) return [];
      const drawn =
        loot === undefined
          ? ''
          : tableConditions(economy, loot)
              .map((when) => when.run(scope))
              .join();
      const key = `${JSON.stringify(gift.basket)} ${drawn}`;
      if (known.has(key)) return [];
      known.add(key);
      const each: [string, number][] =
        loot === undefined
          ? listed(basketArrivals(economy, gift.basket))
          : boxOdds(economy, { id: item.id, name: item.name, gives: gift.basket, loot }, scope).assets.map(
              ({ asset, longRunExpected }) => [asset, longRunExpected],
            );
      const conversion: Conversion = {
        words: `${act} ${item.name}`,
        pointer: `/items/${item.id}${loot === undefined ? `/${field}` : ''}`,
        takes: [[item.id, 1], ...(needs && !needs.keeps ? [[needs.item, 1] as [string, number]] : [])],
        gives: each.flatMap(([asset, units]): [string, number][] => (units > 0 ? [[asset, units * times]] : [])),
        limits: words.map((word) => `${item.name}: only while ${word}`),
        chance: loot !== undefined,
        buys: false,
        opens: [],
        rewards: [],
      };
      const came = Object.fromEntries(conversion.gives);
      const doing: Doing = {
        offer: undefined,
        cost: {},
        arrived: came,
        earned: came,
        sets: itemOnUse(item)?.set ?? [],
      };
      return [
        ...(conversion.gives.length > 0 ? [conversion] : []),
        ...rewardConversions(economy, conversion, doing, probes.newPlayer),
      ];
    });
  });
}

/** Conditions of entries of a table and of those in it. */
function tableConditions(economy: Economy, id: string): Formula[] {
  return (economy.loot.get(id)?.entries ?? []).flatMap(({ when, table }) => [
    ...(when ? [when] : []),
    ...(table === undefined ? [] : tableConditions(economy, table)),
  ]);
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
      rewards: [],
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
