/** What a stretch of time brings, as data: opening hours, rotations with what is on show, sales, windows of offers, ends of currencies. */
import type { Economy, Offer, Sale, Shelf, Shop } from '../economy/index.js';
import { pointerOf } from '../issue/index.js';
import { isOnShow, shelfShown, shownUntilMs } from '../rotation/index.js';
import { openingIsBounded, openingWindows } from '../schedule/index.js';
import type { Period } from '../schedule/index.js';

export type EntryKind = 'open' | 'rotation' | 'sale' | 'offer' | 'end' | 'release';

export interface CalendarEntry extends Period {
  kind: EntryKind;
  /** Of the sale, offer, shelf, currency. */
  id: string;
  name: string;
  /** Where it is written. */
  pointer: string;
  /** Of a rotation: the offers on show; of a sale: those that it lowers. */
  offers: { id: string; name: string }[];
  /** One time of many, so that moving it moves them all. */
  recurs: boolean;
  /** What does not fit together here, as a part of a sentence. */
  warnings: string[];
}

export interface CalendarLane {
  shop: string | null;
  name: string;
  /** The shop is closed all the time. */
  closed: boolean;
  entries: CalendarEntry[];
}

export interface Calendar {
  fromMs: number;
  toMs: number;
  zone: string;
  /** One for each shop, in their order, and one for what concerns the whole economy. */
  lanes: CalendarLane[];
  /** True where a lane had more entries than are listed. */
  cut: boolean;
}

/** More entries of one kind are not listed for a shelf or a sale: a season of hourly turns is no picture any more. */
const MOST_ENTRIES = 500;

/** Cost: the entries in the stretch. `player` matters where each player has a selection of their own. */
export function calendarMake(
  economy: Economy,
  { fromMs, toMs, shop, player = '' }: { fromMs: number; toMs: number; shop?: string | undefined; player?: string },
): Calendar {
  const state = { cut: false };
  const shops = [...economy.shops.values()].filter((one) => !one.hidden && (shop === undefined || one.id === shop));
  const lanes = shops.map((one) => ({
    shop: one.id,
    name: one.name,
    closed: openingWindows(one.opening, fromMs, toMs).length === 0,
    entries: shopEntries(economy, one, { fromMs, toMs, player, state }),
  }));
  const ends = economy.endingCurrencies
    .filter(({ ends: end }) => end!.atMs >= fromMs && end!.atMs < toMs)
    .map(({ id, name, ends: end }) => ({
      ...entry('end', id, `End of ${name}`, ['currencies', id, 'ends'], { startMs: end!.atMs, endMs: end!.atMs }),
      warnings: [],
    }));
  return {
    fromMs,
    toMs,
    zone: economy.zone,
    lanes: [...lanes, { shop: null, name: economy.name, closed: false, entries: ends }],
    cut: state.cut,
  };
}

/** Calendars of stretches that follow each other, as one: what goes on over an edge is one entry again. */
export function calendarJoin(parts: readonly Calendar[]): Calendar {
  const [first, ...others] = parts as [Calendar, ...Calendar[]];
  return others.reduce(
    (joined, next) => ({
      ...joined,
      toMs: next.toMs,
      cut: joined.cut || next.cut,
      lanes: next.lanes.map((lane) => {
        const before = joined.lanes.find(({ shop }) => shop === lane.shop);
        return before
          ? { ...lane, closed: before.closed && lane.closed, entries: entriesJoin(before.entries, lane.entries) }
          : lane;
      }),
    }),
    first,
  );
}

function entriesJoin(before: readonly CalendarEntry[], after: readonly CalendarEntry[]): CalendarEntry[] {
  const joined = [...before];
  for (const entry of after) {
    const index = joined.findIndex(
      (one) =>
        one.kind === entry.kind &&
        one.pointer === entry.pointer &&
        one.id === entry.id &&
        // Periods of a rotation follow each other and are never one.
        (entry.kind === 'rotation'
          ? one.startMs === entry.startMs
          : one.endMs >= entry.startMs && one.endMs > one.startMs),
    );
    if (index < 0) joined.push(entry);
    else joined[index] = { ...joined[index]!, endMs: Math.max(joined[index]!.endMs, entry.endMs) };
  }
  return joined;
}

interface Stretch {
  fromMs: number;
  toMs: number;
  player: string;
  state: { cut: boolean };
}

function entry(
  kind: EntryKind,
  id: string,
  name: string,
  at: (string | number)[],
  { startMs, endMs }: Period,
): CalendarEntry {
  return { kind, id, name, pointer: pointerOf(at), startMs, endMs, offers: [], recurs: false, warnings: [] };
}

const listed = (entries: CalendarEntry[], { state }: Stretch): CalendarEntry[] => {
  if (entries.length > MOST_ENTRIES) state.cut = true;
  return entries.slice(0, MOST_ENTRIES);
};

function shopEntries(economy: Economy, shop: Shop, stretch: Stretch): CalendarEntry[] {
  const { fromMs, toMs } = stretch;
  const hours = openingIsBounded(shop.opening)
    ? openingWindows(shop.opening, fromMs, toMs).map((window) => ({
        ...entry('open', shop.id, `${shop.name} is open`, ['shops', shop.id], window),
        recurs: shop.opening.recurrences.length > 0,
      }))
    : [];
  const shelves = shop.shelves.filter(({ hidden }) => !hidden);
  return [
    ...listed(hours, stretch),
    ...shelves.flatMap((shelf) => listed(rotationEntries(economy, shop, shelf, stretch), stretch)),
    ...[...economy.sales.values()].flatMap((sale) => listed(saleEntries(economy, shop, sale, stretch), stretch)),
    ...shelves.flatMap((shelf) => shelf.offers).flatMap((offer) => offerEntries(offer, stretch)),
  ];
}

function rotationEntries(
  economy: Economy,
  shop: Shop,
  shelf: Shelf,
  { fromMs, toMs, player }: Stretch,
): CalendarEntry[] {
  const entries: CalendarEntry[] = [];
  // While its shop is closed nothing is on show, whatever is drawn.
  for (const window of openingWindows(shop.opening, fromMs, toMs))
    for (let ms = window.startMs; ms < window.endMs && entries.length <= MOST_ENTRIES;) {
      const shown = shelfShown(economy, shelf, player, ms);
      ms = shownUntilMs(shown) ?? window.endMs;
      if (shown.kind === 'all' || entries.at(-1)?.startMs === shown.period.startMs) continue;
      const offers = shelf.offers.filter(({ id }) => isOnShow(shown, id)).map(({ id, name }) => ({ id, name }));
      const at = ['shops', shop.id, 'shelves', shelf.id, ...(shelf.rotation ? ['rotation'] : [])];
      entries.push({
        ...entry('rotation', shelf.id, shelf.name, at, shown.period),
        offers,
        recurs: true,
        warnings: offers.length === 0 ? ['nothing is on show'] : [],
      });
    }
  return entries;
}

/** When an offer can be seen within a stretch: its shop open, its own window open, its turn in the rotation. */
export function offerShownIn(economy: Economy, offer: Offer, fromMs: number, toMs: number, player = ''): Period[] {
  const windows = openingWindows(offer.shop.opening, fromMs, toMs).flatMap(({ startMs, endMs }) =>
    openingWindows(offer.opening, startMs, endMs),
  );
  return windows.flatMap((window) => {
    const periods: Period[] = [];
    for (let ms = window.startMs, n = 0; ms < window.endMs && n < 800; n++) {
      const shown = shelfShown(economy, offer.shelf, player, ms);
      const endMs = Math.min(shownUntilMs(shown) ?? window.endMs, window.endMs);
      // Where each player sees another selection, each of the pool is on show for someone.
      const forSomeone = shown.kind === 'drawn' && shown.rotation.perPlayer;
      if (forSomeone || isOnShow(shown, offer.id)) periods.push({ startMs: ms, endMs });
      ms = endMs;
    }
    return periods;
  });
}

function saleEntries(economy: Economy, shop: Shop, sale: Sale, { fromMs, toMs }: Stretch): CalendarEntry[] {
  const offers = shop.shelves
    .flatMap((shelf) => (shelf.hidden ? [] : shelf.offers))
    .filter((offer) => !offer.hidden && offer.sales.includes(sale));
  if (offers.length === 0) return [];
  // Of a whole shop or group some may well not be on show; what is named one by one is meant.
  return openingWindows(sale.opening, fromMs, toMs).map((window) => {
    const closed = openingWindows(shop.opening, window.startMs, window.endMs).length === 0;
    const unseen = offers.filter((offer) => offerShownIn(economy, offer, window.startMs, window.endMs).length === 0);
    const warnings = closed
      ? [`${shop.name} is closed`]
      : unseen.length === offers.length
        ? ['none of its offers is on show']
        : sale.byOffer
          ? unseen.map(({ name }) => `${name} is not on show`)
          : [];
    return {
      ...entry('sale', sale.id, sale.name, ['sales', sale.id], window),
      offers: offers.map(({ id, name }) => ({ id, name })),
      recurs: sale.opening.recurrences.length > 0,
      warnings,
    };
  });
}

function offerEntries(offer: Offer, { fromMs, toMs }: Stretch): CalendarEntry[] {
  if (offer.hidden || !openingIsBounded(offer.opening)) return [];
  return openingWindows(offer.opening, fromMs, toMs).map((window) => ({
    ...entry('offer', offer.id, offer.name, offer.pointer, window),
    warnings:
      openingWindows(offer.shop.opening, window.startMs, window.endMs).length === 0
        ? [`${offer.shop.name} is closed`]
        : [],
  }));
}
