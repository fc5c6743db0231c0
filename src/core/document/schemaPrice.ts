/** The shapes of what offers ask and give: baskets, alternatives, real money. */
import {
  amount,
  basket,
  either,
  exactly,
  fields,
  ids,
  inCells,
  inParts,
  isRecord,
  listOf,
  mapOf,
  named,
  refTo,
  said,
  text,
} from '../schema/index.js';
import type { Misfit, Option } from '../schema/index.js';

/** Amounts of real money by ISO 4217 code. */
const money = () =>
  mapOf(amount(), {
    test: (key) => /^[A-Z]{3}$/.test(key),
    rule: 'a real-money price is by ISO 4217 code, such as EUR',
    pattern: '^[A-Z]{3}$',
  });
const moneyPrice = named(
  'moneyPrice',
  fields({
    money: said('Money', 'Amounts by currency code.', money().required()),
    products: said('Products', 'What each store calls it.', inParts(mapOf(text(120), ids('store')))),
  }),
);

/** Real money: amounts by ISO 4217 code, players being told the one of their country, and how each store names the product. */
export interface MoneyDocument {
  money: Record<string, number>;
  products?: Record<string, string>;
}
export type BasketDocument = Record<string, number | string>;
type PriceDocument = BasketDocument | MoneyDocument;

/** A price in real money: `money` is then a group of amounts, where an asset of that id would have one amount. */
export const isMoney = (price: unknown): price is MoneyDocument => isRecord(price) && isRecord(price['money']);

const noPrice = (value: unknown): Misfit => ({
  problem: `${JSON.stringify(value)} is not a price`,
  fix: 'Write a basket such as {shells: 120}, {money: {EUR: 4.99}}, a list of these to choose from, or free.',
});
const ALTERNATIVES: Option[] = [
  { fits: isMoney, schema: moneyPrice },
  { fits: isRecord, schema: basket() },
];

/** `free`, a basket, real money, or a list of these of which the player picks one. */
export const price = () =>
  inCells(
    'price',
    either<'free' | PriceDocument | PriceDocument[]>(
      [
        { fits: (value) => value === 'free', schema: exactly('free') },
        ...ALTERNATIVES,
        {
          fits: Array.isArray,
          schema: listOf(either<PriceDocument>(ALTERNATIVES, noPrice), { least: 1, most: 8, of: 'prices' }),
        },
      ],
      noPrice,
    ),
  );

/** An item id, or a basket. */
export const gives = () =>
  inCells(
    'gives',
    either<string | BasketDocument>(
      [
        { fits: (value) => typeof value === 'string', schema: refTo('asset') },
        { fits: isRecord, schema: basket() },
      ],
      (value) => ({
        code: 'wrong-type',
        problem: `${JSON.stringify(value)} cannot be given`,
        fix: 'Write an item id, or a basket such as {wax: 5}.',
      }),
    ),
  );
