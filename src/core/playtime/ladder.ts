/** Prices in the order of their playing time, with how much longer each takes than the one before. */
import { isMoney, valueAt } from '../document/index.js';
import type { EconomyDocument, OfferDocument } from '../document/index.js';
import { choiceBasket, quantitiesEvaluate } from '../economy/index.js';
import type { Economy, Offer, PriceChoice } from '../economy/index.js';
import type { Scope, Value } from '../formula/index.js';
import { pointerOf } from '../issue/index.js';
import { drawValue, payScope } from '../simulation/index.js';
import { randomStream } from '../random/index.js';
import { salesReduce } from '../trade/index.js';
import { playingTime, timeOrder } from './playingTime.js';
import { rungSteps } from './rungs.js';
import type { Rung, Step } from './rungs.js';
import type { PersonaEarnings } from './types.js';

/** Offers that fit every word given; hidden ones are no rungs. `shelf` is `SHOP/SHELF`. */
export interface LadderWhere {
  shop?: string;
  shelf?: string;
  group?: string;
}

export interface Ladder {
  rungs: Step[];
  /** Offers that play does not pay for: real money, free, formulas that come to nothing, or what play never brings. */
  apart: { offer: string; name: string; pointer: string; why: string }[];
}

/** Of several ways to pay for an offer the one that takes least is its rung. O(offers x assets x days). */
export function ladderOf(
  document: EconomyDocument,
  economy: Economy,
  earnings: PersonaEarnings,
  where: LadderWhere = {},
): Ladder {
  const scope = personaScope(economy, earnings.persona);
  const apart: Ladder['apart'] = [];
  const rungs: Rung[] = [];
  for (const offer of economy.offers.values()) {
    if (!fits(economy, offer, where)) continue;
    const ways = (offer.prices ?? []).map((choice, place) =>
      rungOf(document, economy, earnings, offer, choice, place, scope),
    );
    const paid = ways.filter((way): way is Rung => typeof way !== 'string');
    if (paid.length > 0)
      rungs.push(paid.reduce((least, way) => (timeOrder(way.time) < timeOrder(least.time) ? way : least)));
    else
      apart.push({
        offer: offer.id,
        name: offer.name,
        pointer: pointerOf(offer.pointer),
        why: [...new Set(ways as string[])].join('; ') || 'no price',
      });
  }
  return { rungs: rungSteps(earnings, rungs), apart };
}

function fits(economy: Economy, { hidden, shop, shelf, single }: Offer, where: LadderWhere): boolean {
  return (
    !(hidden || shop.hidden || shelf.hidden) &&
    (where.shop === undefined || where.shop === shop.id) &&
    (where.shelf === undefined || where.shelf === shelf.key) &&
    (where.group === undefined || where.group === groupOf(economy, single?.asset))
  );
}

const groupOf = ({ items }: Economy, asset: string | undefined): string | undefined =>
  asset === undefined ? undefined : items.get(asset)?.group;

/** A text where play does not pay for it. */
function rungOf(
  document: EconomyDocument,
  economy: Economy,
  earnings: PersonaEarnings,
  offer: Offer,
  choice: PriceChoice,
  place: number,
  scope: Scope,
): Rung | string {
  if (choice.kind === 'free') return 'free';
  if (choice.kind === 'money') return 'real money';
  const quantities = choiceBasket(choice);
  const evaluated = quantitiesEvaluate(quantities, scope);
  if (!evaluated.ok) return evaluated.problem.message;
  const time = playingTime(earnings, evaluated.basket);
  if (time.kind === 'never') return `not by play: ${time.assets.map((asset) => nameOf(economy, asset)).join(' and ')}`;
  return {
    offer: offer.id,
    name: offer.name,
    pointer: pointerOf(offer.pointer),
    shop: offer.shop.id,
    shelf: offer.shelf.key,
    group: groupOf(economy, offer.single?.asset),
    pay: choice.pay,
    price: evaluated.basket,
    byFormula: quantities.some(({ kind }) => kind === 'formula'),
    amountAt: amountAt(document, offer, place),
    time,
    reduced: offer.sales.flatMap((sale) =>
      salesReduce(economy, [sale], evaluated.basket).map(({ price }) => ({
        sale: sale.id,
        price,
        time: playingTime(earnings, price),
      })),
    ),
  };
}

const nameOf = ({ currencies, items }: Economy, asset: string): string =>
  (currencies.get(asset) ?? items.get(asset))?.name ?? asset;

/** Where the one number is written that the `place`th price of an offer comes to: on the offer, or the worth of one piece. */
function amountAt(document: EconomyDocument, { pointer, single }: Offer, place: number): string | undefined {
  const { price } = valueAt(document, pointer) as OfferDocument;
  const isList = Array.isArray(price);
  if (price === undefined && (single === undefined || single.count !== 1)) return undefined;
  const at =
    price === undefined ? ['items', single!.asset, 'worth'] : [...pointer, 'price', ...(isList ? [String(place)] : [])];
  const basket = valueAt(document, at) as Record<string, unknown> | undefined;
  if (!basket || isMoney(basket as never)) return undefined;
  const [asset, ...others] = Object.keys(basket);
  return asset === undefined || others.length > 0 || typeof basket[asset] !== 'number'
    ? undefined
    : pointerOf([...at, asset]);
}

/** As many are drawn to tell what a persona's players usually are. */
const DRAWN = 101;

/** What formulas read of a player of a persona who joins: of attributes that are drawn, the middle number or the usual word. */
function personaScope(economy: Economy, id: string): Scope {
  const blank = payScope(economy);
  const attributes: Record<string, Value> = {};
  for (const { attribute, draw } of economy.personas.get(id)!.attributes) {
    const random = randomStream(economy.seed, 'usual', id, attribute);
    attributes[attribute] = usual(Array.from({ length: DRAWN }, () => drawValue(draw, random, blank)));
  }
  return payScope(economy, attributes);
}

function usual(values: readonly Value[]): Value {
  if (values.every((value) => typeof value === 'number'))
    return [...values].sort((a, b) => a - b)[(values.length - 1) / 2]!;
  const counts = new Map<Value, number>();
  for (const value of values) counts.set(value, (counts.get(value) ?? 0) + 1);
  return [...counts].reduce((most, one) => (one[1] > most[1] ? one : most))[0];
}
