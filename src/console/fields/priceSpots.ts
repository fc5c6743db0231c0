/** Every price that is written: of offers, and the worth of items that are sold for it. */
import type { EconomyDocument } from '../../core/document/index.js';
import { pointerOf } from '../../core/issue/index.js';
import { offerName } from '../api.js';

export interface PriceSpot {
  pointer: string;
  label: string;
  value: number | string;
}

export function priceSpots(document: EconomyDocument): PriceSpot[] {
  const named = (asset: string) => document.currencies?.[asset]?.name ?? asset;
  const basketSpots = (path: (string | number)[], what: string, price: object | undefined): PriceSpot[] =>
    // Real money is no part of a run.
    Object.entries(price && 'money' in price && typeof price.money === 'object' ? {} : (price ?? {})).map(
      ([asset, value]: [string, number | string]) => ({
        pointer: pointerOf([...path, asset]),
        label: `${what}, ${named(asset)} (${value})`,
        value,
      }),
    );
  const offers = Object.entries(document.shops ?? {}).flatMap(([shopId, shop]) =>
    Object.entries(shop.shelves).flatMap(([shelfId, shelf]) =>
      Object.entries(shelf.offers).flatMap(([id, offer]) => {
        const path = ['shops', shopId, 'shelves', shelfId, 'offers', id, 'price'];
        const what = `${offerName(document, id, offer)} at ${shop.name}`;
        if (offer.price === undefined && typeof offer.gives === 'string')
          return basketSpots(['items', offer.gives, 'worth'], what, document.items?.[offer.gives]?.worth);
        return Array.isArray(offer.price)
          ? offer.price.flatMap((basket, index) => basketSpots([...path, index], what, basket))
          : basketSpots(path, what, offer.price === 'free' ? undefined : offer.price);
      }),
    ),
  );
  return [...new Map(offers.map((spot) => [spot.pointer, spot])).values()];
}
