/** Simulations: what is asked, how far a run is, its result, and two of them side by side. */
import type { Comparison, Difference, ScenarioOptions, SimulationResult } from '../../core/simulation/index.js';
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
export const runRequest = named('RunRequest', fields({ scenario: text(64).required(), source: text(64), ...options }));

export const RUN_STATUSES = ['waiting', 'running', 'done', 'failed', 'cancelled'] as const;
const setup = record({
  scenario: anyText(),
  source: anyText(),
  options: shapeOf<ScenarioOptions>({
    set: maybe(options.set),
    days: maybe(options.days),
    players: maybe(options.players),
    seed: maybe(options.seed),
  }),
});
export const run = named(
  'Run',
  record({
    id: anyWhole(),
    name: anyText(),
    status: choice(...RUN_STATUSES),
    day: anyWhole(),
    days: anyWhole(),
    createdMs: anyWhole(),
    createdBy: anyText(),
    error: orNull(anyText()),
    setup,
  }),
);
export type RunView = ValueOf<typeof run>;
export type RunStatus = RunView['status'];
export type RunSetupView = RunView['setup'];

const numbers = () => listed('numbers', finiteNumber());
const numbersOrNone = () => listed('numbers', orNull(finiteNumber()));
const daysOrNone = () => listed('days', orNull(anyWhole()));
type Result = SimulationResult;
export const runResult = named(
  'RunResult',
  shapeOf<Result>({
    version: exactly(1),
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
    flows: shapeOf<Result['flows']>({
      day: numbers(),
      persona: numbers(),
      currency: numbers(),
      direction: listed('directions', choice('in', 'out')),
      cause: texts(),
      units: numbers(),
    }),
    offers: shapeOf<Result['offers']>({
      offer: texts(),
      name: texts(),
      times: numbers(),
      players: numbers(),
      firstDay: daysOrNone(),
      refused: listed('counts', mapOf(anyWhole(), anyKeys)),
    }),
    items: shapeOf<Result['items']>({
      item: texts(),
      name: texts(),
      persona: numbers(),
      n: numbers(),
      owners: numbers(),
      median: daysOrNone(),
      medianLow: daysOrNone(),
      medianHigh: daysOrNone(),
      share: listed('shares', numbers()),
    }),
    players: shapeOf<Result['players']>({
      persona: numbers(),
      lastDay: numbers(),
      balance: listed('balances', numbers()),
      ownedDay: mapOf(daysOrNone(), anyKeys),
    }),
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
        schema: record({ comparable: exactly(true), differences: listed('differences', difference) }),
      },
      { fits: isRecord, schema: record({ comparable: exactly(false), why: anyText() }) },
    ],
    () => ({ problem: 'it does not say whether the runs can be compared', fix: 'See the schema.' }),
  ),
);
