/**
 * Things that come back by themselves: a currency's refill and an offer's restock are the same rule.
 * Nothing runs in the background: the amount is worked out from the last settling time when it is asked for.
 */
import type { Units } from '../amount/index.js';
import { beatPeriod, beatStart } from './beat.js';
import type { Beat } from './beat.js';

/** When something comes: after every duration, or at the set times of a beat. */
export type Rhythm = { kind: 'duration'; everyMs: number } | { kind: 'beat'; beat: Beat };

/** Something that comes back by itself: `amount` each time, never above `upTo`. */
export interface Accrual {
  amount: Units;
  upTo: Units;
  comes: Rhythm;
}

export interface Level {
  units: Units;
  /** When the interval that is running began, epoch ms; null while nothing is due (at or above `upTo`). */
  sinceMs: number | null;
}

/** The level at `nowMs`: whole intervals are added, the unfinished one is kept. A clock that steps back adds nothing. */
export function levelSettle(level: Readonly<Level>, rule: Accrual, nowMs: number): Level {
  if (level.units >= rule.upTo) return level.sinceMs === null ? level : { units: level.units, sinceMs: null };
  const sinceMs = level.sinceMs ?? nowMs;
  const intervals = Math.max(0, intervalsBetween(rule, sinceMs, nowMs));
  if (intervals === 0) return level.sinceMs === null ? { units: level.units, sinceMs } : level;
  const room = rule.upTo - level.units;
  // Compared by division first: intervals x amount could pass the ceiling after a very long absence.
  const gain = intervals >= room / rule.amount ? room : intervals * rule.amount;
  const units = level.units + gain;
  return { units, sinceMs: units >= rule.upTo ? null : intervalsAfter(rule, sinceMs, intervals) };
}

/** Whole intervals from one instant to another; with a beat, the beginnings of its periods in between. */
const intervalsBetween = ({ comes }: Accrual, sinceMs: number, nowMs: number): number =>
  comes.kind === 'beat'
    ? beatPeriod(comes.beat, Math.max(nowMs, sinceMs)).index - beatPeriod(comes.beat, sinceMs).index
    : Math.floor((nowMs - sinceMs) / comes.everyMs);

const intervalsAfter = ({ comes }: Accrual, sinceMs: number, intervals: number): number =>
  comes.kind === 'beat'
    ? beatStart(comes.beat, beatPeriod(comes.beat, sinceMs).index + intervals)
    : sinceMs + intervals * comes.everyMs;

/** The level after taking or adding: counting begins at `nowMs` when it falls below `upTo`. */
export function levelChange(level: Readonly<Level>, by: number, rule: Accrual | undefined, nowMs: number): Level {
  const units = level.units + by;
  if (!rule || units >= rule.upTo) return { units, sinceMs: null };
  return { units, sinceMs: level.sinceMs ?? nowMs };
}

/** When the next unit comes, epoch ms, or undefined when nothing is due. */
export function levelNextMs(level: Readonly<Level>, rule: Accrual | undefined): number | undefined {
  return !rule || level.sinceMs === null || level.units >= rule.upTo
    ? undefined
    : intervalsAfter(rule, level.sinceMs, 1);
}

/** When the level will have reached `units`, epoch ms, or undefined when it never does. */
export function levelReachesMs(level: Readonly<Level>, rule: Accrual | undefined, units: Units): number | undefined {
  if (!rule || level.sinceMs === null || units > rule.upTo) return undefined;
  return intervalsAfter(rule, level.sinceMs, Math.ceil((units - level.units) / rule.amount));
}
