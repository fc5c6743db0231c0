/** Calendar days, weeks and months in the economy's time zone, and how often something happened in one. */
import { DateTime } from 'luxon';
import { beatPeriod } from './beat.js';
import type { Beat } from './beat.js';

/** `most` per period; `everyMs` is set where the period is a duration, `beat` where it is the shelf's rotation. */
export interface Limit {
  period: string;
  most: number;
  everyMs: number | undefined;
  beat?: Beat;
}

/** `startMs` inclusive, `endMs` exclusive. */
export interface Period {
  startMs: number;
  endMs: number;
}

/** How often within the period that began at `startMs`. */
export interface Counter {
  count: number;
  startMs: number;
}

export type CalendarUnit = 'day' | 'week' | 'month';

const FOREVER: Period = { startMs: 0, endMs: Number.POSITIVE_INFINITY };

/**
 * The calendar is slow to ask, and its answer is the same within a quarter of an hour (every zone's offset is a
 * multiple of that), so answers are kept by quarter. A cache only: it never changes an answer.
 */
const answers = new Map<string, Period>();
const MOST_ANSWERS = 20_000;
const QUARTER_MS = 900_000;

/** The calendar period around an instant. Weeks begin on Monday; a day at a daylight-saving change has 23 or 25 hours. */
export function periodAround(zone: string, unit: CalendarUnit, nowMs: number): Period {
  const key = `${unit}${Math.floor(nowMs / QUARTER_MS)}${zone}`;
  const known = answers.get(key);
  if (known) return known;
  const start = DateTime.fromMillis(nowMs, { zone }).startOf(unit);
  const period = {
    startMs: start.toMillis(),
    endMs: start
      .plus({ [unit]: 1 })
      .startOf(unit)
      .toMillis(),
  };
  if (answers.size >= MOST_ANSWERS) answers.clear();
  answers.set(key, period);
  return period;
}

/** Whole calendar days from the day of `fromMs` to the day of `nowMs`; 0 on the same day. */
export function daysBetween(zone: string, fromMs: number, nowMs: number): number {
  const from = DateTime.fromMillis(periodAround(zone, 'day', fromMs).startMs, { zone });
  const now = DateTime.fromMillis(periodAround(zone, 'day', nowMs).startMs, { zone });
  return Math.round(now.diff(from, 'days').days);
}

/**
 * The period a limit counts in at `nowMs`. A duration's window opens with the first thing counted and lasts
 * that long; before anything was counted it has no end yet.
 */
export function limitPeriod(limit: Limit, counter: Counter | undefined, zone: string, nowMs: number): Period {
  if (limit.beat) {
    const { startMs, endMs } = beatPeriod(limit.beat, nowMs);
    return { startMs, endMs };
  }
  if (limit.everyMs !== undefined) {
    const open = counter && nowMs < counter.startMs + limit.everyMs;
    return open
      ? { startMs: counter.startMs, endMs: counter.startMs + limit.everyMs }
      : { startMs: nowMs, endMs: nowMs + limit.everyMs };
  }
  return limit.period === 'lifetime' ? FOREVER : periodAround(zone, limit.period as CalendarUnit, nowMs);
}

/** How much of a limit is used at `nowMs`. */
export function limitUsed(limit: Limit, counter: Counter | undefined, zone: string, nowMs: number): number {
  if (!counter) return 0;
  return counter.startMs === limitPeriod(limit, counter, zone, nowMs).startMs ? counter.count : 0;
}

/** The counter after `times` more at `nowMs`. */
export function limitCount(
  limit: Limit,
  counter: Counter | undefined,
  zone: string,
  nowMs: number,
  times: number,
): Counter {
  return {
    count: limitUsed(limit, counter, zone, nowMs) + times,
    startMs: limitPeriod(limit, counter, zone, nowMs).startMs,
  };
}
