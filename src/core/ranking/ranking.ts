/** What a ranking goes by, and the places that come of it: ties are told as ties, 1, 2, 2, 4. */
import type { Units } from '../amount/index.js';
import type { Economy, Ranking } from '../economy/index.js';
import { playerAccount, teamAccount } from '../ledger/index.js';
import type { Movement } from '../ledger/index.js';
import { counterKey } from '../player/index.js';
import type { Counters, Player } from '../player/index.js';
import { moneyMoved } from '../progress/index.js';
import { limitPeriod } from '../schedule/index.js';
import type { Period } from '../schedule/index.js';
import { orderBefore, orderSlice } from './order.js';
import type { Order, Scored } from './order.js';

/**
 * What is compared, whichever ranking asks: those that go by the same have one. `holder`: a player, or a team of the
 * kind. Of an amount earned and of a goal what was counted from `startMs` until before `endMs` counts.
 */
export type Contest = { holder: 'player' | `team ${string}` } & (
  | { by: 'balance'; currency: string }
  | ({ by: 'earned'; currency: string; every: string } & Period)
  | ({ by: 'goal'; goal: string } & Period)
);

/** What a ranking compares at an instant. */
export function rankingContest({ zone }: Economy, { of, by }: Ranking, atMs: number): Contest {
  const holder = of.kind === 'players' ? 'player' : (`team ${of.team}` as const);
  if (by.kind === 'balance') return { holder, by: 'balance', currency: by.currency };
  const { startMs, endMs } = limitPeriod(by.period, undefined, zone, atMs);
  if (by.kind === 'goal') return { holder, by: 'goal', goal: by.goal, startMs, endMs };
  const { span } = by.period;
  return {
    holder,
    by: 'earned',
    currency: by.currency,
    every: span.kind === 'calendar' ? span.unit : 'lifetime',
    startMs,
    endMs,
  };
}

/** What somebody's counters say in a contest that goes by a goal. */
export function goalScore({ goal, startMs, endMs }: { goal: string } & Period, counters: Counters): Units {
  const counter = counters[counterKey.goal(goal)];
  return counter && startMs <= counter.startMs && counter.startMs < endMs ? counter.count : 0;
}

/** Somebody's earnings within a period, of which `units` are new. */
export interface Earning {
  contest: Extract<Contest, { by: 'earned' }>;
  who: string;
  units: Units;
}

/** What these movements add to sums that rankings go by, each sum once: for the player, and for the player's teams. */
export function rankingEarnings(
  economy: Economy,
  player: Player,
  movements: readonly Movement[],
  atMs: number,
): Earning[] {
  const earnings = new Map<string, Earning>();
  for (const ranking of economy.rankings.values()) {
    const { of, by } = ranking;
    if (by.kind !== 'earned') continue;
    const team = of.kind === 'teams' ? player.teams[of.team] : undefined;
    if (of.kind === 'teams' && !team) continue;
    const accounts = [playerAccount(player.id), ...(team ? [teamAccount(team.id)] : [])];
    const units = moneyMoved(economy, accounts, movements).earned.get(by.currency) ?? 0;
    if (units <= 0) continue;
    const contest = rankingContest(economy, ranking, atMs) as Earning['contest'];
    earnings.set(JSON.stringify(contest), { contest, who: team?.id ?? player.id, units });
  }
  return [...earnings.values()];
}

export interface Placed extends Scored {
  /** From 1. */
  place: number;
}

/** The place of a score: how many have more, and one. O(log n). */
export const placeOf = (order: Order, score: Units): number => orderBefore(order, { who: '', score }) + 1;

/** Those from index `from` on, with their places. O(log n + count). */
export function placesFrom(order: Order, from: number, count: number): Placed[] {
  const slice = orderSlice(order, from, count);
  return placesOf(slice, from, slice[0] ? placeOf(order, slice[0].score) : 1);
}

/** The places of some who stand one behind the other from index `from` on, of whom the first has the place `first`. */
export function placesOf(slice: readonly Scored[], from: number, first: number): Placed[] {
  let place = first;
  return slice.map((one, at) => {
    if (at > 0 && one.score !== slice[at - 1]!.score) place = from + at + 1;
    return { ...one, place };
  });
}
