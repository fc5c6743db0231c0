/** Tuning and sensitivity where the right answer is known, and the intervals of paired differences over many pairs. */
import { demoDocument, documentOf } from '../../../tests/support/economy.js';
import type { EconomyDocument } from '../document/index.js';
import { leversNamed } from '../levers/index.js';
import { scenarioResolve, simulateEngine, simulationCompare, targetsOf } from '../simulation/index.js';
import type { SimulationResult } from '../simulation/index.js';
import { sensitivity, tune } from './index.js';
import type { Play, TuneAsked } from './index.js';

const PRICE = '/items/frame/worth/shells';
const PAY = '/earning/walk/gives/shells';

/** Ten shells a day for everybody, so that the frame is owned on day price / 10, rounded up. */
const world = (targets: EconomyDocument['targets']): EconomyDocument => ({
  ...documentOf(`
events: {walk: {fields: {}}}
currencies: {shells: {name: Shells}}
items: {frame: {name: Frame, kind: durable, carry: 1, worth: {shells: 40}}, kite: {name: Kite, kind: durable, worth: {shells: 30}}}
shops: {stall: {name: Stall, shelves: {main: {name: Main, offers: {frame: {gives: frame}, kite: {gives: kite}}}}}}
earning: {walk: {name: Walk, on: walk, gives: {shells: 10}}}
activities: {walk: {name: Walk, minutes: 10, emits: {walk: {}}}}
personas: {walker: {name: Walker, sessions: {perDay: 1, fixed: true, minutes: 10, from: 9, to: 20}, plays: {walk: 1}, shops: {policy: wishlist, wishes: [frame, kite]}}}
scenarios: {month: {name: Month, start: "2027-03-01", days: 20, players: 8, seed: 5, mix: {walker: 1}}}
`),
  targets,
});

const onDay = (day: number, item = 'frame') =>
  ({ name: `${item} on day ${day}`, measure: 'days-to-own', item, from: day, to: day }) as const;

function asked(
  document: EconomyDocument,
  names: string[],
  more: Partial<TuneAsked> = {},
): TuneAsked & { runs: number[] } {
  const levers = leversNamed(document, names);
  const setup = scenarioResolve(document, 'month');
  if (!levers.ok || !setup.ok) throw new Error(JSON.stringify([levers, setup]));
  const runs: number[] = [];
  const play: Play = (set, players) => {
    runs.push(players);
    const one = scenarioResolve(document, 'month', { set, players });
    return one.ok ? Promise.resolve(simulateEngine(one.value)) : Promise.reject(new Error(JSON.stringify(one.issues)));
  };
  return {
    document,
    levers: levers.value,
    targets: targetsOf(setup.value),
    play,
    players: { small: 8, full: 12 },
    runs,
    ...more,
  };
}

test('a known price is found, and of all that are well the one that is nearest', async () => {
  const search = asked(world({ one: onDay(9) }), [`${PRICE}=10..190:1`]);
  const result = await tune(search);
  expect(result).toMatchObject({ outcome: 'met', stopped: false, inTheWay: [] });
  // Everything from 81 to 90 is owned on day 9.
  expect(result.answers[0]!.set[PRICE]).toBeGreaterThanOrEqual(81);
  expect(result.answers[0]!.set[PRICE]).toBeLessThanOrEqual(90);
  expect(result.answers[0]!.targets).toMatchObject([{ mark: 'met', value: 9 }]);
  expect(result.before).toMatchObject([{ mark: 'under', value: 4 }]);
  expect(result.answers[0]!.settings).toEqual([
    {
      lever: `${PRICE}=10..190:1`,
      name: 'Frame, worth in Shells',
      moves: 'value',
      before: 40,
      after: result.answers[0]!.set[PRICE],
    },
  ]);
  // All of that range is told, and what lies in it is no second answer.
  expect(result.answers.map(({ range }) => range)).toEqual([{ low: 81, high: 90 }]);
  expect(result.unmoved).toEqual([]);
  expect(search.runs.filter((players) => players === 12).length).toBeLessThan(20);
});

test('one lever is moved where one is enough, and two where both are needed', async () => {
  const one = await tune(asked(world({ one: onDay(8) }), [`${PRICE}=10..190:5`, `${PAY}=2..20:1`]));
  expect(one).toMatchObject({ outcome: 'met' });
  expect(one.answers[0]!.settings.filter(({ before, after }) => before !== after)).toHaveLength(1);
  // The frame on day 8 and the kite, which comes next, on day 16: with 30 shells it would be day 11.
  const kite = '/items/kite/worth/shells';
  const two = await tune(
    asked(world({ one: onDay(8), two: onDay(16, 'kite') }), [`${PRICE}=10..190:5`, `${kite}=10..190:5`]),
  );
  expect(two.outcome).toBe('met');
  expect(two.answers[0]!.set).toMatchObject({ [PRICE]: expect.any(Number), [kite]: expect.any(Number) });
});

test('what is well already stays', async () => {
  const result = await tune(asked(world({ one: onDay(4) }), [`${PRICE}=10..190:5`]));
  expect(result).toMatchObject({ outcome: 'met', answers: [{ set: {} }, ...result.answers.slice(1)] });
});

test('where there is no answer, it is told which target stands in the way', async () => {
  const bounded = await tune(asked(world({ one: onDay(12), two: onDay(7, 'kite') }), [`${PRICE}=10..190:10`]));
  // The kite comes after the frame: each alone could be had.
  expect(bounded).toMatchObject({ outcome: 'none', inTheWay: ['frame on day 12', 'kite on day 7'] });
  // Three at once: the first alone is in nobody's way, since the other two never go together.
  const far = await tune(
    asked(world({ one: onDay(4), two: onDay(12), three: onDay(7, 'kite') }), [`${PRICE}=10..190:10`]),
  );
  expect(far).toMatchObject({ outcome: 'none', inTheWay: ['frame on day 12'] });
  const beyond = await tune(asked(world({ one: onDay(12) }), [`${PRICE}=10..60:10`]));
  expect(beyond).toMatchObject({
    outcome: 'none',
    inTheWay: [],
    answers: [{ set: { [PRICE]: 60 } }, ...beyond.answers.slice(1)],
  });
});

test('a target is told as in the way though the search for all of them never came near the place without it', async () => {
  // What is left of 200 shells after the frame and the kite: one price comes to 101, one to 30, the least evil is between.
  const left = (units: number) =>
    ({ name: `${units} left`, measure: 'wallet', currency: 'shells', from: units, to: units }) as const;
  const result = await tune(asked(world({ rich: left(101), poor: left(30) }), [`${PRICE}=10..190:1`]));
  expect(result).toMatchObject({ outcome: 'none', inTheWay: ['101 left', '30 left'] });
});

test('a target that no lever moves is told, and what targets measure is not told once more as elsewhere', async () => {
  const kite = '/items/kite/worth/shells';
  const search = asked(world({ one: onDay(4), two: onDay(16, 'kite') }), [`${kite}=10..190:5`]);
  const result = await tune(search);
  expect(result).toMatchObject({ outcome: 'met', unmoved: ['frame on day 4'] });
  const told = result.answers.flatMap(({ elsewhere }) =>
    elsewhere.map(({ subject, metric }) => `${subject} ${metric}`),
  );
  expect(told).toEqual(['Shells balance']);
});

test('the same search gives the same answer, and one that is stopped the best so far', async () => {
  const names = [`${PRICE}=10..190:1`, `${PAY}=2..20:1`];
  const [first, second] = await Promise.all([0, 1].map(() => tune(asked(world({ one: onDay(9) }), names))));
  expect(JSON.stringify(first)).toBe(JSON.stringify(second));
  let asks = 0;
  const told: number[] = [];
  const stopped = await tune(
    asked(world({ one: onDay(9) }), names, {
      stopped: () => ++asks > 2,
      onProgress: ({ done, of, best }) => {
        told.push(done);
        expect(done).toBeLessThanOrEqual(of);
        expect(best.targets).toHaveLength(1);
      },
    }),
  );
  expect(stopped).toMatchObject({ stopped: true });
  expect(stopped.runs).toBeLessThan(first!.runs);
  expect(stopped.answers).not.toHaveLength(0);
  // The draft, and one handful of the first points: each is told when it is done.
  expect(told).toEqual([1, 2, 3, 4, 5, 6, 7, 8, 9]);
});

test('sensitivity is the derivative, in sign and size', async () => {
  const document = world({
    own: { name: 'Own', measure: 'days-to-own', item: 'frame', to: 3 },
    wallet: { name: 'Wallet', measure: 'wallet', currency: 'shells', day: 3, from: 1 },
  });
  const search = asked(document, [`${PRICE}=10..110:1`, `${PAY}=6..14:1`]);
  const { effects } = await sensitivity({ ...search, onProgress: undefined, players: 8 });
  const effect = (lever: string, target: string) =>
    effects.find((one) => one.lever.startsWith(lever) && one.target === target)!;
  // A shell more is a tenth of a day more: from 30 to 50 shells two days.
  expect(effect(PRICE, 'own')).toMatchObject({ lower: 3, higher: 5, helps: -1, distinguishable: true });
  expect(effect(PRICE, 'own').perStep).toBeCloseTo(0.1, 9);
  // Three walks, each with a shell more. At a price of 30 the frame is bought on day 3, which empties the wallet.
  expect(effect(PAY, 'wallet')).toMatchObject({ perStep: 3, low: 3, high: 3, helps: 1, distinguishable: true });
  expect(effect(PAY, 'own').perStep).toBeLessThan(0);
});

test('a lever whose run shows no figure to one side is told from the other', async () => {
  const document = world({ own: { name: 'Own', measure: 'days-to-own', item: 'frame', to: 19 } });
  document.items!['frame']!.worth = { shells: 190 };
  const { effects } = await sensitivity({
    ...asked(document, [`${PRICE}=100..300:1`]),
    onProgress: undefined,
    players: 8,
  });
  expect(effects[0]).toMatchObject({ lower: 17, higher: 19, perStep: 0.1 });
});

test('intervals of paired differences hold 0 in 95 of 100 comparisons of equal variants', () => {
  const PAIRS = 200;
  const setup = scenarioResolve(demoDocument(), 'first_month', { players: 24, days: 3 });
  if (!setup.ok) throw new Error('no set-up');
  const run = (seed: number): SimulationResult => simulateEngine({ ...setup.value, seed });
  let held = 0;
  for (let pair = 0; pair < PAIRS; pair++) {
    const [one, other] = [run(2 * pair), run(2 * pair + 1)];
    // Other luck for the same economy: what differs is chance alone.
    const comparison = simulationCompare(one, [{ ...other, seed: one.seed }]);
    if (!comparison.comparable) throw new Error(comparison.why);
    if (comparison.differences.every(({ distinguishable }) => !distinguishable)) held++;
  }
  // 95 % within three deviations of so many tries.
  expect(held / PAIRS).toBeGreaterThan(0.95 - 3 * Math.sqrt((0.95 * 0.05) / PAIRS));
});
