/** The calendar, what rotations have on show, and the stream of what happens. */
import type { CalendarView, Query, RotationRequest, RotationView } from '../../contract/index.js';
import { calendarIcs, calendarJoin, calendarMake } from '../../core/calendar/index.js';
import type { CalendarEntry } from '../../core/calendar/index.js';
import type { Economy, Shelf, Shop } from '../../core/economy/index.js';
import { periodRecords, shelfShown } from '../../core/rotation/index.js';
import type { OnShow } from '../../core/rotation/index.js';
import { DAY_MS, beatStart } from '../../core/schedule/index.js';
import { instantOf, yearsMust } from '../instant.js';
import type { Handlers } from '../handler.js';
import { Problem, notFound } from '../problem.js';
import type { Service } from '../service.js';

const LONGEST_DAYS = 400;

function calendarOf({ service, query }: { service: Service; query: Query<'GET /calendar'> }): CalendarView {
  const { economy, release } = service.sources.of(query.source);
  const fromMs = instantOf(query.from, economy.zone, service.now());
  const toMs = query.to === undefined ? fromMs + 14 * DAY_MS : instantOf(query.to, economy.zone, service.now());
  if (toMs <= fromMs || toMs - fromMs > LONGEST_DAYS * DAY_MS)
    throw new Problem('bad-request', `"to" must come after "from", and at most ${LONGEST_DAYS} days later.`);
  const { shop, source = 'live' } = query;
  if (shop !== undefined && !economy.shops.has(shop)) throw notFound('shop', shop, economy.shops.keys());
  const more = { shop, ...(query.player ? { player: query.player } : {}) };
  // Where another release is to come within the stretch, its rules hold from then on.
  const edges = [fromMs, ...comingMs(service, source, fromMs, toMs)];
  const parts = edges.map((startMs, index) =>
    calendarMake(index === 0 ? economy : service.sources.of(source, startMs).economy, {
      fromMs: startMs,
      toMs: edges[index + 1] ?? toMs,
      ...more,
    }),
  );
  const calendar = calendarJoin(parts);
  const releases = releaseEntries(service, source, fromMs, toMs);
  const lanes = calendar.lanes.map((lane) =>
    lane.shop === null ? { ...lane, entries: [...lane.entries, ...releases] } : lane,
  );
  return { release, name: economy.name, ...calendar, lanes };
}

/** When scheduled releases come on a channel within a stretch. */
const comingMs = (service: Service, source: string, fromMs: number, toMs: number): number[] =>
  (service.channels.views().find(({ name }) => name === source)?.coming ?? [])
    .map(({ atMs }) => atMs)
    .filter((ms) => ms > fromMs && ms < toMs);

/** Releases that a channel was or will be pointed at. */
function releaseEntries(service: Service, source: string, fromMs: number, toMs: number): CalendarEntry[] {
  return service.channels
    .history(source === 'draft' ? 'live' : source)
    .filter(({ atMs, endedMs }) => endedMs === null && atMs >= fromMs && atMs < toMs)
    .sort((a, b) => a.atMs - b.atMs || a.move - b.move)
    .map(({ release, atMs, note }) => ({
      kind: 'release',
      id: String(release),
      name: `Release ${release}${note ? `: ${note}` : ''}`,
      pointer: '',
      startMs: atMs,
      endMs: atMs,
      offers: [],
      recurs: false,
      warnings: [],
    }));
}

interface ShopShelf {
  shop: Shop;
  shelf: Shelf;
}

const shelvesOf = (economy: Economy): ShopShelf[] =>
  [...economy.shops.values()].flatMap((shop) => shop.shelves.map((shelf) => ({ shop, shelf })));

type Drawn = Extract<OnShow, { kind: 'drawn' }>;

function rotationView(
  service: Service,
  economy: Economy,
  { shop, shelf }: ShopShelf,
  { rotation, period, offers }: Drawn,
): RotationView {
  const { index, startMs, endMs } = period;
  const nameOf = (id: string) => economy.offers.get(id)?.name ?? id;
  const recorded = service.rotations.standing().filter((row) => row.shelf === shelf.key);
  const records = periodRecords(recorded, startMs, () => endMs);
  const pinned = records.flatMap(({ kind, offer }) => (kind === 'pin' ? [offer] : []));
  return {
    shop: shop.id,
    shelf: shelf.id,
    name: `${shelf.name} at ${shop.name}`,
    period: index,
    startMs,
    endMs,
    shown: offers.map((id) => ({ id, name: nameOf(id), pinned: pinned.includes(id) })),
    pool: rotation.pool.map(({ id }) => ({ id, name: nameOf(id) })),
    records,
  };
}

/** When the period begins that a request means: by an instant, or by its number as it was told. */
function askedMs(economy: Economy, shelf: Shelf, { period, at }: RotationRequest, nowMs: number): number {
  if (period === undefined) return instantOf(at, economy.zone, nowMs);
  const running = shelfShown(economy, shelf, '', nowMs);
  // After a release that changed the beat, the running period still has its number by the beat before.
  if (running.kind === 'drawn' && running.period.index === period) return running.period.startMs;
  if (!shelf.rotation) return nowMs;
  const startMs = beatStart(shelf.rotation.beat, period);
  yearsMust(startMs, `period ${period}`);
  return startMs;
}

/** What is to be recorded of a period, and how. */
function recordOf(
  { rotation, offers: shown }: Drawn,
  { pin, without, redraw }: RotationRequest,
): [string[], 'pin' | 'without'] {
  if ([pin, without, redraw].filter((one) => one !== undefined && one !== false).length !== 1)
    throw new Problem('bad-request', 'Say one of: pin (an offer), without (an offer), redraw (true).');
  const offer = pin ?? without;
  if (offer !== undefined) {
    if (!rotation.pool.some(({ id }) => id === offer))
      throw notFound(
        `offer in the pool of ${rotation.key}`,
        offer,
        rotation.pool.map(({ id }) => id),
      );
    return [[offer], pin === undefined ? 'without' : 'pin'];
  }
  if (rotation.perPlayer)
    throw new Problem('bad-request', 'Each player has a selection of their own here: pin an offer, or take one out.');
  // Everything that is on show goes, as far as the pool can replace it.
  const spare = rotation.pool.length - rotation.show;
  if (spare <= 0)
    throw new Problem(
      'bad-request',
      `The pool of ${rotation.key} holds nothing else to show. Put more offers into it.`,
    );
  return [shown.slice(0, spare), 'without'];
}

export const timeHandlers = {
  'GET /calendar': (incoming) => ({ body: calendarOf(incoming) }),
  'GET /calendar.ics': (incoming) => {
    const calendar = calendarOf(incoming);
    return {
      bytes: {
        type: 'text/calendar; charset=utf-8',
        content: calendarIcs(calendar, calendar.name, incoming.service.now()),
      },
      headers: { 'Content-Disposition': 'attachment; filename="calendar.ics"' },
    };
  },
  'GET /rotations': ({ service, query: { source, at, player = '' } }) => {
    const { economy, atMs } = service.sources.at(source, at);
    const items = shelvesOf(economy).flatMap((one) => {
      const shown = shelfShown(economy, one.shelf, player, atMs);
      return shown.kind === 'drawn' ? [rotationView(service, economy, one, shown)] : [];
    });
    return { body: { atMs, items, next: null } };
  },
  'POST /rotations/{shop}/{shelf}/records': async ({ service, params, who, query: { source }, body }) => {
    const { economy } = service.sources.of(source);
    const key = `${params.shop}/${params.shelf}`;
    const found = shelvesOf(economy).find(({ shelf }) => shelf.key === key);
    const nowMs = service.now();
    const atMs = found && askedMs(economy, found.shelf, body, nowMs);
    const shown = found && shelfShown(economy, found.shelf, '', atMs!);
    if (shown?.kind === 'all' && shown.untilMs !== null)
      throw new Problem(
        'bad-request',
        `Until the rotation takes hold, at ${new Date(shown.untilMs).toISOString()}, all of ${key} is on show.`,
      );
    if (shown?.kind !== 'drawn')
      throw notFound(
        'rotating shelf',
        key,
        shelvesOf(economy).flatMap(({ shelf }) => (shelf.rotation ? [shelf.key] : [])),
      );
    if (shown.period.endMs <= nowMs)
      throw new Problem('bad-request', 'That period is over: what players have seen stays as it was.');
    const [offers, kind] = recordOf(shown, body);
    await service.writer.submit(() =>
      service.rotations.record(key, shown.period, offers, kind, body.why ?? '', who.name),
    );
    const after = service.sources.of(source).economy;
    const now = shelvesOf(after).find(({ shelf }) => shelf.key === key)!;
    const shownNow = shelfShown(after, now.shelf, '', shown.period.startMs) as Drawn;
    return { status: 201, body: rotationView(service, after, now, shownNow) };
  },
  'DELETE /rotations/records/{record}': async ({ service, params: { record }, who }) => {
    await service.writer.submit(() => service.rotations.end(record, who.name));
    return { body: { ended: record } };
  },
  'GET /stream': ({ service, header }, stream) => {
    stream.open();
    const stop = service.stream.listen((event) => stream.send(event.type, event, event.id), header('last-event-id'));
    stream.onClose(stop);
  },
} satisfies Partial<Handlers>;
