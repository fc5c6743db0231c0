/** Distributions of what was logged: of those that a field can be drawn from, the one that tells it best. docs/method.md. */
import type { DrawDocument } from '../document/index.js';
import type { Value } from '../formula/index.js';
import { normalShare } from './normal.js';
import { rounded } from './types.js';

export interface DrawFitted {
  draw: DrawDocument;
  /** Of numbers: their mean and standard deviation in the log. */
  spread: { mean: number; deviation: number } | undefined;
}

/** More numbers than these are not listed one by one, and of texts no more than the most frequent. */
const MOST_LISTED = 24;
const MOST_TEXTS = 100;

interface Candidate {
  draw: DrawDocument;
  /** How many numbers of it were fitted. */
  free: number;
  /** The logarithm of the chance of what was logged. */
  likelihood: number;
}

/**
 * The distribution with the least of Schwarz's criterion (Schwarz 1978), `free * ln(n) - 2 * likelihood`. The one that the
 * economy has already, `before`, has nothing fitted in it, so it stays unless another is clearly better; a formula stays.
 */
export function drawFit(values: readonly Value[], before?: DrawDocument): DrawFitted {
  const isNumbers = values.every((value) => typeof value === 'number');
  const numbers = isNumbers ? (values as readonly number[]) : undefined;
  const spread = numbers && meanAndDeviation(numbers);
  if (typeof before === 'string' && before.startsWith('=')) return { draw: before, spread };
  const counts = new Map<Value, number>();
  for (const value of values) counts.set(value, (counts.get(value) ?? 0) + 1);
  const fitted = [
    ...listed(counts, values.length),
    ...(numbers && spread ? (numbers.every(Number.isInteger) ? wholes(counts, numbers, spread) : reals(numbers)) : []),
  ];
  const kept = before === undefined ? undefined : asBefore(before, counts);
  const cost = ({ free, likelihood }: Candidate): number => free * Math.log(values.length) - 2 * likelihood;
  const best = [...(kept ? [kept] : []), ...fitted].sort((a, b) => cost(a) - cost(b))[0]!;
  const isChosen = typeof before === 'object' && 'chosen' in before && best !== kept;
  return { draw: isChosen ? { chosen: sharesOf(counts, values.length) } : best.draw, spread };
}

function meanAndDeviation(numbers: readonly number[]): { mean: number; deviation: number } {
  const mean = numbers.reduce((sum, one) => sum + one, 0) / numbers.length;
  const squares = numbers.reduce((sum, one) => sum + (one - mean) ** 2, 0);
  return { mean, deviation: Math.sqrt(squares / Math.max(1, numbers.length - 1)) };
}

type Counts = ReadonlyMap<Value, number>;
const inOrder = (counts: Counts): [Value, number][] =>
  [...counts].sort(([a], [b]) => (typeof a === 'number' && typeof b === 'number' ? a - b : a < b ? -1 : 1));

const sharesOf = (counts: Counts, n: number): Record<string, number> =>
  Object.fromEntries(inOrder(mostOf(counts)).map(([value, count]) => [String(value), rounded((100 * count) / n)]));

const mostOf = (counts: Counts): Counts =>
  counts.size <= MOST_TEXTS ? counts : new Map([...counts].sort(([, a], [, b]) => b - a).slice(0, MOST_TEXTS));

/** A constant, or each value with its share. */
function listed(counts: Counts, n: number): Candidate[] {
  const [first] = counts.keys();
  // A truth is drawn by its share, even where it is always the same.
  if (counts.size === 1 && typeof first !== 'boolean') return [{ draw: first as DrawDocument, free: 0, likelihood: 0 }];
  const isNumbers = typeof first === 'number';
  if (isNumbers && counts.size > MOST_LISTED) return [];
  const likelihood = [...counts.values()].reduce((sum, count) => sum + count * Math.log(count / n), 0);
  return [{ draw: { weights: sharesOf(counts, n) }, free: counts.size - 1, likelihood }];
}

function wholes(counts: Counts, numbers: readonly number[], { mean, deviation }: { mean: number; deviation: number }) {
  const [least, most] = [...counts.keys()].reduce<[number, number]>(
    ([low, high], value) => [Math.min(low, value as number), Math.max(high, value as number)],
    [Infinity, -Infinity],
  );
  const candidates: Candidate[] = [];
  const add = (draw: DrawDocument, free: number): void => {
    const likelihood = likelihoodOf(draw, counts);
    if (likelihood !== undefined) candidates.push({ draw, free, likelihood });
  };
  if (least < most) add({ from: least, to: most }, 2);
  if (least >= 0 && mean > 0) add({ poisson: rounded(mean) }, 1);
  if (least >= 1 && mean > 1) add({ geometric: rounded(1 / mean) }, 1);
  if (counts.size > MOST_LISTED) {
    add({ normal: [rounded(mean), rounded(deviation)] }, 2);
    if (least > 0) add({ lognormal: logMoments(numbers) }, 2);
  }
  return candidates;
}

function reals(numbers: readonly number[]): Candidate[] {
  const { mean, deviation } = meanAndDeviation(numbers);
  if (deviation === 0) return [];
  const n = numbers.length;
  const dense = (spread: number): number => -0.5 * n * (1 + Math.log(2 * Math.PI * spread ** 2));
  const normal: Candidate = {
    draw: { normal: [rounded(mean), rounded(deviation)] },
    free: 2,
    likelihood: dense(deviation),
  };
  if (numbers.some((one) => one <= 0)) return [normal];
  const [mu, sigma] = logMoments(numbers);
  const logs = numbers.reduce((sum, one) => sum + Math.log(one), 0);
  return [normal, { draw: { lognormal: [mu, sigma] }, free: 2, likelihood: dense(Math.max(sigma, 1e-9)) - logs }];
}

function logMoments(numbers: readonly number[]): [number, number] {
  const { mean, deviation } = meanAndDeviation(numbers.map(Math.log));
  return [rounded(mean), rounded(deviation)];
}

/** How the distribution that the economy has already tells the log; undefined where it could not have drawn it. */
function asBefore(draw: DrawDocument, counts: Counts): Candidate | undefined {
  const likelihood = likelihoodOf(draw, counts);
  return likelihood === undefined ? undefined : { draw, free: 0, likelihood };
}

function likelihoodOf(draw: DrawDocument, counts: Counts): number | undefined {
  const chance = chanceOf(draw);
  if (!chance) return undefined;
  let likelihood = 0;
  for (const [value, count] of counts) {
    const one = chance(value);
    if (!(one > 0)) return undefined;
    likelihood += count * Math.log(one);
  }
  return likelihood;
}

/** The chance of each value; of normal distributions that of what is rounded to it. */
function chanceOf(draw: DrawDocument): ((value: Value) => number) | undefined {
  if (typeof draw !== 'object') return (value) => Number(value === draw);
  if ('from' in draw) return (value) => within(value, draw.from, draw.to) / (draw.to - draw.from + 1);
  const weights = 'weights' in draw ? draw.weights : 'chosen' in draw ? draw.chosen : undefined;
  if (weights) {
    const total = Object.values(weights).reduce((sum, weight) => sum + weight, 0);
    return (value) => (Object.hasOwn(weights, String(value)) ? weights[String(value)]! / total : 0);
  }
  if ('poisson' in draw) return (value) => poisson(value as number, draw.poisson);
  if ('geometric' in draw) return (value) => draw.geometric * (1 - draw.geometric) ** ((value as number) - 1);
  if ('normal' in draw) return (value) => normalShare(value as number, draw.normal);
  if ('lognormal' in draw)
    return (value) => {
      const at = value as number;
      return at <= 0.5 ? 0 : normalShare([Math.log(at - 0.5), Math.log(at + 0.5)], draw.lognormal);
    };
  return undefined;
}

const within = (value: Value, from: number, to: number): number =>
  Number(Number.isInteger(value) && (value as number) >= from && (value as number) <= to);

function poisson(count: number, mean: number): number {
  if (!Number.isInteger(count) || count < 0) return 0;
  let logarithm = -mean;
  for (let k = 1; k <= count; k++) logarithm += Math.log(mean / k);
  return Math.exp(logarithm);
}
