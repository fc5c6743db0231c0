/** Runs on the same luck, player by player: what differs from the first of them, by how much, and whether it can be told from nothing. */
import jstat from 'jstat';
import type { SimulationResult } from './result.js';
import { meanWithInterval } from './statistics.js';
import type { Mean } from './statistics.js';

export interface Difference {
  /** Which of the others it is of, from 0. */
  variant: number;
  /** What is compared: a persona's balance at the end, or the share of players who own an item. */
  metric: 'balance' | 'owned' | 'days-to-own';
  persona: string;
  subject: string;
  /** Of the currency, where the metric is a balance; 0 otherwise. */
  decimals: number;
  before: number;
  after: number;
  /** Mean of the paired differences with its interval; null where one pair says nothing of their spread. */
  difference: number;
  low: number | null;
  high: number | null;
  /** How many pairs it rests on. */
  pairs: number;
  /** True where the interval does not hold 0. */
  distinguishable: boolean;
}

export type Comparison =
  | {
      comparable: true;
      /** By the order of the others, the first day, from 0, on which anything is another; null where nothing is. */
      differsFrom: (number | null)[];
      differences: Difference[];
    }
  | { comparable: false; why: string };

/** As many as can be told apart on one page. */
export const MOST_VARIANTS = 8;

/** The chance that any of the intervals of a comparison misses its true value. */
const RISK = 0.05;

/**
 * Pairs the players of each run with those of the first by their place, so all must have the same seed, days and crowd.
 * `balance` is in smallest units; `days-to-own` rests on players who came to own the item in both runs. The intervals
 * hold together: each is widened for how many are looked at (Bonferroni's correction, Dunn 1961), so that in 95 of 100
 * comparisons of equal runs none of them leaves out 0.
 */
export function simulationCompare(first: SimulationResult, others: readonly SimulationResult[]): Comparison {
  const crowd = (result: SimulationResult) =>
    JSON.stringify([result.seed, result.days, result.startMs, result.personas.map(({ id, players }) => [id, players])]);
  if (others.some((other) => crowd(other) !== crowd(first)))
    return {
      comparable: false,
      why: 'the runs differ in seed, start, days or players, so they do not share their luck',
    };
  const figures = others.flatMap((other, variant) => figuresOf(first, other).map((one) => ({ variant, ...one })));
  const risk = RISK / Math.max(1, figures.length);
  return {
    comparable: true,
    differsFrom: others.map((other) => firstDifference(first, other)),
    differences: figures.map((figure) => paired(figure, risk)),
  };
}

type Figure = Pick<Difference, 'metric' | 'persona' | 'subject' | 'decimals'> & {
  pairs: readonly (readonly [number, number])[];
};

function figuresOf(before: SimulationResult, after: SimulationResult): Figure[] {
  return before.personas.flatMap(({ name: persona }, index) => {
    const members = [...before.players.persona.keys()].filter((player) => before.players.persona[player] === index);
    if (members.length === 0) return [];
    const wallets = before.currencies.flatMap(({ id, name, decimals }, currency): Figure[] => {
      const other = after.currencies.findIndex((one) => one.id === id);
      if (other < 0) return [];
      const held = (result: SimulationResult, at: number, player: number) => result.players.balance[at]![player]!;
      const pairs = members.map((one): [number, number] => [held(before, currency, one), held(after, other, one)]);
      return [{ metric: 'balance', persona, subject: name, decimals, pairs }];
    });
    const items = new Set([...Object.keys(before.players.ownedDay), ...Object.keys(after.players.ownedDay)]);
    return [...wallets, ...[...items].flatMap((item) => itemFigures(before, after, persona, item, members))];
  });
}

function itemFigures(
  before: SimulationResult,
  after: SimulationResult,
  persona: string,
  item: string,
  members: readonly number[],
): Figure[] {
  const nameOf = (result: SimulationResult) => result.items.name[result.items.item.indexOf(item)];
  const subject = nameOf(before) ?? nameOf(after) ?? item;
  const day = (result: SimulationResult, player: number) => result.players.ownedDay[item]?.[player] ?? null;
  const owned = members.map((player): [number, number] => [
    day(before, player) === null ? 0 : 1,
    day(after, player) === null ? 0 : 1,
  ]);
  const both = members.flatMap((player): [number, number][] => {
    const [first, second] = [day(before, player), day(after, player)];
    return first === null || second === null ? [] : [[first, second]];
  });
  const about = { persona, subject, decimals: 0 };
  return [
    { metric: 'owned', ...about, pairs: owned },
    ...(both.length > 0 ? [{ metric: 'days-to-own' as const, ...about, pairs: both }] : []),
  ];
}

/** A day is told in whole days, at both ends: two differences that are the same are not known to be so (variance of rounding, twice). */
const DAY_ROUNDING = 2 / 12;

/** `risk`: the chance that the interval misses what it is of. */
function paired({ pairs, ...about }: Figure & { variant: number }, risk: number): Difference {
  const quantile = (freedom: number): number => jstat.studentt.inv(1 - risk / 2, freedom);
  const distances = pairs.map(([first, second]) => second - first);
  const { mean, low, high, n } =
    about.metric === 'owned'
      ? pairedShares(distances, quantile)
      : meanWithInterval(distances, quantile, about.metric === 'days-to-own' ? DAY_ROUNDING : 0);
  const average = (index: 0 | 1) => pairs.reduce((sum, pair) => sum + pair[index], 0) / pairs.length;
  return {
    ...about,
    before: average(0),
    after: average(1),
    difference: mean!,
    low,
    high,
    pairs: n,
    distinguishable: (low ?? 0) > 0 || (high ?? 0) < 0,
  };
}

/** The difference of two shares of the same players, with half a player more in each of the four cases (Agresti & Min 2005): it holds for few. */
function pairedShares(distances: readonly number[], quantile: (freedom: number) => number): Mean {
  const n = distances.length;
  const difference = distances.reduce((sum, one) => sum + one, 0);
  if (n === 1) return { mean: difference, low: null, high: null, n };
  const changed = distances.reduce((sum, one) => sum + Math.abs(one), 0) + 1;
  const all = n + 2;
  const half = (quantile(n - 1) * Math.sqrt(changed - difference ** 2 / all)) / all;
  return { mean: difference / n, low: difference / all - half, high: difference / all + half, n };
}

/** The first day on which anything that is told by day is another. */
function firstDifference(first: SimulationResult, other: SimulationResult): number | null {
  const byDay = ({ balances, supply, flows, caps, prices }: SimulationResult): string[] => {
    const days = Array.from({ length: first.days }, () => '');
    for (const table of [balances, supply, flows, caps, prices]) {
      const columns = Object.values(table);
      for (const [row, day] of table.day.entries())
        days[day] += `${columns.map((column) => String(column[row])).join()};`;
    }
    return days;
  };
  const [before, after] = [byDay(first), byDay(other)];
  const day = before.findIndex((one, index) => one !== after[index]);
  return day < 0 ? null : day;
}
