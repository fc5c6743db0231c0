/** The shapes of what offers ask and give: baskets, alternatives, real money. */
import { amount, basket, checked, fields, isRecord, mapOf, text } from '../schema/index.js';
import type { AnySchema } from '../schema/index.js';

/** Amounts of real money by ISO 4217 code. */
const money = () =>
  mapOf(amount(), {
    test: (key) => /^[A-Z]{3}$/.test(key),
    rule: 'a real-money price is by ISO 4217 code, such as EUR',
    pattern: '^[A-Z]{3}$',
  });
export const moneyPrice = fields({ money: money().required(), products: mapOf(text(120)) });

/** `free`, a basket, real money, or a list of these of which the player picks one. */
export const price = () =>
  checked<'free' | PriceDocument | PriceDocument[]>(
    {
      oneOf: [
        { const: 'free' },
        { $ref: '#/$defs/basket' },
        { $ref: '#/$defs/moneyPrice' },
        {
          type: 'array',
          items: { oneOf: [{ $ref: '#/$defs/basket' }, { $ref: '#/$defs/moneyPrice' }] },
          minItems: 1,
          maxItems: 8,
        },
      ],
    },
    (value) => {
      if (value === 'free') return undefined;
      const choices = Array.isArray(value) ? value : [value];
      if (choices.length === 0 || choices.length > 8 || !choices.every(isRecord))
        return {
          problem: `${JSON.stringify(value)} is not a price`,
          fix: 'Write a basket such as {shells: 120}, {money: {EUR: 4.99}}, a list of these to choose from, or free.',
        };
      for (const one of choices) {
        const [first] = shapeProblems(isMoney(one) ? moneyPrice : basket(), one);
        if (first) return first;
      }
      return undefined;
    },
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

function shapeProblems(schema: AnySchema, value: unknown): { code: 'bad-amount'; problem: string; fix: string }[] {
  try {
    schema.validateSync(value, { strict: true });
    return [];
  } catch (error) {
    return [{ code: 'bad-amount', problem: (error as Error).message, fix: 'Write amounts of 0 or more by asset id.' }];
  }
}

/** An item id, or a basket. */
export const gives = () =>
  checked<string | Record<string, number | string>>(
    { oneOf: [{ $ref: '#/$defs/id' }, { $ref: '#/$defs/basket' }] },
    (value) =>
      typeof value === 'string'
        ? undefined
        : isRecord(value)
          ? shapeProblems(basket(), value)[0]
          : {
              code: 'wrong-type',
              problem: `${JSON.stringify(value)} cannot be given`,
              fix: 'Write an item id, or a basket such as {wax: 5}.',
            },
  );
