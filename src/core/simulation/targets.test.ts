/** Targets against runs of which every figure is known, and their marks where luck has a hand in it. */
import { documentOf } from '../../../tests/support/economy.js';
import type { EconomyDocument, TargetDocument } from '../document/index.js';
import { heightRows } from './figures.js';
import { scenarioResolve, simulateEngine } from './index.js';
import type { TargetRow } from './index.js';

/** Ten shells a day, of two walks; the frame is owned with the second walk of day 4. */
const world = (): EconomyDocument =>
  documentOf(`
events: {walk: {fields: {}}, climb: {fields: {}}}
currencies: {shells: {name: Shells}, pearls: {name: Pearls, decimals: 2}}
items: {frame: {name: Frame, kind: durable, carry: 1, worth: {shells: 40}}, kite: {name: Kite, kind: durable, worth: {shells: 9000}}}
shops: {stall: {name: Stall, shelves: {main: {name: Main, offers: {frame: {gives: frame}, kite: {gives: kite}}}}}}
earning:
  walk: {name: Walk, on: walk, gives: {shells: 5, pearls: 0.25}}
  climb: {name: Climb, on: climb, gives: {shells: 3}}
activities:
  walk: {name: Walk, minutes: 10, emits: {walk: {}}}
  climb: {name: Climb, minutes: 5, emits: {climb: {}}}
personas:
  walker:
    name: Walker
    sessions: {perDay: 2, fixed: true, minutes: 10, from: 9, to: 20}
    plays: {walk: 1}
    shops: {policy: wishlist, wishes: [frame]}
  climber:
    name: Climber
    sessions: {perDay: 2, fixed: true, minutes: 5, from: 9, to: 20}
    plays: {climb: 1}
    shops: {policy: wishlist, wishes: []}
scenarios:
  month: {name: Month, start: "2027-03-01", days: 10, players: 40, seed: 5, mix: {walker: 1, climber: 1}}
  other: {name: Other, start: "2027-03-01", days: 10, players: 40, seed: 5, mix: {walker: 1}}
`);

function rowOf(target: Omit<TargetDocument, 'name'>, document = world(), players?: number): TargetRow | undefined {
  document.targets = { one: { name: 'One', ...target } };
  const setup = scenarioResolve(document, 'month', players === undefined ? {} : { players });
  if (!setup.ok) throw new Error(JSON.stringify(setup.issues));
  return simulateEngine(setup.value).targets[0];
}

const WALKER = { persona: 'walker' } as const;

test.each<[Omit<TargetDocument, 'name'>, number | null, TargetRow['mark']]>([
  [{ measure: 'days-to-own', item: 'frame', ...WALKER, from: 4, to: 4 }, 4, 'met'],
  [{ measure: 'days-to-own', item: 'frame', ...WALKER, to: 3 }, 4, 'over'],
  [{ measure: 'days-to-own', item: 'frame', ...WALKER, from: 5 }, 4, 'under'],
  [{ measure: 'days-to-own', item: 'frame', ...WALKER, percentile: 75, from: 4, to: 9 }, 4, 'met'],
  // Twenty players are too few to speak of one in a hundred.
  [{ measure: 'days-to-own', item: 'frame', ...WALKER, percentile: 99, to: 9 }, 4, 'undecided'],
  [{ measure: 'days-to-own', item: 'frame', persona: 'climber', to: 10 }, null, 'over'],
  [{ measure: 'days-to-own', item: 'frame', persona: 'climber', from: 6 }, null, 'met'],
  // What lies behind the last day is not seen.
  [{ measure: 'days-to-own', item: 'frame', persona: 'climber', to: 30 }, null, 'unknown'],
  [{ measure: 'days-to-afford', item: 'frame', persona: 'climber', from: 7, to: 7 }, 7, 'met'],
  [{ measure: 'owners', item: 'frame', from: 50, to: 50 }, 50, 'undecided'],
  [{ measure: 'owners', item: 'frame', ...WALKER, day: 3, to: 20 }, 0, 'met'],
  [{ measure: 'owners', item: 'frame', ...WALKER, day: 4, from: 80 }, 100, 'met'],
  [{ measure: 'wallet', currency: 'shells', ...WALKER, day: 3, from: 30, to: 30 }, 30, 'met'],
  [{ measure: 'wallet', currency: 'shells', ...WALKER, to: 59 }, 60, 'over'],
  [{ measure: 'wallet', currency: 'pearls', ...WALKER, day: 3, from: 1.51 }, 1.5, 'under'],
  // Seven days from the third: from 18 to 60 in sixes a day, over a mean of 39.
  [{ measure: 'net-flow', currency: 'shells', persona: 'climber', from: 15, to: 16 }, (100 * 6) / 39, 'met'],
  // Of ten days the frame was out of reach on four, the last of them before the second walk.
  [{ measure: 'refused', reason: 'short-of', ...WALKER, to: 40 }, 40, 'met'],
  [{ measure: 'refused', reason: 'short-of', ...WALKER, to: 39.9 }, 40, 'over'],
  // None of so few is not none of all.
  [{ measure: 'refused', reason: 'short-of', persona: 'climber', to: 0 }, 0, 'undecided'],
  [{ measure: 'refused', reason: 'short-of', persona: 'climber', to: 40 }, 0, 'met'],
  // 3 in 5 minutes against 5 in 10.
  [{ measure: 'pay', activity: 'climb', than: 'walk', currency: 'shells', from: 1.19, to: 1.21 }, 1.2, 'met'],
  [{ measure: 'pay', activity: 'walk', than: 'climb', currency: 'shells', from: 0.9 }, 1 / 1.2, 'under'],
  [{ measure: 'prices', currency: 'shells', to: 0 }, 0, 'met'],
])('%j comes to %p: %s', (target, value, mark) => {
  const row = rowOf(target);
  expect(row).toMatchObject({ mark });
  if (row?.mark === 'unknown') {
    expect(row.why).toBe('the run ends after 10 days, and day 30 is well');
    return;
  }
  if (!row) throw new Error('not measured');
  if (value === null) expect(row.value).toBeNull();
  else expect(row.value).toBeCloseTo(value, 5);
  if (mark === 'met') expect(row.off).toBe(0);
  if (mark === 'under' || mark === 'over') expect(Math.sign(row.off)).toBe(mark === 'over' ? 1 : -1);
});

test.each<[Omit<TargetDocument, 'name'>, RegExp]>([
  [{ measure: 'wallet', currency: 'shells', day: 11, to: 5 }, /10 days only/],
  [{ measure: 'days-to-own', item: 'frame', persona: 'walker', scenario: 'month', to: 3 }, /nobody of that persona/],
  [{ measure: 'refused', reason: 'shortof', to: 5 }, /no reason "shortof"/],
  [{ measure: 'pay', activity: 'walk', than: 'climb', currency: 'pearls', to: 5 }, /nothing to measure/],
])('%j is not measured', (target, why) => {
  const document = world();
  if (target.persona) document.scenarios!['month']!.mix = { climber: 1 };
  expect(rowOf(target, document)).toMatchObject({ mark: 'unknown', why: expect.stringMatching(why) });
});

test('a target of another scenario, and one that lacks something, are left out', () => {
  expect(rowOf({ measure: 'wallet', currency: 'shells', scenario: 'other', to: 5 })).toBeUndefined();
  expect(rowOf({ measure: 'wallet', to: 5 })).toBeUndefined();
  expect(rowOf({ measure: 'wallet', currency: 'shells' })).toBeUndefined();
});

/** Walks find Poisson-many shells, so that players differ. */
function chancy(): EconomyDocument {
  const document = world();
  document.events!['walk']!.fields = { finds: 'number' };
  document.activities!['walk']!.emits = { walk: { finds: { poisson: 5 } } };
  document.earning!['walk']!.gives = { shells: '=finds' };
  return document;
}

test('what is undecided says how many players would decide it, and so many do', () => {
  // Without the frame they hold 100 on average after ten days; a bound of 59 is close.
  const target = { measure: 'wallet', currency: 'shells', persona: 'walker', percentile: 50, from: 59 } as const;
  const few = rowOf(target, chancy(), 60);
  if (few?.mark !== 'undecided') throw new Error(`with few players it is ${few?.mark}`);
  expect(few.low).toBeLessThan(59);
  expect(few.decides).toBeGreaterThan(60);
  expect(rowOf(target, chancy(), 4 * few.decides!)?.mark).toBe('met');
});

test('one player decides nothing', () => {
  const document = chancy();
  document.scenarios!['month']!.mix = { walker: 1 };
  expect(rowOf({ measure: 'wallet', currency: 'shells', from: 1 }, document, 1)).toMatchObject({
    mark: 'undecided',
    low: null,
    decides: 30,
  });
});

test('goals and levels are told by day and named by targets: two walks a day of five shells each', () => {
  const document: EconomyDocument = {
    ...world(),
    attributes: { level: { start: 1 } },
    goals: {
      walker: { name: 'Seven walks', counts: 'events', event: 'walk', target: 7 },
      saver: { name: 'Owner', counts: 'owned', items: ['frame'], target: 1 },
      never: { name: 'Climber', counts: 'events', event: 'climb', target: 1000 },
    },
    tracks: {
      way: {
        name: 'Way',
        earns: 'shells',
        attribute: 'level',
        levels: { 2: { costs: 20 }, 3: { costs: 30 }, 9: { costs: 900 } },
      },
    },
  };
  // The seventh walk is on day 4; 20 shells are earned on day 2, 50 on day 5.
  const day = (target: Omit<TargetDocument, 'name'>) => rowOf({ persona: 'walker', ...target }, document);
  expect(day({ measure: 'days-to-goal', goal: 'walker', to: 4 })).toMatchObject({ mark: 'met', value: 4 });
  expect(day({ measure: 'days-to-goal', goal: 'walker', to: 3 })).toMatchObject({ mark: 'over', value: 4 });
  expect(day({ measure: 'days-to-level', track: 'way', level: 3, to: 5 })).toMatchObject({ mark: 'met', value: 5 });
  expect(day({ measure: 'days-to-level', track: 'way', level: 9, to: 9 })).toMatchObject({ mark: 'over', value: null });
  const setup = scenarioResolve(document, 'month');
  if (!setup.ok) throw new Error(JSON.stringify(setup.issues));
  const result = simulateEngine(setup.value);
  const { goals, levels, heights, players } = result;
  const of = (goal: string, persona: number) =>
    goals!.goal.flatMap((id, row) =>
      id === goal && goals!.persona[row] === persona ? [goals!.reached.median[row]] : [],
    );
  expect([of('walker', 0), of('saver', 0), of('never', 1)]).toEqual([[3], [3], [null]]);
  // Climbers have six shells a day: 20 on day 4, 50 on day 9.
  expect(levels!.level.map((level, row) => [level, levels!.persona[row], levels!.reached.median[row]])).toEqual([
    [2, 0, 1],
    [2, 1, 3],
    [3, 0, 4],
    [3, 1, 8],
  ]);
  expect(new Set(heights!.name)).toEqual(new Set(['Way']));
  const drawn = heightRows(result, 0, 'way');
  expect(drawn.map(({ median }) => median)).toEqual([1, 2, 2, 2, 3, 3, 3, 3, 3, 3]);
  // All walk the same.
  for (const { day: shown, median, half, most, n } of drawn)
    expect([shown > 0, half, most, n]).toEqual([true, [median, median], [median, median], drawn[0]!.n]);
  expect(heightRows(result, 0, 'other')).toEqual([]);
  expect(new Set(players.levelDay!['way 3'])).toEqual(new Set([4, 8]));
});
