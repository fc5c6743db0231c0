/** The calendar, what rotations have on show, and the stream of what happens. */
import type { CalendarView, Query, RotationRequest, RotationView } from '../../contract/index.js';
import { calendarIcs, calendarJoin, calendarMake } from '../../core/calendar/index.js';
import type { CalendarEntry } from '../../core/calendar/index.js';
import type { Economy, Rotation, Shelf, Shop } from '../../core/economy/index.js';
import { rotationInForce, rotationShown } from '../../core/rotation/index.js';
import { DAY_MS, beatPeriod, beatStart } from '../../core/schedule/index.js';
import type { BeatPeriod } from '../../core/schedule/index.js';
import { instantOf } from '../instant.js';
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

interface Rotating {
  shop: Shop;
  shelf: Shelf;
  rotation: Rotation;
}

function rotating(economy: Economy): Rotating[] {
  return [...economy.shops.values()].flatMap((shop) =>
    shop.shelves.flatMap((shelf) => (shelf.rotation ? [{ shop, shelf, rotation: shelf.rotation }] : [])),
  );
}

function rotationView(
  service: Service,
  economy: Economy,
  { shop, shelf, rotation }: Rotating,
  period: BeatPeriod,
  player: string,
): RotationView {
  const record = economy.rotationRecords.get(rotation.key);
  const { offers } = rotationShown(rotation, record, player, period.startMs);
  const nameOf = (id: string) => economy.offers.get(id)?.name ?? id;
  const pinned = record?.periods.get(period.index)?.pinned ?? [];
  return {
    shop: shop.id,
    shelf: shelf.id,
    name: `${shelf.name} at ${shop.name}`,
    period: period.index,
    startMs: period.startMs,
    endMs: period.endMs,
    shown: offers.map((id) => ({ id, name: nameOf(id), pinned: pinned.includes(id) })),
    pool: rotation.pool.map(({ id }) => ({ id, name: nameOf(id) })),
    records: service.rotations.standing().filter((row) => row.shelf === rotation.key && row.period === period.index),
  };
}

const periodOf = (rotation: Rotation, index: number): BeatPeriod => ({
  index,
  startMs: beatStart(rotation.beat, index),
  endMs: beatStart(rotation.beat, index + 1),
});

/** What is to be recorded of a period, and how. */
function recordOf(
  rule: Rotating,
  shown: readonly string[],
  { pin, without, redraw }: RotationRequest,
): [string[], 'pin' | 'without'] {
  const { rotation } = rule;
  if ([pin, without, redraw].filter((one) => one !== undefined && one !== false).length !== 1)
    throw new Problem('bad-request', 'Say one of: pin (an offer), without (an offer), redraw (true).');
  const offer = pin ?? without;
  if (offer !== undefined) {
    if (!rotation.pool.some(({ id }) => id === offer)) throw notFound(`offer in the pool of ${rotation.key}`, offer);
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
    const items = rotating(economy).map((rule) => {
      const record = economy.rotationRecords.get(rule.rotation.key);
      const period = beatPeriod(rotationInForce(rule.rotation, record, atMs).beat, atMs);
      return rotationView(service, economy, rule, period, player);
    });
    return { body: { atMs, items, next: null } };
  },
  'POST /rotations/{shop}/{shelf}/records': async ({ service, params, who, query: { source }, body }) => {
    const { economy } = service.sources.of(source);
    const key = `${params.shop}/${params.shelf}`;
    const rule = rotating(economy).find(({ rotation }) => rotation.key === key);
    if (!rule) throw notFound('rotating shelf', key);
    const nowMs = service.now();
    const period =
      body.period === undefined
        ? beatPeriod(rule.rotation.beat, instantOf(body.at, economy.zone, nowMs))
        : periodOf(rule.rotation, body.period);
    if (period.endMs <= nowMs)
      throw new Problem('bad-request', 'That period is over: what players have seen stays as it was.');
    const record = economy.rotationRecords.get(key);
    const shown = rotationShown(rule.rotation, record, '', period.startMs).offers;
    const [offers, kind] = recordOf(rule, shown, body);
    await service.writer.submit(() =>
      service.rotations.record(key, period.index, offers, kind, body.why ?? '', who.name),
    );
    const after = service.sources.of(source).economy;
    const now = rotating(after).find(({ rotation }) => rotation.key === key)!;
    return { status: 201, body: rotationView(service, after, now, period, '') };
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
