/** Volume tiers in one gesture: x1, x3, x5 of one offer, the unit price falling. */
import { fractionOf } from '../amount/index.js';
import type { Fraction } from '../amount/index.js';
import { isMoney, valueAt } from '../document/index.js';
import type { EconomyDocument, OfferDocument } from '../document/index.js';
import { pointerOf, pointerSegments } from '../issue/index.js';
import { amountScaled, decimalsIn } from './amounts.js';
import type { RoundTo } from './amounts.js';
import { offerIds, replaceEntries } from './arrange.js';
import type { Edited } from './outcome.js';
import { freeId } from '../schema/index.js';
import { nothingAt, refuse } from './outcome.js';

/** The offer at `pointer` is the first tier; each of the others has its count and its discount in percent. */
export interface TiersEdit {
  kind: 'tiers';
  pointer: string;
  tiers: { count: number; discount: number }[];
  round?: RoundTo;
}

export function tiers(document: EconomyDocument, { pointer, tiers: wanted, round }: TiersEdit): Edited {
  const segments = pointerSegments(pointer);
  const base = valueAt(document, segments) as OfferDocument | undefined;
  if (!base || segments.at(-2) !== 'offers') return nothingAt(pointer);
  const single = typeof base.gives === 'string' ? base.gives : undefined;
  if (single === undefined)
    return refuse(`${pointer}/gives`, 'tiers need an offer that gives one kind of thing', 'Name a single item.');
  const baseCount = base.count ?? 1;
  const price = base.price ?? document.items?.[single]?.worth;
  if (price === undefined || price === 'free')
    return refuse(pointer, 'tiers need a price to lower', 'Write a price, or give the item a worth.');
  const rising = wanted.find(({ count, discount }, index) => {
    const before = index === 0 ? { count: baseCount, discount: 0 } : wanted[index - 1]!;
    return count <= before.count || discount < before.discount || discount >= 100 || !Number.isInteger(count);
  });
  if (rising || wanted.length === 0)
    return refuse(
      pointer,
      rising ? `x${rising.count} at ${rising.discount} % does not follow the tier before it` : 'no tier is asked for',
      'Write counts that rise and discounts that do not fall, below 100 %.',
    );
  // Worth is of one unit, a price of all `count`.
  const units = base.price === undefined ? 1 : baseCount;
  const made: [string, OfferDocument][] = [];
  const taken = new Set(offerIds(document));
  for (const { count, discount } of wanted) {
    const less = fractionOf(discount);
    const factor: Fraction = {
      numerator: BigInt(count) * (100n * less.denominator - less.numerator),
      denominator: BigInt(units) * 100n * less.denominator,
    };
    const tierPrice = priceScaled(document, price, factor, round ?? { to: 0, way: 'down' });
    if (tierPrice === undefined)
      return refuse(`${pointer}/price`, 'a formula or a price past the ceiling has no tiers', 'Write a fixed price.');
    const id = freeId(`${segments.at(-1)!.replace(/_\d+$/, '')}_${count}`, (one) => taken.has(one));
    taken.add(id);
    const { name: _name, stock: _stock, ...rest } = base;
    made.push([id, { ...rest, count, price: tierPrice }]);
  }
  replaceEntries(document, segments.slice(0, -1), (entries) =>
    Object.fromEntries(
      Object.entries(entries).flatMap((entry) => (entry[0] === segments.at(-1) ? [entry, ...made] : [entry])),
    ),
  );
  return {
    ok: true,
    document,
    notes: unitNotes(document, single, price, units, made),
    made: pointerOf([...segments.slice(0, -1), made[0]![0]]),
  };
}

type Price = NonNullable<OfferDocument['price']>;

function priceScaled(document: EconomyDocument, price: Price, factor: Fraction, round: RoundTo): Price | undefined {
  if (price === 'free') return undefined;
  const list = (Array.isArray(price) ? price : [price]).map((one) => {
    const basket = scaledBasket(document, isMoney(one) ? one.money : one, factor, round);
    // A store's product is one thing at one price: each tier needs its own.
    return basket && (isMoney(one) ? { money: basket } : basket);
  });
  if (list.some((one) => one === undefined)) return undefined;
  return (Array.isArray(price) ? list : list[0]) as Price;
}

function scaledBasket(
  document: EconomyDocument,
  basket: Readonly<Record<string, number | string>>,
  factor: Fraction,
  round: RoundTo,
): Record<string, number> | undefined {
  const result: Record<string, number> = {};
  for (const [asset, amount] of Object.entries(basket)) {
    const scaled =
      typeof amount === 'number' ? amountScaled(amount, factor, round, decimalsIn(document, asset)) : undefined;
    if (scaled === undefined) return undefined;
    result[asset] = scaled;
  }
  return result;
}

/** What a unit costs in each tier, which is what players compare. */
function unitNotes(
  document: EconomyDocument,
  item: string,
  price: Price,
  units: number,
  made: readonly [string, OfferDocument][],
): string[] {
  const name = document.items?.[item]?.name ?? item;
  return [{ count: units, price }, ...made.map(([, { count = 1, price: tier }]) => ({ count, price: tier! }))].map(
    ({ count, price: total }) => {
      const first = (Array.isArray(total) ? total[0]! : total) as Record<string, unknown>;
      const basket = (isMoney(first) ? first.money : first) as Record<string, number>;
      const each = Object.entries(basket).map(([asset, amount]) => `${Number((amount / count).toFixed(4))} ${asset}`);
      return `${name} x${count}: ${each.join(' and ')} for each`;
    },
  );
}
