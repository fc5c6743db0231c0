/**
 * How often players play and how likely they are to leave for good, of a log that shows neither: who has not been seen for
 * a while may have left, or not have come back yet. docs/method.md.
 */
import { ratioWithInterval, shareInterval } from '../simulation/index.js';
import type { Interval } from './types.js';
import { intervalOf } from './types.js';
import type { History } from './histories.js';

const WEEK = 7;

export interface Rates {
  /** Sessions on a day by weekday, Monday first, of players who have not left. */
  perDay: number[];
  /** How many sessions that was, and how many days of players who had not left. */
  counts: number[];
  exposure: number[];
  /** Of any day, with its interval over players. */
  mean: Interval;
  /** The chance to leave, each night. */
  leaves: Interval;
  /** How much more players differ in how often they play than chance alone would have them: 1 is not at all. */
  spread: number;
}

/** One player: days from the first one seen on, of which only those after it count. */
interface Seen {
  first: number;
  last: number;
  sessions: number;
}

const ROUNDS = 200;
const CLOSE = 1e-7;

/**
 * By expectation and maximisation (Dempster, Laird & Rubin 1977): sessions come by Poisson's distribution with a mean for
 * each weekday until a player leaves, with the same chance each night. The first day on which a player is seen tells only
 * that there was one, so it is left out. `weekday`: of the log's first day, from 0 for Monday.
 */
export function ratesFit(histories: readonly History[], days: number, weekday: number): Rates {
  const counts = new Float64Array(WEEK);
  const seen = histories.map(({ sessions }): Seen => {
    const first = sessions[0]!.day;
    let last = first;
    let after = 0;
    for (const { day } of sessions) {
      last = Math.max(last, day);
      if (day === first) continue;
      after++;
      counts[(weekday + day) % WEEK]!++;
    }
    return { first, last, sessions: after };
  });
  const exposed = new Float64Array(seen.length);
  let exposure = new Float64Array(WEEK);
  let perDay = new Float64Array(WEEK).fill(0.5);
  let leaves = 0.01;
  let [left, nights] = [0, 0];
  for (let round = 0; round < ROUNDS; round++) {
    exposure = new Float64Array(WEEK);
    [left, nights] = [0, 0];
    seen.forEach((one, place) => {
      const before = exposure.reduce(sum, 0);
      const gone = expected(one, days, weekday, perDay, leaves, exposure);
      exposed[place] = exposure.reduce(sum, 0) - before;
      left += gone.left;
      nights += gone.nights;
    });
    const next = counts.map((count, day) => (exposure[day]! > 0 ? count / exposure[day]! : 0));
    const nextLeaves = nights > 0 ? left / nights : 0;
    const moved = Math.abs(nextLeaves - leaves) + next.reduce((all, one, day) => all + Math.abs(one - perDay[day]!), 0);
    [perDay, leaves] = [next, nextLeaves];
    if (moved < CLOSE) break;
  }
  const own = seen.map(({ sessions }) => sessions);
  const mean = ratioWithInterval(own, exposed);
  const share = shareInterval(left, Math.max(1, nights));
  return {
    perDay: [...perDay],
    counts: [...counts],
    exposure: [...exposure],
    mean: intervalOf(mean),
    leaves: { ...intervalOf(share), value: leaves },
    spread: dispersion(own, exposed, mean.mean ?? 0),
  };
}

const sum = (all: number, one: number): number => all + one;

/** How likely a player left in each of the nights since the last day seen; what that comes to is added to `exposure`. */
function expected(
  { first, last }: Seen,
  days: number,
  weekday: number,
  perDay: Float64Array,
  leaves: number,
  exposure: Float64Array,
): { left: number; nights: number } {
  // Weight of leaving in the night after day k; the last one stands for being there at the end.
  const weights: number[] = [];
  let silent = 1;
  let total = 0;
  for (let day = last; day < days; day++) {
    if (day > last) silent *= Math.exp(-perDay[(weekday + day) % WEEK]!);
    const nights = day - first;
    const weight = silent * (1 - leaves) ** nights * (day === days - 1 ? 1 : leaves);
    weights.push(weight);
    total += weight;
  }
  let here = 1;
  let [left, nights] = [0, 0];
  for (let day = first + 1; day <= last; day++) exposure[(weekday + day) % WEEK]!++;
  weights.forEach((weight, place) => {
    const day = last + place;
    const chance = total > 0 ? weight / total : Number(place === 0);
    // Whoever is here on the day after this one has not left before.
    if (day > last && day > first) exposure[(weekday + day) % WEEK]! += here;
    here -= chance;
    const isEnd = day === days - 1;
    if (!isEnd) left += chance;
    nights += chance * (day - first + (isEnd ? 0 : 1));
  });
  return { left, nights };
}

/** Pearson's dispersion of counts around a common rate (McCullagh & Nelder 1989, 6.2.4). */
function dispersion(counts: readonly number[], exposed: Float64Array, rate: number): number {
  let squares = 0;
  let players = 0;
  counts.forEach((count, place) => {
    const mean = rate * exposed[place]!;
    if (mean <= 0) return;
    squares += (count - mean) ** 2 / mean;
    players++;
  });
  return players > 1 ? squares / (players - 1) : 1;
}
