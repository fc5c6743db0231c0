/** What a target can be of: one table for the compiler, the figures of a run and the console. */

/** Fields of a target beside its name, its bounds and its scenario. */
export type TargetField =
  | 'persona'
  | 'item'
  | 'goal'
  | 'track'
  | 'level'
  | 'currency'
  | 'percentile'
  | 'day'
  | 'reason'
  | 'activity'
  | 'than';

interface Measure {
  /** What is looked at, as a designer says it. */
  words: string;
  needs: readonly TargetField[];
  may: readonly TargetField[];
  /** In what it is told: days counted from 1, percent, money as people write it, or how many times as much. */
  unit: 'days' | 'percent' | 'money' | 'times';
}

/** By measure; a field that is not named here is refused for it. */
export const MEASURES = {
  'days-to-own': { words: 'days until they own it', needs: ['item'], may: ['persona', 'percentile'], unit: 'days' },
  'days-to-afford': {
    words: 'days until they can pay for it',
    needs: ['item'],
    may: ['persona', 'percentile'],
    unit: 'days',
  },
  'days-to-goal': {
    words: 'days until they reach the goal',
    needs: ['goal'],
    may: ['persona', 'percentile'],
    unit: 'days',
  },
  'days-to-level': {
    words: 'days until they reach the level',
    needs: ['track', 'level'],
    may: ['persona', 'percentile'],
    unit: 'days',
  },
  owners: { words: 'percent of players who own it', needs: ['item'], may: ['persona', 'day'], unit: 'percent' },
  wallet: { words: 'what they hold', needs: ['currency'], may: ['persona', 'day', 'percentile'], unit: 'money' },
  'net-flow': {
    words: 'what a day adds, in percent of what they hold',
    needs: ['currency'],
    may: ['persona'],
    unit: 'percent',
  },
  refused: {
    words: 'percent of shopping days with a refusal',
    needs: ['reason'],
    may: ['persona'],
    unit: 'percent',
  },
  pay: {
    words: 'pay per minute against another activity',
    needs: ['activity', 'than', 'currency'],
    may: ['persona'],
    unit: 'times',
  },
  prices: { words: 'rise of prices in a week, in percent', needs: ['currency'], may: [], unit: 'percent' },
} as const satisfies Record<string, Measure>;
export type MeasureName = keyof typeof MEASURES;
export const MEASURE_NAMES = Object.keys(MEASURES) as [MeasureName, ...MeasureName[]];
export type TargetUnit = Measure['unit'];

export const MEASURE_WORDS: Readonly<Record<MeasureName, string>> = Object.fromEntries(
  Object.entries(MEASURES).map(([name, { words }]) => [name, words]),
) as Record<MeasureName, string>;

/** Fields that some measure has. */
export const TARGET_FIELDS: readonly TargetField[] = [
  ...new Set(Object.values(MEASURES).flatMap(({ needs, may }) => [...needs, ...may])),
];
