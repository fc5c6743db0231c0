/** Calendar days, weeks and months in the economy's time zone, and how often something happened in one. */
import { DateTime } from 'luxon';
import { beatPeriod } from './beat.js';
import type { Beat } from './beat.js';
import { DAY_MS } from './localTime.js';
import type { CalendarUnit, Period } from './localTime.js';

/** What a limit counts within: for ever, a calendar unit, a duration from the first thing counted, or a beat's periods. */
export type LimitSpan =
  | { kind: 'lifetime' }
  | { kind: 'calendar'; unit: CalendarUnit }
  | { kind: 'duration'; everyMs: number }
  | { kind: 'beat'; beat: Beat };

/** `most` per `period`, which is the limit's name. */
export interface Limit {
  period: string;
  most: number;
  span: LimitSpan;
}

/** How often within the period that began at `startMs`. */
export interface Counter {
  count: number;
  startMs: number;
}

const FOREVER: Period = { startMs: 0, endMs: Number.POSITIVE_INFINITY };

/**
 * The calendar is slow to ask, and a period that holds an instant is the answer for every instant in it: periods are
 * kept by zone, unit and the day (of UTC) that is asked for. A cache only: it never changes an answer.
 */
const known = new Map<string, Record<CalendarUnit, Map<number, Period[]>>>();
const MOST_DAYS = 5000;

/** The calendar period around an instant. Weeks begin on Monday; a day at a daylight-saving change has 23 or 25 hours. */
export function periodAround(zone: string, unit: CalendarUnit, nowMs: number): Period {
  let units = known.get(zone);
  if (!units) known.set(zone, (units = { day: new Map(), week: new Map(), month: new Map() }));
  const days = units[unit];
  const day = Math.floor(nowMs / DAY_MS);
  const periods = days.get(day);
  if (periods) for (const period of periods) if (period.startMs <= nowMs && nowMs < period.endMs) return period;
  const start = DateTime.fromMillis(nowMs, { zone }).startOf(unit);
  const period = {
    startMs: start.toMillis(),
    endMs: start
      .plus({ [unit]: 1 })
      .startOf(unit)
      .toMillis(),
  };
  if (days.size >= MOST_DAYS) days.clear();
  days.set(day, [...(periods ?? []), period]);
  return period;
}

/** The same time of day so many calendar days before, epoch ms. */
export const daysBefore = (zone: string, ms: number, days: number): number =>
  DateTime.fromMillis(ms, { zone }).minus({ days }).toMillis();

/** Whole calendar days from the day of `fromMs` to the day of `nowMs`; 0 on the same day. */
export function daysBetween(zone: string, fromMs: number, nowMs: number): number {
  const from = DateTime.fromMillis(periodAround(zone, 'day', fromMs).startMs, { zone });
  const now = DateTime.fromMillis(periodAround(zone, 'day', nowMs).startMs, { zone });
  return Math.round(now.diff(from, 'days').days);
}

/**
 * The period a limit counts in at `nowMs`. A duration's window opens with the first thing counted and lasts that long;
 * before anything was counted it has no end yet. Where the clock has stepped back behind what was counted, the period
 * of the counter still runs: no limit starts anew by setting a clock back.
 */
export function limitPeriod({ span }: Limit, counter: Counter | undefined, zone: string, nowMs: number): Period {
  const atMs = Math.max(nowMs, counter?.startMs ?? nowMs);
  switch (span.kind) {
    case 'lifetime':
      return FOREVER;
    case 'calendar':
      return periodAround(zone, span.unit, atMs);
    case 'beat': {
      const { startMs, endMs } = beatPeriod(span.beat, atMs);
      return { startMs, endMs };
    }
    case 'duration': {
      const startMs = counter && atMs < counter.startMs + span.everyMs ? counter.startMs : atMs;
      return { startMs, endMs: startMs + span.everyMs };
    }
  }
}

/** How much of a limit is used at `nowMs`. */
export function limitUsed(limit: Limit, counter: Counter | undefined, zone: string, nowMs: number): number {
  if (!counter) return 0;
  return counter.startMs >= limitPeriod(limit, counter, zone, nowMs).startMs ? counter.count : 0;
}

/** The counter after `times` more at `nowMs`. */
export const limitCount = (
  limit: Limit,
  counter: Counter | undefined,
  zone: string,
  nowMs: number,
  times: number,
): Counter => ({
  count: limitUsed(limit, counter, zone, nowMs) + times,
  startMs: limitPeriod(limit, counter, zone, nowMs).startMs,
});
