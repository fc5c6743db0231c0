/** Simulations: what is asked, how far a run is, its result, and two of them side by side. */
import { RESULT_VERSION } from '../../core/simulation/index.js';
import type {
  Comparison,
  Difference,
  ScenarioOptions,
  SimulationResult,
  TargetRow,
} from '../../core/simulation/index.js';
import {
  anyJson,
  anyKeys,
  anyText,
  anyWhole,
  choice,
  either,
  exactly,
  fields,
  finiteNumber,
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
import type { ValueOf } from '../../core/schema/index.js';
import { listed, texts } from './common.js';

const MOST_OVERRIDES = 200;
/** JSON pointers into the economy, and the values to take instead. */
export const overrides = () =>
  mapOf(
    anyJson(64),
    {
      test: (key) => key.startsWith('/'),
      rule: 'an override is a JSON pointer into the economy',
      pattern: '^/',
    },
    MOST_OVERRIDES,
  );
const options = {
  set: overrides(),
  days: wholeNumber(1, 3650),
  players: wholeNumber(1, 1_000_000),
  seed: wholeNumber(0, 4_294_967_295),
};
const MOST_NAME = 80;
export const runRequest = named(
  'RunRequest',
  fields({ scenario: text(64).required(), source: text(64), name: text(MOST_NAME), ...options }),
);
export const runChange = named('RunChange', fields({ name: text(MOST_NAME).required() }));

export const RUN_STATUSES = ['waiting', 'running', 'done', 'failed', 'cancelled'] as const;
const setup = record({
  scenario: anyText(),
  source: anyText(),
  /** In words, what is set for this run alone, as things were called when it was begun; runs of before have none. */
  differs: maybe(listed('words', anyText())),
  options: shapeOf<ScenarioOptions>({
    set: maybe(options.set),
    days: maybe(options.days),
    players: maybe(options.players),
    seed: maybe(options.seed),
  }),
});
/** How many targets a run met, missed beyond doubt, and left open or could not measure. */
const marks = record({ met: anyWhole(), missed: anyWhole(), open: anyWhole() });
export type RunMarks = ValueOf<typeof marks>;
export const run = named(
  'Run',
  record({
    id: anyWhole(),
    name: anyText(),
    status: choice(...RUN_STATUSES),
    day: anyWhole(),
    days: anyWhole(),
    done: finiteNumber(),
    createdMs: anyWhole(),
    createdBy: anyText(),
    error: orNull(anyText()),
    marks: orNull(marks),
    setup,
    /** Of one that waits: how many have their turn before it, and about how long that takes; null while it cannot be told. */
    waits: maybe(record({ ahead: anyWhole(), aboutMs: orNull(anyWhole()) })),
  }),
);
export type RunView = ValueOf<typeof run>;
export type RunStatus = RunView['status'];
export type RunSetupView = RunView['setup'];

const numbers = () => listed('numbers', finiteNumber());
const numbersOrNone = () => listed('numbers', orNull(finiteNumber()));
const daysOrNone = () => listed('days', orNull(anyWhole()));
type Result = SimulationResult;
/** The columns of a time until something comes to pass. */
const waiting = () => ({
  n: numbers(),
  happened: numbers(),
  median: daysOrNone(),
  medianLow: daysOrNone(),
  medianHigh: daysOrNone(),
  mean: numbersOrNone(),
  meanLow: numbersOrNone(),
  meanHigh: numbersOrNone(),
});
const judged = () => ({
  id: anyText(),
  name: anyText(),
  unit: choice('days', 'percent', 'money', 'times'),
  currency: orNull(anyWhole()),
  from: orNull(finiteNumber()),
  to: orNull(finiteNumber()),
});
const targetRow = named(
  'TargetRow',
  either<TargetRow>(
    [
      {
        fits: (value) => isRecord(value) && value['mark'] === 'unknown',
        schema: record({ ...judged(), mark: exactly('unknown'), why: anyText() }),
      },
      {
        fits: isRecord,
        schema: record({
          ...judged(),
          mark: choice('met', 'under', 'over', 'undecided'),
          value: orNull(finiteNumber()),
          low: orNull(finiteNumber()),
          high: orNull(finiteNumber()),
          n: anyWhole(),
          off: finiteNumber(),
          decides: orNull(anyWhole()),
        }),
      },
    ],
    () => ({ problem: 'it has no mark', fix: 'See the schema.' }),
  ),
);
export const runResult = named(
  'RunResult',
  shapeOf<Result>({
    version: exactly(RESULT_VERSION),
    scenario: anyText(),
    name: anyText(),
    economy: anyText(),
    zone: anyText(),
    seed: anyWhole(),
    startMs: anyWhole(),
    days: anyWhole(),
    personas: listed('personas', record({ id: anyText(), name: anyText(), players: anyWhole() })),
    currencies: listed('currencies', record({ id: anyText(), name: anyText(), decimals: anyWhole() })),
    balances: shapeOf<Result['balances']>({
      day: numbers(),
      persona: numbers(),
      currency: numbers(),
      p5: numbersOrNone(),
      p25: numbersOrNone(),
      p50: numbersOrNone(),
      p75: numbersOrNone(),
      p95: numbersOrNone(),
      mean: numbersOrNone(),
      meanLow: numbersOrNone(),
      meanHigh: numbersOrNone(),
      n: numbers(),
    }),
    supply: shapeOf<Result['supply']>({
      day: numbers(),
      currency: numbers(),
      units: numbers(),
      gini: numbersOrNone(),
      giniLow: numbersOrNone(),
      giniHigh: numbersOrNone(),
      n: numbers(),
    }),
    flows: shapeOf<Result['flows']>({
      day: numbers(),
      persona: numbers(),
      currency: numbers(),
      direction: listed('directions', choice('in', 'out')),
      cause: texts(),
      units: numbers(),
    }),
    caps: shapeOf<Result['caps']>({
      day: numbers(),
      persona: numbers(),
      currency: numbers(),
      times: numbers(),
      dropped: numbers(),
    }),
    offers: shapeOf<Result['offers']>({
      offer: texts(),
      name: texts(),
      persona: numbers(),
      times: numbers(),
      players: numbers(),
      share: numbersOrNone(),
      shareLow: numbersOrNone(),
      shareHigh: numbersOrNone(),
      refused: listed('counts', mapOf(anyWhole(), anyKeys)),
    }),
    sales: shapeOf<Result['sales']>({
      offer: texts(),
      name: texts(),
      times: numbers(),
      firstDay: numbers(),
      soldOutMs: numbersOrNone(),
      soldOutShare: numbersOrNone(),
    }),
    items: shapeOf<Result['items']>({
      item: texts(),
      name: texts(),
      persona: numbers(),
      share: listed('shares', numbers()),
      owned: shapeOf<Result['items']['owned']>(waiting()),
      afforded: shapeOf<Result['items']['afforded']>(waiting()),
    }),
    goals: maybe(
      shapeOf<NonNullable<Result['goals']>>({
        goal: texts(),
        name: texts(),
        persona: numbers(),
        share: listed('shares', numbers()),
        reached: shapeOf<Result['items']['owned']>(waiting()),
      }),
    ),
    levels: maybe(
      shapeOf<NonNullable<Result['levels']>>({
        track: texts(),
        name: texts(),
        level: numbers(),
        persona: numbers(),
        reached: shapeOf<Result['items']['owned']>(waiting()),
      }),
    ),
    unplayed: maybe(
      shapeOf<NonNullable<Result['unplayed']>>({
        act: listOf(choice('open', 'use', 'collect', 'sell', 'share', 'money'), { most: 10_000, of: 'acts' }),
        name: texts(),
        units: numbersOrNone(),
      }),
    ),
    heights: maybe(
      shapeOf<NonNullable<Result['heights']>>({
        day: numbers(),
        track: texts(),
        name: texts(),
        persona: numbers(),
        p5: numbersOrNone(),
        p25: numbersOrNone(),
        p50: numbersOrNone(),
        p75: numbersOrNone(),
        p95: numbersOrNone(),
        n: numbers(),
      }),
    ),
    prices: shapeOf<Result['prices']>({ day: numbers(), currency: numbers(), index: numbers(), spent: numbers() }),
    activities: shapeOf<Result['activities']>({
      activity: texts(),
      name: texts(),
      persona: numbers(),
      currency: numbers(),
      plays: numbers(),
      perMinute: numbers(),
      low: numbersOrNone(),
      high: numbersOrNone(),
    }),
    dry: shapeOf<Result['dry']>({ persona: numbers(), wants: listed('lists', texts()), ...waiting() }),
    players: shapeOf<Result['players']>({
      persona: numbers(),
      lastDay: numbers(),
      balance: listed('balances', numbers()),
      ownedDay: mapOf(daysOrNone(), anyKeys),
      affordedDay: mapOf(daysOrNone(), anyKeys),
      goalDay: maybe(mapOf(daysOrNone(), anyKeys)),
      levelDay: maybe(mapOf(daysOrNone(), anyKeys)),
      shopDays: numbers(),
      reasonDays: mapOf(numbers(), anyKeys),
      wallets: listed('wallets', record({ currency: anyWhole(), day: anyWhole(), units: daysOrNone() })),
    }),
    targets: listed('targets', targetRow),
    totals: shapeOf<Result['totals']>({
      playerDays: anyWhole(),
      sessions: anyWhole(),
      events: anyWhole(),
      purchases: anyWhole(),
      movements: anyWhole(),
    }),
  }),
);

const difference = named(
  'Difference',
  shapeOf<Difference>({
    variant: anyWhole(),
    metric: choice('balance', 'owned', 'days-to-own'),
    persona: anyText(),
    subject: anyText(),
    decimals: anyWhole(),
    before: finiteNumber(),
    after: finiteNumber(),
    difference: finiteNumber(),
    low: orNull(finiteNumber()),
    high: orNull(finiteNumber()),
    pairs: anyWhole(),
    distinguishable: yesNo(),
  }),
);
export const comparison = named(
  'Comparison',
  either<Comparison>(
    [
      {
        fits: (value) => isRecord(value) && value['comparable'] === true,
        schema: record({
          comparable: exactly(true),
          differsFrom: daysOrNone(),
          differences: listed('differences', difference),
        }),
      },
      { fits: isRecord, schema: record({ comparable: exactly(false), why: anyText() }) },
    ],
    () => ({ problem: 'it does not say whether the runs can be compared', fix: 'See the schema.' }),
  ),
);
