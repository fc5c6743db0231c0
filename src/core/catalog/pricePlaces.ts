/** Where prices are written: the worth of items, and what offers ask. */
import { isMoney } from '../document/index.js';
import type { EconomyDocument, OfferDocument } from '../document/index.js';

/** Which items and offers: all that fit every word given. An offer fits by the single item that it gives. */
export interface Where {
  ids?: string[];
  group?: string;
  tag?: string;
  shop?: string;
}

/** The paths of all amounts of the prices that fit: worths of items, prices of offers, or both. In document order. */
export function pricePlaces(
  document: EconomyDocument,
  where: Where,
  of: 'items' | 'offers' | 'both' = 'both',
): string[][] {
  const worths =
    of === 'offers' || where.shop !== undefined
      ? []
      : Object.entries(document.items ?? {}).flatMap(([id, { worth = {} }]) =>
          itemFits(document, where, id, id) ? amountsAt(['items', id, 'worth'], worth) : [],
        );
  if (of === 'items') return worths;
  const offers = Object.entries(document.shops ?? {}).flatMap(([shop, { shelves }]) =>
    where.shop !== undefined && where.shop !== shop
      ? []
      : Object.entries(shelves).flatMap(([shelf, { offers: all }]) =>
          Object.entries(all).flatMap(([id, offer]) =>
            itemFits(document, where, typeof offer.gives === 'string' ? offer.gives : '', id)
              ? asked(offer, ['shops', shop, 'shelves', shelf, 'offers', id, 'price'])
              : [],
          ),
        ),
  );
  return [...worths, ...offers];
}

function itemFits(document: EconomyDocument, { ids, group, tag }: Where, itemId: string, ownId: string): boolean {
  const item = document.items?.[itemId];
  return (
    (ids === undefined || ids.includes(ownId) || ids.includes(itemId)) &&
    (group === undefined || item?.group === group) &&
    (tag === undefined || (item?.tags ?? []).includes(tag))
  );
}

function asked({ price }: OfferDocument, at: string[]): string[][] {
  if (price === undefined || price === 'free') return [];
  const one = (choice: Exclude<typeof price, 'free' | unknown[]>, path: string[]) =>
    isMoney(choice) ? amountsAt([...path, 'money'], choice.money) : amountsAt(path, choice);
  return Array.isArray(price) ? price.flatMap((choice, index) => one(choice, [...at, String(index)])) : one(price, at);
}

const amountsAt = (at: string[], basket: object): string[][] => Object.keys(basket).map((asset) => [...at, asset]);
