/** Releases, channels, what rotations have on show, the calendar, and what the stream tells. */
import type { Calendar, CalendarEntry, CalendarLane } from '../../core/calendar/index.js';
import {
  anyText,
  anyWhole,
  choice,
  exactly,
  fields,
  named,
  orNull,
  record,
  shapeOf,
  text,
  wholeNumber,
  yesNo,
} from '../../core/schema/index.js';
import { anyJson, anyKeys, mapOf } from '../../core/schema/index.js';
import type { Shape, ValueOf } from '../../core/schema/index.js';
import { listed, texts } from './common.js';
import { change, document } from './draft.js';

const releaseNumber = () => wholeNumber(1, Number.MAX_SAFE_INTEGER);

export const publishRequest = named(
  'PublishRequest',
  fields({ note: text(2000).required(), channel: text(64), revision: releaseNumber(), at: text(40) }),
);
export const pointRequest = named(
  'PointRequest',
  fields({ release: releaseNumber().required(), at: text(40), note: text(2000) }),
);

const release = {
  number: anyWhole(),
  note: anyText(),
  draftRevision: anyWhole(),
  publishedMs: anyWhole(),
  publishedBy: anyText(),
};
export const releaseRow = named('Release', record(release));
export const releaseWhole = named('ReleaseWhole', record({ ...release, document, changes: listed('changes', change) }));
export type ReleaseView = ValueOf<typeof releaseRow>;

/** What a source names; `release` is null for the draft. */
export const source = named('Source', record({ release: orNull(anyWhole()), revision: orNull(anyWhole()), document }));

/** A channel being pointed at a release, at once or from a set time. */
export const move = named(
  'Move',
  record({
    move: anyWhole(),
    release: anyWhole(),
    atMs: anyWhole(),
    scheduled: yesNo(),
    note: anyText(),
    madeMs: anyWhole(),
    madeBy: anyText(),
    /** When it was taken back, or its channel deleted. */
    endedMs: orNull(anyWhole()),
    endedBy: orNull(anyText()),
  }),
);
export type MoveView = ValueOf<typeof move>;
export const published = named(
  'Published',
  record({
    number: anyWhole(),
    note: anyText(),
    channel: anyText(),
    publishedMs: anyWhole(),
    /** From when on the channel points at it: now, or the set time. */
    fromMs: anyWhole(),
    scheduled: yesNo(),
    /** What is scheduled on the channel and will replace it. */
    coming: listed('moves', move),
    /** Cases that do not hold in it, by id. */
    brokenCases: texts(),
  }),
);
export type Published = ValueOf<typeof published>;
export const channel = named(
  'Channel',
  record({
    name: anyText(),
    /** null where nothing has come yet. */
    release: orNull(anyWhole()),
    changedMs: orNull(anyWhole()),
    changedBy: orNull(anyText()),
    /** Scheduled, soonest first. */
    coming: listed('moves', move),
  }),
);
export type ChannelView = ValueOf<typeof channel>;

/** What is recorded of a period of a rotation: one of `pin`, `without`, `redraw`. */
export const rotationRequest = named(
  'RotationRequest',
  fields({
    at: text(40),
    period: wholeNumber(-1_000_000_000, 1_000_000_000),
    pin: text(64),
    without: text(64),
    redraw: yesNo(),
    why: text(500),
  }),
);
export type RotationRequest = ValueOf<typeof rotationRequest>;
/** An offer pinned into a period of a rotation, or taken out of it. */
const rotationRecord = record({
  id: anyWhole(),
  shelf: anyText(),
  period: anyWhole(),
  startMs: anyWhole(),
  endMs: anyWhole(),
  kind: choice('pin', 'without'),
  offer: anyText(),
  why: anyText(),
  madeMs: anyWhole(),
  madeBy: anyText(),
});
export type RotationRecordView = ValueOf<typeof rotationRecord>;
export const rotation = named(
  'Rotation',
  record({
    shop: anyText(),
    shelf: anyText(),
    name: anyText(),
    period: anyWhole(),
    startMs: anyWhole(),
    endMs: anyWhole(),
    shown: listed('offers', record({ id: anyText(), name: anyText(), pinned: yesNo() })),
    pool: listed('offers', record({ id: anyText(), name: anyText() })),
    records: listed('records', rotationRecord),
  }),
);
export type RotationView = ValueOf<typeof rotation>;
export const rotations = record({
  atMs: anyWhole(),
  items: listed('rotations', rotation),
  next: orNull(anyText()),
});

const entry = named(
  'CalendarEntry',
  shapeOf<CalendarEntry>({
    kind: choice('open', 'rotation', 'sale', 'offer', 'end', 'release'),
    id: anyText(),
    name: anyText(),
    pointer: anyText(),
    startMs: anyWhole(),
    endMs: anyWhole(),
    offers: listed('offers', record({ id: anyText(), name: anyText() })),
    recurs: yesNo(),
    warnings: texts(),
  }),
);
export type CalendarView = Calendar & { release: number | null; name: string };
export const calendar = named(
  'Calendar',
  shapeOf<CalendarView>({
    release: orNull(anyWhole()),
    name: anyText(),
    fromMs: anyWhole(),
    toMs: anyWhole(),
    zone: anyText(),
    lanes: listed(
      'lanes',
      shapeOf<CalendarLane>({
        shop: orNull(anyText()),
        name: anyText(),
        closed: yesNo(),
        entries: listed('entries', entry),
      }),
    ),
    cut: yesNo(),
  }),
);

/** What the stream tells of, each with what its `data` says. `type` has `dimestall.` before it. */
export const STREAM_TYPES = {
  'draft.saved': 'The draft was saved: revision, who, why and what changed',
  'release.published': 'A release was published: number, note, channel, who',
  'channel.moved': 'A channel points at another release: release, who',
  'channel.scheduled': 'A release is to come on a channel: release, atMs, who',
  'channel.cancelled': 'What was to come on a channel does not: release, who',
  'channel.deleted': 'A channel is no more: who',
  'rotation.recorded': 'What a shelf has on show was pinned, drawn again, or given back: who',
  missed: 'What came after the event that was named as the last cannot be told any more: read what you keep anew',
} as const;
export type StreamType = keyof typeof STREAM_TYPES;
const STREAM_NAMES = Object.keys(STREAM_TYPES).map((type) => `dimestall.${type as StreamType}` as const);

/** CloudEvents 1.0. */
export const streamEvent = named(
  'StreamEvent',
  record({
    specversion: exactly('1.0'),
    id: anyText(),
    source: anyText(),
    type: choice(...STREAM_NAMES),
    subject: anyText(),
    time: anyText(),
    datacontenttype: exactly('application/json'),
    data: mapOf(anyJson(64), anyKeys) as Shape<Record<string, unknown>>,
  }),
);
export type StreamEvent = ValueOf<typeof streamEvent>;
