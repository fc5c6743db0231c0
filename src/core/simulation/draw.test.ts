import { demoEconomy, NOW, playerWith } from '../../../tests/support/economy.js';
import type { DrawDocument } from '../document/index.js';
import { playerScope } from '../player/index.js';
import { randomStream } from '../random/index.js';
import { drawCompile, weightedKey } from './draw.js';

const economy = demoEconomy();
const scope = playerScope(economy, playerWith(economy, {}, { level: 4 }), NOW);
const names = new Map([['level', 'number' as const]]);
const TRIES = 20_000;

function sample(written: DrawDocument): number[] {
  const draw = drawCompile(written, 'number', names);
  const random = randomStream(3, 'draw', JSON.stringify(written));
  return Array.from({ length: TRIES }, () => draw(random, scope) as number);
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
  expect(drawCompile(7, 'number', names)(random, scope)).toBe(7);
  expect(drawCompile('calm', 'text', names)(random, scope)).toBe('calm');
  expect(drawCompile('=level * 2', 'number', names)(random, scope)).toBe(8);
  expect(drawCompile({ weights: { calm: 1 } }, 'text', names)(random, scope)).toBe('calm');
});

test('a weight of 0 is never drawn, at either end of the luck', () => {
  const weights = { never: 0, a: 1, b: 3, neither: 0 };
  expect([0, 0.2499, 0.25, 0.999999999].map((luck) => weightedKey(weights, luck))).toEqual(['a', 'a', 'b', 'b']);
  expect(weightedKey({ never: 0 }, 0.5)).toBeUndefined();
});
