import { NOW, economyOf, playerWith } from '../../../tests/support/economy.js';
import type { DrawDocument } from '../document/index.js';
import { playerScope } from '../player/index.js';
import { randomStream } from '../random/index.js';
import type { Random } from '../random/index.js';
import { drawValue, weightedPick } from './draw.js';

const TRIES = 20_000;

/** A rule as it is written for the field of an event, and a way to draw by it. */
function drawing(written: DrawDocument, type = 'number') {
  const economy = economyOf(`
attributes: {level: {start: 4}}
events: {blown: {fields: {wind: ${type}}}}
activities: {fly: {name: Fly, minutes: 1, emits: {blown: {wind: ${JSON.stringify(written)}}}}}
`);
  const { draw } = economy.activities.get('fly')!.emits[0]!.fields[0]!;
  const scope = playerScope(economy, playerWith(economy, {}), NOW);
  return (random: Random) => drawValue(draw, random, scope);
}

function sample(written: DrawDocument): number[] {
  const draw = drawing(written);
  const random = randomStream(3, 'draw', JSON.stringify(written));
  return Array.from({ length: TRIES }, () => draw(random) as number);
}

const meanOf = (values: readonly number[]) => values.reduce((sum, value) => sum + value, 0) / values.length;
const varianceOf = (values: readonly number[]) => {
  const mean = meanOf(values);
  return meanOf(values.map((value) => (value - mean) ** 2));
};

/** Each kind with its mean and variance in closed form. */
test.each<[DrawDocument, number, number]>([
  [{ from: 1, to: 6 }, 3.5, 35 / 12],
  [{ weights: { 1: 1, 2: 2, 5: 1 } }, 2.5, 0.25 * 2.25 + 0.5 * 0.25 + 0.25 * 6.25],
  [{ poisson: 2.5 }, 2.5, 2.5],
  [{ normal: [10, 2] }, 10, 4],
  [{ lognormal: [0, 0.5] }, Math.exp(0.125), (Math.exp(0.25) - 1) * Math.exp(0.25)],
  [{ geometric: 0.2 }, 5, 0.8 / 0.04],
])('%j has the mean and spread it should', (written, mean, variance) => {
  const values = sample(written);
  expect(Math.abs(meanOf(values) - mean)).toBeLessThan(4 * Math.sqrt(variance / TRIES));
  expect(varianceOf(values) / variance).toBeGreaterThan(0.85);
  expect(varianceOf(values) / variance).toBeLessThan(1.15);
});

test('whole numbers stay within their bounds, and both bounds are drawn', () => {
  const values = sample({ from: 1, to: 3 });
  expect([...new Set(values)].sort()).toEqual([1, 2, 3]);
});

test('a constant is itself, a formula reads the player, a weighted text stays a text', () => {
  const random = randomStream(1);
  expect(drawing(7)(random)).toBe(7);
  expect(drawing('calm', 'text')(random)).toBe('calm');
  expect(drawing('=level * 2')(random)).toBe(8);
  expect(drawing({ weights: { calm: 1 } }, 'text')(random)).toBe('calm');
});

test('a weight of 0 is never drawn, at either end of the luck', () => {
  const all = [
    { id: 'never', weight: 0 },
    { id: 'a', weight: 1 },
    { id: 'b', weight: 3 },
    { id: 'neither', weight: 0 },
  ];
  expect([0, 0.2499, 0.25, 0.999999999].map((luck) => weightedPick(all, luck)?.id)).toEqual(['a', 'a', 'b', 'b']);
  expect(weightedPick([{ weight: 0 }], 0.5)).toBeUndefined();
});
