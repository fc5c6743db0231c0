/** Real-money prices as players pay them and as they arrive: gross, tax, the store's share, net. */
import { fractionOf, unitsShare } from '../amount/index.js';
import type { Economy } from '../economy/index.js';

export interface MoneyRow {
  offer: string;
  name: string;
  /** ISO 4217. */
  code: string;
  /** Smallest units of the code, as are all amounts here. */
  gross: number;
  /** The store and its product; null where no store names one. */
  store: string | null;
  product: string | null;
  /** What the price holds of tax, what the store keeps, and what is left. They sum to gross. */
  tax: number;
  fee: number;
  net: number;
}

/**
 * One row for each price, currency and store. Tax is inside the price: gross x rate / (1 + rate). The store takes its
 * share of what is left. Tax is rounded up to whole units, and so is the share unless the store is said to round it
 * otherwise, so that net is never told too high.
 */
export function moneyRows(economy: Economy): MoneyRow[] {
  return [...economy.offers.values()].flatMap((offer) =>
    (offer.prices ?? []).flatMap((choice) => {
      if (choice.kind !== 'money') return [];
      return Object.entries(choice.amounts).flatMap(([code, gross]): MoneyRow[] => {
        const price = { offer: offer.id, name: offer.name, code, gross };
        const stores = [...economy.stores.values()].filter(({ id }) => id in choice.products);
        if (stores.length === 0) return [{ ...price, store: null, product: null, tax: 0, fee: 0, net: gross }];
        return stores.map(({ id, fee: feeRate, rounding, tax: taxRate }) => {
          const rate = fractionOf(taxRate);
          const beforeTax = unitsShare(gross, {
            numerator: rate.denominator,
            denominator: rate.denominator + rate.numerator,
          })!;
          const fee = unitsShare(beforeTax, fractionOf(feeRate), rounding)!;
          return {
            ...price,
            store: id,
            product: choice.products[id]!,
            tax: gross - beforeTax,
            fee,
            net: beforeTax - fee,
          };
        });
      });
    }),
  );
}
