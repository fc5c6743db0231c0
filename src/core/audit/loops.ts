/**
 * Money loops: circles of buying, selling back, exchanging, unpacking, opening and using that end with more than they
 * began with. For each asset that something can be paid with, two figures are worked out for every other asset, step
 * by step: the least it takes to get a unit of it, and the most that a unit of it brings. Where some conversion takes
 * less than what it gives brings, the way there and the way back close a circle with a gain.
 *
 * This is the search for a negative circle of Bellman and Ford, for conversions that take and give several assets at
 * once. Cost: (assets that pay) x (steps) x (all takes and gives together), so linear in the catalog for a fixed
 * number of currencies; bench/loops.mjs measures it.
 */
import { openingChangesMs, openingIsOpen } from '../schedule/index.js';
import type { Opening } from '../schedule/index.js';
import type { Conversion } from './conversion.js';

export interface MoneyLoop {
  asset: string;
  /** In the order in which they are done; each once, however often. */
  steps: Conversion[];
  /** Of `asset`, for doing the decisive step once. */
  takes: number;
  gives: number;
  /** What is left over besides, and brings none of `asset`: a circle that comes out even may leave things for nothing. */
  left: readonly (readonly [string, number])[];
}

/** Longer circles than 2 x this + 1 are not looked for. */
const MOST_STEPS = 4;
/** Less than this part of what it takes is no gain but rounding. */
const LEAST_GAIN = 1e-9;

/** The shortest circles for each asset that pays, without those that hold another. */
export function moneyLoops(conversions: readonly Conversion[]): MoneyLoop[] {
  const closed = (conversion: Conversion) =>
    conversion.takes.some(([asset]) => conversion.gives.some(([id]) => id === asset));
  const starts = conversions.filter((conversion) => conversion.buys || closed(conversion));
  const paying = [...new Set(starts.flatMap(({ takes }) => takes.map(([asset]) => asset)))];
  const found = paying.flatMap((asset) => shortestFrom(asset, conversions));
  // A circle that only goes round a shorter one says nothing new.
  const sets = found.map(({ steps }) => new Set(steps));
  const holds = (outer: number, inner: number): boolean =>
    [...sets[inner]!].every((step) => sets[outer]!.has(step)) &&
    (sets[outer]!.size > sets[inner]!.size || outer > inner);
  return found
    .slice(0, MOST_LOOPS)
    .filter((_, outer) => !sets.some((_other, inner) => inner !== outer && holds(outer, inner)));
}

/** More are not told at once: a wrong rate can close a circle with every item. */
const MOST_LOOPS = 200;

/** So often is looked again without a step that comes too late. */
const MOST_TRIES = 8;

/**
 * Circles whose steps need not be possible at one time, since things keep: bought in a sale, sold when a shop opens.
 * Each step must be possible when the one before is done, from `fromMs` on.
 */
export function loopsOverTime(conversions: readonly Conversion[], fromMs: number): MoneyLoop[] {
  const found: MoneyLoop[] = [];
  const late = new Set<Conversion>();
  for (let tries = 0; tries < MOST_TRIES; tries++) {
    const before = late.size;
    for (const loop of moneyLoops(conversions.filter((one) => !late.has(one)))) {
      const inTime = turns(loop).find(({ steps }) => !tooLate(steps, fromMs));
      if (inTime) found.push(inTime);
      else late.add(tooLate(loop.steps, fromMs)!);
    }
    if (late.size === before) break;
  }
  return found;
}

/** The same circle begun at each of its purchases: what is late for one may be in time for another. */
const turns = (loop: MoneyLoop): MoneyLoop[] =>
  loop.steps.flatMap((step, index) => {
    if (index === 0) return [loop];
    const [asset, takes] = step.takes[0]!;
    const steps = [...loop.steps.slice(index), ...loop.steps.slice(0, index)];
    return step.buys ? [{ asset, steps, takes, gives: (takes * loop.gives) / loop.takes, left: loop.left }] : [];
  });

/** The step after which the next can be done no more; undefined where all can be done in their order. */
function tooLate(steps: readonly Conversion[], fromMs: number): Conversion | undefined {
  let atMs = fromMs;
  for (const [index, step] of steps.entries()) {
    const next = openNextMs(step.opens, atMs);
    if (next === undefined) return steps[index - 1] ?? step;
    atMs = next;
  }
  return undefined;
}

/** So many changes of what is open are followed. */
const MOST_CHANGES = 500;

/** The first instant from `fromMs` on at which all are open; undefined when there is none. */
function openNextMs(opens: readonly Opening[], fromMs: number): number | undefined {
  let atMs: number | null = fromMs;
  for (let changes = 0; changes < MOST_CHANGES; changes++) {
    const closed = opens.find((opening) => !openingIsOpen(opening, atMs!));
    if (!closed) return atMs;
    atMs = openingChangesMs(closed, atMs);
    if (atMs === null) return undefined;
  }
  return undefined;
}

/** The best figure of an asset and the conversion it comes from. */
interface Best {
  figure: number;
  by: Conversion | undefined;
}
type Figures = Map<string, Best>;

function shortestFrom(asset: string, conversions: readonly Conversion[]): MoneyLoop[] {
  const start = (): Figures => new Map([[asset, { figure: 1, by: undefined }]]);
  const cost: Figures[] = [start()];
  const value: Figures[] = [start()];
  for (let step = 1; step <= MOST_STEPS; step++) {
    const [costs, values] = [cost.at(-1)!, value.at(-1)!];
    const nextCosts = new Map(costs);
    const nextValues = new Map(values);
    for (const conversion of conversions) improve(conversion, costs, values, nextCosts, nextValues, asset);
    const still = same(costs, nextCosts) && same(values, nextValues);
    cost.push(nextCosts);
    value.push(nextValues);
    const loops = conversions.flatMap((conversion) => closes(asset, conversion, cost, value));
    if (loops.length > 0) return shortest(loops);
    if (still) break;
  }
  return [];
}

const same = (a: Figures, b: Figures): boolean => a.size === b.size && [...a].every(([id, best]) => b.get(id) === best);

const sum = (amounts: readonly [string, number][], figures: Figures, otherwise: number): number => {
  let total = 0;
  for (const [asset, units] of amounts) total += units * (figures.get(asset)?.figure ?? otherwise);
  return total;
};

function improve(
  by: Conversion,
  costs: Figures,
  values: Figures,
  nextCosts: Figures,
  nextValues: Figures,
  start: string,
): void {
  const total = sum(by.takes, costs, Infinity);
  const brings = sum(by.gives, values, 0);
  if (total < Infinity)
    for (const [asset, units] of by.gives) {
      // What comes along with it brings something too.
      const figure = Math.max(0, total - (brings - units * (values.get(asset)?.figure ?? 0))) / units;
      if (asset !== start && figure < (nextCosts.get(asset)?.figure ?? Infinity)) nextCosts.set(asset, { figure, by });
    }
  for (const [asset, units] of by.takes) {
    const others = sum(
      by.takes.filter(([other]) => other !== asset),
      costs,
      Infinity,
    );
    const figure = (brings - others) / units;
    if (asset !== start && figure > (nextValues.get(asset)?.figure ?? 0)) nextValues.set(asset, { figure, by });
  }
}

function closes(asset: string, by: Conversion, cost: readonly Figures[], value: readonly Figures[]): MoneyLoop[] {
  const level = cost.length - 1;
  const takes = sum(by.takes, cost[level]!, Infinity);
  const gives = sum(by.gives, value[level]!, 0);
  const left = by.gives.filter(([id]) => id !== asset && !value[level]!.has(id));
  const comesOutEven = left.length > 0 && takes > 0 && gives >= takes * (1 - LEAST_GAIN);
  if (gives === 0 || !(gives > takes * (1 + LEAST_GAIN) || comesOutEven)) return [];
  const steps: Conversion[] = [];
  for (const [id] of by.takes) collect(id, cost, level, 'takes', steps);
  steps.push(by);
  for (const [id] of by.gives) collect(id, value, level, 'gives', steps);
  return [{ asset, steps: [...new Set(steps)], takes, gives, left }];
}

/** The conversions behind a figure, the first to be done first. */
function collect(
  asset: string,
  levels: readonly Figures[],
  level: number,
  way: 'takes' | 'gives',
  into: Conversion[],
): void {
  const best = levels[level]!.get(asset);
  if (!best?.by || level === 0) return;
  // The figure may be older than this level: it was made from the level before the one where it first stood.
  let made = level;
  while (made > 1 && levels[made - 1]!.get(asset) === best) made--;
  if (way === 'gives') into.push(best.by);
  for (const [id] of best.by[way]) collect(id, levels, made - 1, way, into);
  if (way === 'takes') into.push(best.by);
}

/** The shortest ones; of those that share all their steps, one. */
function shortest(loops: MoneyLoop[]): MoneyLoop[] {
  const least = Math.min(...loops.map(({ steps }) => steps.length));
  return loops.filter(({ steps }) => steps.length === least);
}
