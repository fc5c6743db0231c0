/** What probability theory knows of small games, against the intervals that runs state: 95% of them must hold the truth. */
import { documentOf } from '../../../tests/support/economy.js';
import { scenarioResolve, simulateEngine } from './index.js';
import type { SimulationResult } from './index.js';

const SEEDS = 200;
const DAYS = 16;
/** 91% to 99% of two hundred. */
const LEAST = 182;
const MOST = 198;

/**
 * A walk takes 10 minutes and pays a Poisson count of shells. With it a charm may come, a gift that comes at the latest
 * at the fifth time, and one of three tails.
 */
const CHARM = 0.06;
const GIFT = 1 / 6;
const GIFT_WITHIN = 5;
const SHELLS = 4;
const LEAVES = 0.05;
const world = documentOf(`
events: {walk: {fields: {finds: number}}}
currencies: {shells: {name: Shells}, breeze: {name: Breeze, start: 4, refill: {amount: 1, every: PT7H, upTo: 6}}}
items:
  charm: {name: Charm, kind: durable}
  gift: {name: Gift, kind: consumable}
  tail_a: {name: Tail A, kind: durable}
  tail_b: {name: Tail B, kind: durable}
  tail_c: {name: Tail C, kind: durable}
shops: {}
loot:
  gifts: {name: Gifts, entries: {gift: {weight: 1, gives: {gift: 1}}, nothing: {weight: 5}}, guarantee: {entry: gift, within: ${GIFT_WITHIN}}}
  tails: {name: Tails, entries: {a: {weight: 1, gives: {tail_a: 1}}, b: {weight: 1, gives: {tail_b: 1}}, c: {weight: 1, gives: {tail_c: 1}}}}
earning:
  finds: {name: Finds, on: walk, gives: {shells: "=finds"}}
  charm: {name: Charm, on: walk, chance: ${CHARM}, gives: {charm: 1}}
  gift: {name: Gift, on: walk, loot: gifts}
  tail: {name: Tail, on: walk, loot: tails}
activities: {walk: {name: Walk, minutes: 10, emits: {walk: {finds: {poisson: ${SHELLS}}}}}}
personas:
  weekender: {name: Weekender, sessions: {perDay: 1, fixed: true, minutes: 10, from: 9, to: 20}, plays: {walk: 1}, shops: {policy: wishlist, wishes: []}}
  racer: {name: Racer, sessions: {perDay: 1, fixed: true, minutes: 30, from: 9, to: 20}, plays: {walk: 1}, shops: {policy: wishlist, wishes: [tail_a, tail_b, tail_c]}}
  daydreamer: {name: Daydreamer, sessions: {perDay: 1, fixed: true, minutes: 10, from: 9, to: 20}, plays: {walk: 1}, leaves: ${LEAVES}, shops: {policy: wishlist, wishes: []}}
  patron: {name: Patron, sessions: {perDay: 2, minutes: 10, from: 9, to: 20}, plays: {walk: 1}, shops: {policy: wishlist, wishes: []}}
scenarios:
  days: {name: Days, start: "2027-03-01", days: ${DAYS}, players: 240, seed: 1, mix: {weekender: 1, racer: 1, daydreamer: 1, patron: 1}}
`);

const runs: SimulationResult[] = [];
beforeAll(() => {
  const setup = scenarioResolve(world, 'days');
  if (!setup.ok) throw new Error(JSON.stringify(setup.issues));
  for (let seed = 1; seed <= SEEDS; seed++) runs.push(simulateEngine({ ...setup.value, seed }));
});

interface Interval {
  low: number | null;
  high: number | null;
}
/** In how many of the runs the interval holds the truth. */
const held = (truth: number, intervalOf: (run: SimulationResult) => Interval): number =>
  runs.filter((run) => {
    const { low, high } = intervalOf(run);
    return low! <= truth && truth <= high!;
  }).length;

/** The mean of days until something of which `later(day)` is the chance that it comes after that day; all days where it comes not. */
const meanDays = (later: (day: number) => number): number =>
  Array.from({ length: DAYS }, (_, day) => later(day)).reduce((sum, chance) => sum + chance, 0);

const PERSONAS = ['weekender', 'racer', 'daydreamer', 'patron'];
const meanOf =
  (item: string, persona: string) =>
  ({ items }: SimulationResult): Interval => {
    const row = items.item.findIndex((one, at) => one === item && items.persona[at] === PERSONAS.indexOf(persona));
    return { low: items.owned.meanLow[row]!, high: items.owned.meanHigh[row]! };
  };
const balanceOf =
  (persona: string, currency: number) =>
  ({ balances }: SimulationResult): Interval => {
    const row = balances.day.findLastIndex(
      (_, at) => balances.persona[at] === PERSONAS.indexOf(persona) && balances.currency[at] === currency,
    );
    return { low: balances.meanLow[row]!, high: balances.meanHigh[row]! };
  };

/** Draws of an urn of three until each has come: by inclusion and exclusion, the chance that some are missing after `draws`. */
const someMissing = (draws: number): number => 3 * (2 / 3) ** draws - 3 * (1 / 3) ** draws;

test.each<[string, number, (run: SimulationResult) => Interval]>([
  ['a drop with one try a day is geometric', meanDays((day) => (1 - CHARM) ** (day + 1)), meanOf('charm', 'weekender')],
  [
    'with three tries a day its chance is 1 - (1 - p)^3',
    meanDays((day) => (1 - CHARM) ** (3 * (day + 1))),
    meanOf('charm', 'racer'),
  ],
  [
    'players who leave at a constant hazard do not change the estimate of those who stay',
    meanDays((day) => (1 - CHARM) ** (day + 1)),
    meanOf('charm', 'daydreamer'),
  ],
  [
    'a guaranteed drop comes by the fifth try',
    meanDays((day) => (day + 1 < GIFT_WITHIN ? (1 - GIFT) ** (day + 1) : 0)),
    meanOf('gift', 'weekender'),
  ],
  [
    'a full set of three',
    meanDays((day) => someMissing(3 * (day + 1))),
    ({ dry }) => {
      const row = dry.persona.indexOf(PERSONAS.indexOf('racer'));
      return { low: dry.meanLow[row]!, high: dry.meanHigh[row]! };
    },
  ],
  ['income of a fixed number of walks', DAYS * SHELLS, balanceOf('weekender', 0)],
  ['income of a Poisson number of sessions', DAYS * 2 * SHELLS, balanceOf('patron', 0)],
  [
    'a Poisson count, by minute of play',
    SHELLS / 10,
    ({ activities }) => {
      const row = activities.persona.indexOf(PERSONAS.indexOf('racer'));
      return { low: activities.low[row]!, high: activities.high[row]! };
    },
  ],
])('%s: the interval holds it in 91%% to 99%% of 200 runs', (_, truth, intervalOf) => {
  const count = held(truth, intervalOf);
  expect({ enough: count >= LEAST, notTooWide: count <= MOST, count }).toEqual({
    enough: true,
    notTooWide: true,
    count,
  });
});

test('medians of a geometric wait lie in their interval as often as is said', () => {
  const median = Math.ceil(Math.log(0.5) / Math.log(1 - CHARM)) - 1;
  const count = runs.filter(({ items }) => {
    const row = items.item.findIndex((one, at) => one === 'charm' && items.persona[at] === 0);
    const { medianLow, medianHigh } = items.owned;
    return (medianLow[row] ?? 0) <= median && median <= (medianHigh[row] ?? Infinity);
  }).length;
  // Whole days make an interval that is a little wide.
  expect(count).toBeGreaterThanOrEqual(LEAST);
});

test('where no chance is involved the interval has no width: a refill stops at what it fills up to', () => {
  for (const run of runs) {
    expect(balanceOf('weekender', 1)(run)).toEqual({ low: 6, high: 6 });
  }
});

test('a constant income affords a fixed price on the same day for all', () => {
  const document = structuredClone(world);
  document.items!['gift'] = { name: 'Gift', kind: 'durable', carry: 1, worth: { shells: 50 } } as never;
  document.shops = {
    stall: { name: 'Stall', shelves: { main: { name: 'Main', offers: { gift: { gives: 'gift' } } } } },
  };
  document.loot = {};
  document.earning = { finds: { name: 'Finds', on: 'walk', gives: { shells: 4 } } };
  const setup = scenarioResolve(document, 'days', { seed: 3 });
  if (!setup.ok) throw new Error(JSON.stringify(setup.issues));
  const { items } = simulateEngine(setup.value);
  const row = items.persona.indexOf(PERSONAS.indexOf('racer'));
  // Twelve a day: 50 are there on the fifth day, which is day 4.
  const { median, medianLow, medianHigh, mean, meanLow, meanHigh } = items.afforded;
  expect([median, medianLow, medianHigh, mean, meanLow, meanHigh].map((column) => column[row])).toEqual([
    4, 4, 4, 4, 4, 4,
  ]);
});
