/** Everything in an economy that turns some assets into others, as one list: what money loops are made of. */
import type { Basket } from '../amount/index.js';
import { basketText, economyLabels } from '../texts/index.js';
import { itemTurns, quantitiesEvaluate } from '../economy/index.js';
import type { Economy, Item, Offer, PriceChoice, Shop } from '../economy/index.js';
import type { Scope } from '../formula/index.js';
import { boxOdds } from '../loot/index.js';
import { basketArrivals, playerCreate, playerScope } from '../player/index.js';
import { openingIsOpen } from '../schedule/index.js';
import { buybackTakes, buybackUnit, salesReduce, salesRunning } from '../trade/index.js';
import { offerIsHidden, offerPointer } from './finding.js';

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
  /** Of a purchase on a shelf that rotates: only so many of its offers are on show together. */
  rotates?: { key: string; show: number; offer: string } | undefined;
}

/**
 * What can be done at an instant, at the prices that hold then. Prices and gifts that are formulas are taken as they
 * are for a new player. Linear in the economy.
 */
export function economyConversions(economy: Economy, nowMs: number): Conversion[] {
  const scope = playerScope(economy, playerCreate(economy, 'new_player', 'New player', 0).player, 0);
  const shops = [...economy.shops.values()].filter(({ hidden, opening }) => !hidden && openingIsOpen(opening, nowMs));
  const offers = [...economy.offers.values()].filter(
    (offer) => !offerIsHidden(offer) && openingIsOpen(offer.shop.opening, nowMs) && openingIsOpen(offer.opening, nowMs),
  );
  return [
    ...offers.flatMap((offer) =>
      (offer.prices ?? []).flatMap((price) => purchaseConversions(economy, offer, price, scope, shops, nowMs)),
    ),
    ...shops.flatMap((shop) => [...economy.items.values()].flatMap((item) => buybackConversions(economy, shop, item))),
    ...[...economy.items.values()].flatMap((item) => turnConversions(economy, item, scope)),
  ];
}

const listed = (basket: Readonly<Basket>): [string, number][] =>
  Object.entries(basket).filter(([, units]) => units > 0);

function purchaseConversions(
  economy: Economy,
  offer: Offer,
  price: PriceChoice,
  scope: Scope,
  shops: readonly Shop[],
  nowMs: number,
): Conversion[] {
  if (price.kind !== 'assets') return [];
  const full = quantitiesEvaluate(price.basket, scope);
  const [best] = full.ok ? salesReduce(economy, salesRunning(offer, scope, nowMs), full.basket) : [];
  const cost = best ? { ok: true as const, basket: best.price } : full;
  const gift = quantitiesEvaluate(offer.gives, scope);
  if (!cost.ok || !gift.ok || listed(cost.basket).length === 0) return [];
  const words = `buy ${offer.name} at ${offer.shop.name} for ${basketText(economyLabels(economy), cost.basket)}${best ? ` (${best.sale.name})` : ''}`;
  const bought = {
    words,
    pointer: offerPointer(offer),
    takes: listed(cost.basket),
    gives: listed(basketArrivals(economy, gift.basket)),
    limits: [...offerLimits(offer), ...(best ? [`${offer.name}: only while ${best.sale.name} runs`] : [])],
    chance: false,
    buys: true,
    rotates: offer.shelf.rotation && {
      key: offer.shelf.rotation.key,
      show: offer.shelf.rotation.show,
      offer: offer.id,
    },
  };
  return [bought, ...shops.flatMap((shop) => backForPaid(economy, bought, cost.basket, gift.basket, shop))];
}

/** Buying and selling back for a part of what was paid: one step, since what it pays depends on that very purchase. */
function backForPaid(economy: Economy, bought: Conversion, cost: Basket, gift: Basket, shop: Shop): Conversion[] {
  const [asset, ...others] = Object.keys(gift);
  const item = economy.items.get(asset ?? '');
  if (!item || others.length > 0 || !takesBack(shop, item) || shop.buyback!.of !== 'paid') return [];
  const paid = Object.fromEntries(Object.entries(cost).map(([id, units]) => [id, Math.floor(units / gift[asset!]!)]));
  const unit = buybackUnit(shop.buyback!, item, paid);
  const gives = listed(unit).map(([id, units]): [string, number] => [id, units * gift[asset!]!]);
  const words = `${bought.words}, sell it back at ${shop.name} for a part of that`;
  return gives.length === 0 ? [] : [{ ...bought, words, gives, limits: [...bought.limits, ...tillLimits(shop)] }];
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
      },
    ];
  });
}

function offerLimits({ name, limits, stock, when }: Offer): string[] {
  const per = (period: string) => (period === 'lifetime' ? 'ever' : `per ${period}`);
  return [
    ...limits.map(({ period, most }) => `${name}: ${most} ${per(period)}`),
    ...(stock ? [`${name}: ${stock.units} in stock${stock.restock ? ', restocked' : ''}`] : []),
    ...(when ? [`${name}: only if ${when.text.slice(1).trim()}`] : []),
  ];
}

const tillLimits = (shop: Shop): string[] => (shop.till ? [`${shop.name}: what its till holds`] : []);
