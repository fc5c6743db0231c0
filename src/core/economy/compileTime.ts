/** Openings, rotations and sales. */
import { fractionOf } from '../amount/index.js';
import { beatMake, instantRead, recurrenceMake } from '../schedule/index.js';
import type { Beat, Opening } from '../schedule/index.js';
import type { DocumentReader, Segments, Steps } from './reader.js';
import type { EconomyDocument, SaleDocument, ShelfDocument } from '../document/index.js';
import { durationMs, timeOfDayMs } from '../schema/index.js';
import type { Offer, PoolOffer, Rotation, Sale, Shelf, ShelfRule } from './types.js';

interface WrittenOpening {
  from?: string | undefined;
  until?: string | undefined;
  windows?: Readonly<Record<string, { starts: string; repeats?: string | undefined; lasts: string }>> | undefined;
}

/** From and until, and the windows within them. A window that ends before it begins is an issue. */
export function openingCompile(
  reader: DocumentReader,
  { from, until, windows }: WrittenOpening,
  at: Segments,
): Opening {
  const zone = reader.document.timeZone;
  const [fromMs, untilMs] = [from, until].map((written) => reader.instant(written));
  if (fromMs !== undefined && untilMs !== undefined && untilMs <= fromMs)
    reader.issue(
      'wrong-value',
      [...at, 'until'],
      `it ends (${until}) before it begins (${from})`,
      'Swap or mend the two instants.',
    );
  return {
    fromMs,
    untilMs,
    recurrences: Object.values(windows ?? {}).map(({ starts, repeats, lasts }) =>
      // Read as if it were UTC: what clocks on the wall show.
      recurrenceMake(zone, instantRead('utc', starts)!.ms, repeats, lasts),
    ),
  };
}

/** `day`, `week`, `month` or a duration, from a time of day on. */
export function beatCompile(
  zone: string,
  { every, at, starts }: { every: string; at?: string | undefined; starts?: string | undefined },
): Beat {
  const length = every === 'day' || every === 'week' || every === 'month' ? every : durationMs(every)!;
  return beatMake(zone, length, timeOfDayMs(at), starts === undefined ? undefined : instantRead('utc', starts)!.ms);
}

/** A shelf's rotation; its pool is what is not hidden. It reads the document alone, so that earlier releases need no compiling. */
function rotationCompile(
  document: Pick<EconomyDocument, 'timeZone' | 'seed'>,
  key: string,
  shelf: ShelfDocument,
  pool: readonly PoolOffer[],
): Rotation | undefined {
  if (!shelf.rotation) return undefined;
  const { show, avoid = 0, perPlayer = false } = shelf.rotation;
  const beat = beatCompile(document.timeZone, shelf.rotation);
  return { key, seed: document.seed ?? 1, show, avoid, perPlayer, beat, pool };
}

export function shelfRotation(reader: DocumentReader, shelf: Shelf, written: ShelfDocument): Rotation | undefined {
  const pool = shelf.offers
    .filter(({ hidden }) => !hidden)
    .map((offer) => ({ id: offer.id, weight: written.offers[offer.id]!.weight ?? 1, opening: offer.opening }));
  return rotationCompile(reader.document, shelf.key, written, pool);
}

export function* salesCompile(reader: DocumentReader, offers: Iterable<Offer>): Steps<Map<string, Sale>> {
  const { document } = reader;
  const all = [...offers];
  const sales = new Map<string, Sale>();
  for (const [id, written] of Object.entries(document.sales ?? {})) {
    const at = ['sales', id];
    const sale: Sale = {
      id,
      name: written.name,
      byOffer: written.offers !== undefined,
      reduces: reduction(reader, written, at),
      opening: openingCompile(reader, { from: written.from, until: written.until, windows: written.runs }, at),
      when: reader.condition(written.when, [...at, 'when']),
    };
    sales.set(id, sale);
    for (const offer of all) {
      if (salePicks(reader, written, offer)) offer.sales.push(sale);
      yield;
    }
  }
  return sales;
}

function reduction(reader: DocumentReader, { percent, price }: SaleDocument, at: Segments): Sale['reduces'] {
  if ((percent === undefined) === (price === undefined))
    reader.issue(
      'missing-field',
      at,
      percent === undefined
        ? 'the sale says neither percent nor price'
        : 'the sale says both percent and price, and only one can hold',
      'Write percent: 25 to take a part off, or price: {shells: 300} to set one.',
    );
  if (percent === undefined) {
    const to = reader.fixedBasket(price, [...at, 'price']);
    for (const [asset, units] of Object.entries(to))
      if (units === 0)
        reader.issue(
          'bad-amount',
          [...at, 'price', asset],
          'a sale cannot set a price of 0',
          'Write an amount above 0; to give something away, make an offer whose price is free.',
        );
    return { to };
  }
  const { numerator, denominator } = fractionOf(percent);
  return { percent, keeps: { numerator: 100n * denominator - numerator, denominator: 100n * denominator } };
}

/** An offer is picked when it fits every list that the sale writes; a sale that writes none picks nothing. */
function salePicks(reader: DocumentReader, { offers, shops, groups, tags }: SaleDocument, offer: Offer): boolean {
  const items = offer.gives.flatMap(({ asset }) => reader.items.get(asset) ?? []);
  const lists = [
    offers?.includes(offer.id),
    shops?.includes(offer.shop.id),
    groups && items.some(({ group }) => group !== undefined && groups.includes(group)),
    tags && items.some((item) => item.tags.some((tag) => tags.includes(tag))),
  ].filter((fits) => fits !== undefined);
  return lists.length > 0 && lists.every(Boolean);
}

/** The rule of every shelf of a document by `SHOP/SHELF`, without compiling the rest: what an earlier release had on show needs no more. */
export function documentShelfRules(document: EconomyDocument): Map<string, ShelfRule> {
  const zone = document.timeZone;
  const rules = new Map<string, ShelfRule>();
  const instant = (written: string | undefined) => (written === undefined ? undefined : instantRead(zone, written)?.ms);
  for (const [shopId, { shelves }] of Object.entries(document.shops ?? {}))
    for (const [shelfId, shelf] of Object.entries(shelves)) {
      const key = `${shopId}/${shelfId}`;
      const pool = Object.entries(shelf.offers)
        .filter(([, { hidden }]) => !hidden)
        .map(([id, { weight = 1, from, until }]) => ({
          id,
          weight,
          opening: { fromMs: instant(from), untilMs: instant(until), recurrences: [] },
        }));
      const rotation = rotationCompile(document, key, shelf, pool);
      rules.set(key, rotation ? { kind: 'drawn', rotation } : { kind: 'all' });
    }
  return rules;
}
