/** Shops, shelves and offers with their prices. */
import { fractionOf, moneyDecimals } from '../amount/index.js';
import type { Beat, Rhythm } from '../schedule/index.js';
import { beatCompile, openingCompile, shelfRotation } from './compileTime.js';
import { limitsCompile } from './reader.js';
import type { DocumentReader, Segments, Steps } from './reader.js';
import { isMoney } from '../document/index.js';
import type { MoneyDocument, OfferDocument, ShelfDocument, ShopDocument } from '../document/index.js';
import { durationMs } from '../schema/index.js';
import type { Buyback, Item, Offer, PriceChoice, QuantityBasket, Shelf, Shop, Till } from './types.js';

export function* shopCompile(reader: DocumentReader, id: string, written: ShopDocument): Steps<Shop> {
  const at = ['shops', id];
  const shop: Shop = {
    id,
    name: written.name,
    icon: written.icon,
    hidden: written.hidden ?? false,
    shelves: [],
    when: reader.condition(written.when, [...at, 'when']),
    opening: openingCompile(reader, { from: written.from, until: written.until, windows: written.open }, at),
    till: written.till && tillCompile(reader, written.till, [...at, 'till']),
    buyback: written.buyback && buybackCompile(reader, written.buyback, [...at, 'buyback']),
  };
  for (const [shelfId, shelf] of Object.entries(written.shelves))
    shop.shelves.push(yield* shelfCompile(reader, shop, shelfId, shelf, [...at, 'shelves', shelfId]));
  return shop;
}

function tillCompile(reader: DocumentReader, written: NonNullable<ShopDocument['till']>, at: Segments): Till {
  const holds = reader.fixedBasket(written.holds, [...at, 'holds']);
  const refill = reader.fixedBasket(written.refill?.gives, [...at, 'refill', 'gives']);
  for (const asset of Object.keys(refill))
    if (!(asset in holds))
      reader.issue(
        'wrong-value',
        [...at, 'refill', 'gives', asset],
        `${asset} is refilled and the till holds none of it`,
        `Write ${asset} into holds, or take it out here.`,
      );
  return new Map(
    Object.entries(holds).map(([asset, upTo]) => [
      asset,
      {
        holds: upTo,
        refill:
          written.refill && refill[asset]
            ? {
                amount: refill[asset],
                upTo,
                comes: { kind: 'duration' as const, everyMs: durationMs(written.refill.every)! },
              }
            : undefined,
      },
    ]),
  );
}

function buybackCompile(reader: DocumentReader, written: NonNullable<ShopDocument['buyback']>, at: Segments): Buyback {
  if (!written.groups?.length && !written.tags?.length && !written.items?.length)
    reader.issue('missing-field', at, 'the buyback takes nothing', 'Write groups:, tags: or items: that it takes.');
  return {
    groups: written.groups ?? [],
    tags: written.tags ?? [],
    items: written.items ?? [],
    ...fractionOf(written.rate),
    of: written.of ?? 'worth',
    pays: written.pays,
    resell: written.resell ?? false,
  };
}

function* shelfCompile(
  reader: DocumentReader,
  shop: Shop,
  id: string,
  written: ShelfDocument,
  at: Segments,
): Steps<Shelf> {
  const shelf: Shelf = {
    id,
    name: written.name,
    hidden: written.hidden ?? false,
    key: `${shop.id}/${id}`,
    rotation: undefined,
    offers: [],
  };
  const beat = written.rotation && beatCompile(reader.document.timeZone, written.rotation);
  for (const [offerId, offer] of Object.entries(written.offers)) {
    shelf.offers.push(offerCompile(reader, shop, shelf, offerId, offer, [...at, 'offers', offerId], beat));
    yield;
  }
  shelf.rotation = shelfRotation(reader, shelf, written);
  return shelf;
}

function offerCompile(
  reader: DocumentReader,
  shop: Shop,
  shelf: Shelf,
  id: string,
  written: OfferDocument,
  at: Segments,
  beat: Beat | undefined,
): Offer {
  const count = written.count ?? 1;
  const gives = typeof written.gives === 'string' ? { [written.gives]: count } : written.gives;
  if (typeof written.gives !== 'string' && count !== 1)
    reader.issue(
      'wrong-value',
      [...at, 'count'],
      'count goes with a single item, and this offer gives a basket',
      'Write the amounts into the basket, and remove count.',
    );
  const single = typeof written.gives === 'string' ? reader.items.get(written.gives) : undefined;
  const { stock } = written;
  return {
    id,
    pointer: at.map(String),
    shop,
    shelf,
    hidden: written.hidden ?? false,
    name: written.name ?? givenName(reader, written, single),
    description: written.description ?? single?.description,
    badge: written.badge,
    own: { name: written.name, description: written.description },
    single: typeof written.gives === 'string' ? { asset: written.gives, count } : undefined,
    listed: Array.isArray(written.price),
    gives:
      typeof written.gives === 'string' && !single && !reader.currencies.has(written.gives)
        ? []
        : reader.quantities(gives, [...at, 'gives']),
    prices: prices(reader, written, single, count, at),
    stock: stock && {
      units: stock.units,
      scope: stock.scope ?? 'shared',
      restock: stock.restock && {
        amount: stock.restock.amount,
        upTo: stock.units,
        comes: restockTimes(reader, stock.restock),
      },
    },
    limits: limitsCompile(reader, written.limits, [...at, 'limits'], beat),
    when: reader.condition(written.when, [...at, 'when']),
    opening: openingCompile(reader, written, at),
    sales: [],
  };
}

/** After a duration, or, where a time of day or a calendar word is written, at set times. */
function restockTimes(reader: DocumentReader, written: { every: string; at?: string | undefined }): Rhythm {
  const everyMs = durationMs(written.every);
  return everyMs !== undefined && written.at === undefined
    ? { kind: 'duration', everyMs }
    : { kind: 'beat', beat: beatCompile(reader.document.timeZone, written) };
}

function givenName(reader: DocumentReader, written: OfferDocument, single: Item | undefined): string {
  if (single) return (written.count ?? 1) > 1 ? `${single.name} x${written.count}` : single.name;
  const assets = typeof written.gives === 'string' ? [written.gives] : Object.keys(written.gives);
  return assets
    .map((asset) => reader.currencies.get(asset)?.name ?? reader.items.get(asset)?.name ?? asset)
    .join(' + ');
}

/** `undefined` stands for "no price": such an offer is never sold, and the audit reports it. */
function prices(
  reader: DocumentReader,
  written: OfferDocument,
  single: Item | undefined,
  count: number,
  at: Segments,
): PriceChoice[] | undefined {
  if (written.price === 'free') return [{ kind: 'free', pay: 'free' }];
  if (written.price === undefined) {
    if (!single || Object.keys(single.worth).length === 0) return undefined;
    const basket = Object.entries(single.worth).map(([asset, units]) => ({
      kind: 'fixed' as const,
      asset,
      units: reader.times(units, count, [...at, 'count']),
    }));
    return [{ kind: 'assets', pay: payKey(basket), basket }];
  }
  const many = Array.isArray(written.price);
  const list = Array.isArray(written.price) ? written.price : [written.price];
  const choices = list.flatMap((one, index): PriceChoice[] => {
    const place = many ? [...at, 'price', index] : [...at, 'price'];
    if (isMoney(one)) return moneyCompile(reader, one, place);
    const basket = reader.quantities(one, place);
    // Half a price would be a wrong price: an alternative that names something unknown does not count.
    return basket.length > 0 && basket.length === Object.keys(one).length
      ? [{ kind: 'assets', pay: payKey(basket), basket }]
      : [];
  });
  const twice = choices.find((one, index) => choices.findIndex((other) => other.pay === one.pay) !== index);
  if (twice)
    reader.issue(
      'conflicting-reference',
      [...at, 'price'],
      `two alternatives ask for the same things (${twice.pay})`,
      'Keep one of them: a player would never pick the dearer.',
    );
  return choices.length === 0 ? undefined : choices;
}

function moneyCompile(reader: DocumentReader, written: MoneyDocument, at: Segments): PriceChoice[] {
  const amounts: Record<string, number> = {};
  for (const [code, value] of Object.entries(written.money)) {
    amounts[code] = reader.units(value, moneyDecimals(code), [...at, 'money', code]);
    if (amounts[code] === 0)
      reader.issue(
        'bad-amount',
        [...at, 'money', code],
        'it asks for no money',
        'Write an amount above 0, or price: free.',
      );
  }
  return Object.values(amounts).some((units) => units > 0)
    ? [{ kind: 'money', pay: 'money', amounts, products: written.products ?? {} }]
    : [];
}

/** How a request names an alternative price: the assets it asks for, in order, joined by "+". */
function payKey(basket: QuantityBasket): string {
  return basket
    .map(({ asset }) => asset)
    .sort()
    .join('+');
}
