/** A mark that is stated is wrong in at most 5 % of runs, however few play; what so few cannot tell is undecided. */
import type { Target } from '../economy/index.js';
import { streamOf, keyOf } from '../random/index.js';
import { targetsJudge } from './targets.js';
import type { Measurable } from './targets.js';

const DAYS = 20;
type Random = () => number;
const normal = (random: Random): number => Math.sqrt(-2 * Math.log(1 - random())) * Math.cos(2 * Math.PI * random());

/** A run of made-up figures: skewed, uneven among players, and some of whom leave. */
function run(players: number, seed: number): Measurable {
  const random = streamOf(keyOf(seed, 'marks'));
  const column = <T>(of: () => T): T[] => Array.from({ length: players }, of);
  const lastDay = column(() => (random() < 0.3 ? Math.floor(random() * DAYS) : DAYS - 1));
  // Half of the players own it on some day, the unlucky ones late.
  const owned = lastDay.map((last) => {
    const day = Math.floor(-12 * Math.log(1 - random()));
    return day <= last ? day : null;
  });
  const shopDays = column(() => 1 + Math.floor(random() * DAYS));
  // Some are refused all the time, most hardly ever: 9.4 % of all days.
  const refused = shopDays.map((days) => {
    const chance = random() < 0.1 ? 0.7 : 0.027;
    let count = 0;
    for (let day = 0; day < days; day++) if (random() < chance) count++;
    return count;
  });
  const after = column(() => Math.round(Math.exp(5 + 1.1 * normal(random))));
  const before = after.map((units) => Math.max(0, Math.round(units - 3 * Math.exp(2 + normal(random)) + 40)));
  const pay = Array.from({ length: 2 }, (_, activity) =>
    column(() => Math.exp(1 + 0.6 * normal(random)) * (1 + activity)),
  );
  const activity = (index: number) => {
    const values = pay[index]!;
    const mean = values.reduce((sum, value) => sum + value, 0) / players;
    const squares = values.reduce((sum, value) => sum + (value - mean) ** 2, 0);
    return { mean, half: 1.96 * Math.sqrt(squares / (players - 1) / players) };
  };
  return {
    days: DAYS,
    personas: [{ id: 'racer', name: 'Racer', players }],
    currencies: [{ id: 'shells', name: 'Shells', decimals: 0 }],
    players: {
      persona: column(() => 0),
      lastDay,
      ownedDay: { frame: owned },
      affordedDay: { frame: owned },
      shopDays,
      reasonDays: { 'short-of': refused },
      wallets: [
        { currency: 0, day: DAYS - 8, units: before },
        { currency: 0, day: DAYS - 1, units: after },
      ],
    },
    activities: {
      activity: ['race', 'walk'],
      currency: [0, 0],
      persona: [0, 0],
      plays: [players, players],
      perMinute: [activity(0).mean, activity(1).mean],
      high: [activity(0).mean + activity(0).half, activity(1).mean + activity(1).half],
    },
  } as unknown as Measurable;
}

const base = { id: 't', name: 'T', scenario: undefined, persona: undefined, from: undefined, to: undefined };
const MEASURES: Record<string, Target> = {
  'days to own': { ...base, measure: 'days-to-own', item: 'frame', percentile: 50 },
  owners: { ...base, measure: 'owners', item: 'frame', day: 15 },
  'median of wallets': { ...base, measure: 'wallet', currency: 'shells', percentile: 50, day: undefined },
  '95th percentile of wallets': { ...base, measure: 'wallet', currency: 'shells', percentile: 95, day: undefined },
  'net flow': { ...base, measure: 'net-flow', currency: 'shells' },
  refused: { ...base, measure: 'refused', reason: 'short-of' },
  pay: { ...base, measure: 'pay', activity: 'walk', than: 'race', currency: 'shells' },
};

const truths = new Map<string, number>();
function truthOf(name: string, target: Target): number {
  const known = truths.get(name);
  if (known !== undefined) return known;
  const [row] = targetsJudge([target], run(30_000, 1));
  if (row!.mark === 'unknown') throw new Error(row!.why);
  truths.set(name, row!.value!);
  return row!.value!;
}

const RUNS = 250;

test('the number of players that would decide it is enough in nine of ten cases', () => {
  let [followed, decided] = [0, 0];
  for (const target of [MEASURES['refused']!, MEASURES['net flow']!, MEASURES['owners']!]) {
    const truth = truthOf(target.measure, target);
    const { low, high } = targetsJudge([{ ...target, to: truth } as Target], run(40, 77))[0] as {
      low: number;
      high: number;
    };
    for (let seed = 0; seed < 200; seed++) {
      // Bounds anywhere around the truth, as far as forty players leave it open.
      const to = truth + (high - low) * (((seed * 37) % 200) / 100 - 1);
      const [row] = targetsJudge([{ ...target, to } as Target], run(40, 5000 + seed));
      // More than that takes too long to follow here.
      if (row!.mark !== 'undecided' || row!.decides === null || row!.decides > 20_000) continue;
      followed++;
      if (targetsJudge([{ ...target, to } as Target], run(row!.decides, 9000 + seed))[0]!.mark !== 'undecided')
        decided++;
    }
  }
  expect(followed).toBeGreaterThan(100);
  expect(decided / followed).toBeGreaterThan(0.88);
});

test('what lies behind the last day is not measured, however many play; what is there already is met', () => {
  const own = (to: number): Target => ({ ...MEASURES['days to own']!, to }) as Target;
  const mark = (players: number, to: number) => targetsJudge([own(to)], run(players, 3))[0]!;
  expect(mark(300, 45).mark).toBe('met');
  const late = { ...own(45), percentile: 99 } as Target;
  expect(targetsJudge([late], run(300, 3))[0]).toMatchObject({
    mark: 'unknown',
    why: 'the run ends after 20 days, and day 45 is well',
  });
});
describe.each([5, 10, 30, 300])('of %d players', (players) => {
  test.each(Object.entries(MEASURES))('%s: too high, too low and met are right', (name, target) => {
    const truth = truthOf(name, target);
    const wrong = { metBelow: 0, metAbove: 0, over: 0, under: 0 };
    // Of days the truth is the whole day, which is well; the bounds are a day beside it.
    const [below, above] = name === 'days to own' ? [truth - 1, truth + 1] : [truth, truth];
    for (let seed = 0; seed < RUNS; seed++) {
      const result = run(players, 1000 + seed);
      const mark = (bounds: Partial<Target>): string =>
        targetsJudge([{ ...target, ...bounds } as Target], result)[0]!.mark;
      if (mark({ to: below }) === 'met') wrong.metBelow++;
      if (mark({ to: truth }) === 'over') wrong.over++;
      if (mark({ from: above }) === 'met') wrong.metAbove++;
      if (mark({ from: truth }) === 'under') wrong.under++;
    }
    // Each in 5 % of runs at most, and what 250 runs vary by.
    expect(Object.entries(wrong).filter(([, count]) => count / RUNS > 0.08)).toEqual([]);
  });
});
