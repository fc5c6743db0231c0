/** Players, their ledger, events and grants. */
import type { RuleOutcome, RuleTried, Tried } from '../../core/earning/index.js';
import type { Player, Stack } from '../../core/player/index.js';
import type { GoalStanding, TrackStanding } from '../../core/progress/index.js';
import type { Counter, Level } from '../../core/schedule/index.js';
import {
  anyKeys,
  anyNumber,
  anyText,
  anyWhole,
  checked,
  choice,
  either,
  exactly,
  fields,
  isRecord,
  listOf,
  mapOf,
  maybe,
  named,
  orNull,
  record,
  shapeOf,
  text,
  wholeNumber,
  yesNo,
} from '../../core/schema/index.js';
import type { Shape, ValueOf } from '../../core/schema/index.js';
import type { KeptOutTold } from '../../core/texts/index.js';
import { goals, progress, shared, tracks } from './progress.js';
import { amounts, attributesSent, keptOut, listed, profile, unitsBasket, values } from './common.js';

const PLAYER_ID = /^[A-Za-z0-9_.:-]{1,64}$/;
/** What a game calls a player, or a team. */
export const playerId = () =>
  checked<string>({ type: 'string', pattern: PLAYER_ID.source }, (written) =>
    typeof written === 'string' && PLAYER_ID.test(written)
      ? undefined
      : {
          code: 'malformed-id',
          problem: `${JSON.stringify(written)} cannot be an id here`,
          fix: 'Use 1 to 64 letters, digits, _ . : or -.',
        },
  );

export const newPlayer = named(
  'NewPlayer',
  fields({ id: playerId().required(), name: text(120), attributes: attributesSent() }),
);
export const event = named(
  'Event',
  fields({ id: text(200).required(), name: text(64).required(), fields: attributesSent() }),
);
export const MOST_EVENTS = 1000;
export const events = fields({
  events: listOf(event, {
    least: 1,
    most: MOST_EVENTS,
    of: 'events',
    fix: 'Send [{"id": "...", "name": "...", "fields": {...}}].',
  }).required(),
});
/** Of one asset, in smallest units: more is a slip, and would stay in the ledger for ever. */
const MOST_GRANTED = 1_000_000_000_000;

export const grant = named(
  'Grant',
  fields({ gives: unitsBasket(1, MOST_GRANTED), takes: unitsBasket(1), reason: text(500).required() }),
);

export const playerRow = named('PlayerRow', record({ id: anyText(), name: anyText(), startedMs: anyWhole() }));
const level = shapeOf<Level>({ units: anyWhole(), sinceMs: orNull(anyWhole()) });
const stack = shapeOf<Stack>({
  slot: anyWhole(),
  item: anyText(),
  units: anyWhole(),
  place: anyText(),
  cause: anyText(),
  usesLeft: orNull(anyWhole()),
  expiresMs: orNull(anyWhole()),
  paid: orNull(amounts()),
});
export type PlayerView = Omit<Player, 'teams'> & {
  teams: { kind: string; id: string; name: string }[];
  atMs: number;
  release: number;
  goals: GoalStanding[];
  tracks: TrackStanding[];
};
export const player = named(
  'Player',
  shapeOf<PlayerView>({
    atMs: anyWhole(),
    release: anyWhole(),
    id: anyText(),
    name: anyText(),
    startedMs: anyWhole(),
    attributes: values(),
    balances: mapOf(level, anyKeys),
    stacks: listed('stacks', stack),
    counters: mapOf(shapeOf<Counter>({ count: anyWhole(), startMs: anyWhole() }), anyKeys),
    stocks: mapOf(level, anyKeys),
    teams: listed('teams', record({ kind: anyText(), id: anyText(), name: anyText() })),
    goals: goals(),
    tracks: tracks(),
  }),
);
/** What somebody had who is erased now. */
export const playerGone = named('PlayerGone', record({ player: anyText(), lost: amounts() }));

export const movement = named(
  'Movement',
  record({
    id: anyWhole(),
    player: anyText(),
    asset: anyText(),
    units: anyWhole(),
    fromAccount: anyText(),
    toAccount: anyText(),
    cause: anyText(),
    release: anyWhole(),
    atMs: anyWhole(),
  }),
);
export type MovementRow = ValueOf<typeof movement>;

type Told<T> = T extends { dropped: unknown } ? T & { keptOut: KeptOutTold[] } : T;
/** What a rule did, with what was kept out and why. */
export type EventOutcome = Told<RuleOutcome>;
type Paid = Extract<EventOutcome, { paid: true }>;
type Full = Extract<EventOutcome, { why: 'kept-out' }>;
type Skipped = Exclude<EventOutcome, Paid | Full>;
const isPaid = (value: unknown): boolean => isRecord(value) && value['paid'] === true;
const isFull = (value: unknown): boolean => isRecord(value) && value['why'] === 'kept-out';
const outcome = either<EventOutcome>(
  [
    {
      fits: isPaid,
      schema: shapeOf<Paid>({
        rule: anyText(),
        paid: exactly(true),
        given: amounts(),
        taken: amounts(),
        dropped: amounts(),
        missed: amounts(),
        shared: shared(),
        keptOut: keptOut(),
      }),
    },
    {
      fits: isFull,
      schema: shapeOf<Full>({
        rule: anyText(),
        paid: exactly(false),
        why: exactly('kept-out'),
        dropped: amounts(),
        keptOut: keptOut(),
      }),
    },
    {
      fits: isRecord,
      schema: shapeOf<Skipped>({
        rule: anyText(),
        paid: exactly(false),
        why: choice('when', 'chance', 'limit', 'cooldown', 'formula'),
        resetsMs: maybe(anyWhole()),
        problem: maybe(anyText()),
      }),
    },
  ],
  () => ({ problem: 'it says neither that it paid nor why not', fix: 'See the schema.' }),
);
export const eventAnswer = named(
  'EventAnswer',
  record({
    id: anyText(),
    name: anyText(),
    repeated: yesNo(),
    outcomes: listed('outcomes', outcome),
    /** Answers that are older than goals have none. */
    progress: maybe(progress()),
  }),
);
export type EventAnswer = ValueOf<typeof eventAnswer>;
/** Of players and of teams. `dropped` did not fit; `missed` was not there to be taken. */
export const granted = () => ({
  grant: anyWhole(),
  given: amounts(),
  taken: amounts(),
  dropped: amounts(),
  missed: amounts(),
});
export const grantAnswer = named(
  'GrantAnswer',
  record({
    ...granted(),
    keptOut: keptOut(),
    progress: maybe(progress()),
  }),
);
export type GrantAnswer = ValueOf<typeof grantAnswer>;

/** As many of one event, and in all: each is worked out. */
export const MOST_TRIED = 10_000;
export const tryAsked = named(
  'Try',
  fields({
    player: text(64),
    profile,
    source: text(64),
    at: text(40),
    seed: wholeNumber(0, 4_294_967_295),
    events: listOf(fields({ name: text(64).required(), fields: attributesSent(), times: wholeNumber(1, MOST_TRIED) }), {
      least: 1,
      most: 100,
      of: 'events',
      fix: 'Send [{"name": "...", "fields": {...}, "times": 20}].',
    }).required(),
  }),
);
const ruleTried = shapeOf<RuleTried>({
  rule: anyText(),
  name: anyText(),
  event: anyText(),
  paid: anyWhole(),
  given: amounts(),
  taken: amounts(),
  dropped: amounts(),
  missed: amounts(),
  shared: amounts(),
  skipped: mapOf(anyWhole(), anyKeys) as unknown as Shape<RuleTried['skipped']>,
  problem: orNull(anyText()),
});
const some = () => anyNumber(-Number.MAX_VALUE, Number.MAX_VALUE);
export const tried = named(
  'Tried',
  shapeOf<Tried & { release: number | null }>({
    release: orNull(anyWhole()),
    events: anyWhole(),
    minutes: orNull(some()),
    rules: listed('rules', ruleTried),
    progress: progress(),
    net: amounts(),
    perHour: orNull(mapOf(some(), anyKeys)),
    goals: goals(),
    tracks: tracks(),
  }),
);
export type TriedView = ValueOf<typeof tried>;
