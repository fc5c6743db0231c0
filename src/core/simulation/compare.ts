/** Two runs on the same luck, player by player: what differs, by how much, and whether it can be told from nothing. */
import type { SimulationResult } from './result.js';
import { meanWithInterval } from './statistics.js';

export interface Difference {
  /** What is compared: a persona's balance at the end, or the share of players who own an item. */
  metric: 'balance' | 'owned' | 'days-to-own';
  persona: string;
  subject: string;
  /** Of the currency, where the metric is a balance; 0 otherwise. */
  decimals: number;
  before: number;
  after: number;
  /** Mean of the paired differences with its 95% interval; null where one pair says nothing of their spread. */
  difference: number;
  low: number | null;
  high: number | null;
  /** How many pairs it rests on. */
  pairs: number;
  /** True where the interval does not hold 0. */
  distinguishable: boolean;
}

export type Comparison = { comparable: true; differences: Difference[] } | { comparable: false; why: string };

/**
 * Pairs the players of two runs by their place, so both must have the same seed, days and crowd.
 * `balance` is in smallest units; `days-to-own` rests on players who came to own the item in both runs.
 */
export function simulationCompare(before: SimulationResult, after: SimulationResult): Comparison {
  const crowd = (result: SimulationResult) =>
    JSON.stringify([result.seed, result.days, result.startMs, result.personas.map(({ id, players }) => [id, players])]);
  if (crowd(before) !== crowd(after))
    return {
      comparable: false,
      why: 'the runs differ in seed, start, days or players, so they do not share their luck',
    };
  const differences: Difference[] = [];
  for (const [persona, { name }] of before.personas.entries()) {
    const members = [...before.players.persona.keys()].filter((player) => before.players.persona[player] === persona);
    if (members.length === 0) continue;
    for (const [index, currency] of before.currencies.entries()) {
      const other = after.currencies.findIndex(({ id }) => id === currency.id);
      if (other < 0) continue;
      differences.push(
        paired(
          'balance',
          name,
          currency.name,
          members.map((player) => [before.players.balance[index]![player]!, after.players.balance[other]![player]!]),
          currency.decimals,
        ),
      );
    }
    for (const item of new Set([...Object.keys(before.players.ownedDay), ...Object.keys(after.players.ownedDay)]))
      differences.push(...itemDifferences(before, after, name, item, members));
  }
  return { comparable: true, differences };
}

function itemDifferences(
  before: SimulationResult,
  after: SimulationResult,
  persona: string,
  item: string,
  members: readonly number[],
): Difference[] {
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
  return [
    paired('owned', persona, subject, owned),
    ...(both.length > 0 ? [paired('days-to-own', persona, subject, both)] : []),
  ];
}

function paired(
  metric: Difference['metric'],
  persona: string,
  subject: string,
  pairs: readonly (readonly [number, number])[],
  decimals = 0,
): Difference {
  const { mean, low, high, n } = meanWithInterval(pairs.map(([first, second]) => second - first));
  const average = (index: 0 | 1) => pairs.reduce((sum, pair) => sum + pair[index], 0) / pairs.length;
  return {
    metric,
    persona,
    subject,
    decimals,
    before: average(0),
    after: average(1),
    difference: mean!,
    low,
    high,
    pairs: n,
    distinguishable: (low ?? 0) > 0 || (high ?? 0) < 0,
  };
}
