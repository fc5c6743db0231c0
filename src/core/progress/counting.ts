/** What a deed counts, and how a count is kept: the same for players and for teams. */
import { MAX_UNITS } from '../amount/index.js';
import type { Units } from '../amount/index.js';
import { countKept, countRound } from '../economy/index.js';
import type { Economy, Goal } from '../economy/index.js';
import type { Formula, Scope, Value } from '../formula/index.js';
import type { Account, Movement } from '../ledger/index.js';
import { counterKey } from '../player/index.js';
import type { Counters, Player } from '../player/index.js';
import { limitCount, limitUsed } from '../schedule/index.js';

/** What was done: it counts for whatever looks at it. */
export interface Deed {
  /** The event that was reported, with names of its fields besides those of the player. */
  event?: { name: string; scope(player: Player): Scope };
  purchase?: { offer: string; times: number };
  movements: readonly Movement[];
  /** Attributes that were set. */
  set?: Readonly<Record<string, Value>>;
}

/** Causes of movements by which players earn, beside what they buy, sell, start with, get back or are granted. */
const EARNED = new Set(['earning', 'goal', 'track', 'open', 'use', 'collect']);

/** What these accounts earned and spent of each currency, and the items that came. What a cap kept out was not earned. */
export function moneyMoved(
  economy: Economy,
  accounts: readonly Account[],
  movements: readonly Movement[],
): { earned: Map<string, Units>; spent: Map<string, Units>; arrived: Set<string> } {
  const earned = new Map<string, Units>();
  const spent = new Map<string, Units>();
  const arrived = new Set<string>();
  const add = (sums: Map<string, Units>, asset: string, units: Units): void => {
    sums.set(asset, (sums.get(asset) ?? 0) + units);
  };
  for (const { asset, units, from, to, cause } of movements) {
    const kind = cause.slice(0, cause.indexOf(':'));
    if (!economy.currencies.has(asset)) {
      if (accounts.includes(to)) arrived.add(asset);
    } else if (EARNED.has(kind)) {
      if (accounts.includes(to)) add(earned, asset, units);
      else if (to === 'world:over-cap') add(earned, asset, -units);
    } else if (kind === 'purchase' && accounts.includes(from)) add(spent, asset, units);
  }
  return { earned, spent, arrived };
}

/** What an event counts; 0 where its condition does not hold. */
export function eventCount({ counts }: Goal, scope: Scope): number | { problem: string } {
  if (counts.kind !== 'events' || (counts.when && counts.when.run(scope) !== true)) return 0;
  if (typeof counts.by === 'number') return counts.by;
  const value = counts.by.run(scope) as number;
  const count = countRound(value);
  return count ?? { problem: countProblem(counts.by, value, scope) };
}

/** Why what a formula comes to is no count. */
export function countProblem(by: Formula, value: number, scope: Scope): string {
  const inputs = by.inputs(scope).map(({ name, value: input }) => `${name} = ${String(input)}`);
  return `${by.text} gives ${value}, which is no count${inputs.length > 0 ? ` (${inputs.join(', ')})` : ''}`;
}

/** Whether it counts now: its turn has come, and it was not reached in this period. */
export function goalIsOpen({ zone }: Economy, counters: Counters, { id, after, period }: Goal, nowMs: number): boolean {
  if (after !== undefined && !counters[counterKey.reached(after)]) return false;
  return limitUsed(period, counters[counterKey.reached(id)], zone, nowMs) === 0;
}

/** Counters that nobody else holds yet, so that they may be changed in place: a deed often moves several goals. */
export type OwnCounters = { -readonly [K in keyof Counters]: Counters[K] };

/** So much more, up to the ceiling of an amount; gives the count then. */
export function goalAdd(
  { zone }: Economy,
  counters: OwnCounters,
  { id, period }: Goal,
  more: number,
  nowMs: number,
): number {
  const key = counterKey.goal(id);
  const used = limitUsed(period, counters[key], zone, nowMs);
  const { count, startMs } = limitCount(period, counters[key], zone, nowMs, Math.min(more, MAX_UNITS - used));
  const kept = countKept(count);
  counters[key] = { count: kept, startMs };
  return kept;
}

/**
 * Reached once more; gives when the period began in which it was. A duration begins with the first thing counted, for
 * the count and for what marks it as reached.
 */
export function goalReach({ zone }: Economy, counters: OwnCounters, { id, period }: Goal, nowMs: number): number {
  const key = counterKey.reached(id);
  const counted = counters[counterKey.goal(id)];
  const { count, startMs } = limitCount(period, counters[key], zone, nowMs, 1);
  const reached = { count, startMs: limitUsed(period, counted, zone, nowMs) > 0 ? counted!.startMs : startMs };
  counters[key] = reached;
  return reached.startMs;
}

/** The currency that a goal counts. */
export const moneyOf = ({ counts }: Goal): string | null =>
  counts.kind === 'earned' || counts.kind === 'spent' ? counts.currency : null;
