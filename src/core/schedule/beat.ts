/**
 * A beat divides all time into periods that follow each other without a gap: days from 09:00 to 09:00, weeks, months,
 * or any duration. Rotations, restocks and limits count in its periods. Any period is reached at once by its number.
 */
import { DAY_MS, localMs, wallAt } from './localTime.js';
import type { CalendarUnit, Period } from './localTime.js';

/** `wallMs` long by the clocks on the wall, or exactly `exactMs`, or a calendar month. */
export interface Beat {
  zone: string;
  length: { wallMs: number } | { exactMs: number } | 'month';
  /** Where period 0 begins, as clocks show it. */
  anchorWall: number;
}

export interface BeatPeriod extends Period {
  /** 0 is the period that begins at the anchor; earlier ones are negative. */
  index: number;
}

/** Monday, 1 January 2024: where beats are anchored unless they say otherwise, so that weeks begin on Mondays. */
const ANCHOR = Date.UTC(2024, 0, 1);

/**
 * `every` is a calendar word or a duration. What divides a day, or is made of whole days, goes by the clocks on the
 * wall, so that it begins at the same local time all year (and a day on which clocks change has 23 or 25 hours); any
 * other duration is exact. `startsWall` moves the anchor: from which day two-day periods are counted, say.
 */
export function beatMake(zone: string, every: CalendarUnit | number, atMs: number, startsWall: number = ANCHOR): Beat {
  const anchorWall = startsWall + atMs;
  if (every === 'month') return { zone, length: 'month', anchorWall };
  const wallMs = every === 'day' ? DAY_MS : every === 'week' ? 7 * DAY_MS : every;
  const byWall = wallMs % DAY_MS === 0 || DAY_MS % wallMs === 0;
  return { zone, length: byWall ? { wallMs } : { exactMs: wallMs }, anchorWall };
}

/** When a period begins, epoch ms. */
export function beatStart({ zone, length, anchorWall }: Beat, index: number): number {
  if (length === 'month') {
    const anchor = new Date(anchorWall);
    const dayMs = anchorWall % DAY_MS;
    return localMs(zone, Date.UTC(anchor.getUTCFullYear(), anchor.getUTCMonth() + index, 1) + dayMs);
  }
  if ('exactMs' in length) return localMs(zone, anchorWall) + index * length.exactMs;
  return localMs(zone, anchorWall + index * length.wallMs);
}

/** Asked again and again for the same moment, so the last answer of each beat is kept. A cache only. */
const last = new WeakMap<Beat, BeatPeriod>();

/** The period around an instant. Cost: the same for any instant. */
export function beatPeriod(beat: Beat, nowMs: number): BeatPeriod {
  const known = last.get(beat);
  if (known && known.startMs <= nowMs && nowMs < known.endMs) return known;
  // The wall gives the number but for a period around a change of clocks.
  let index = guess(beat, nowMs);
  while (beatStart(beat, index) > nowMs) index--;
  while (beatStart(beat, index + 1) <= nowMs) index++;
  const period = { index, startMs: beatStart(beat, index), endMs: beatStart(beat, index + 1) };
  last.set(beat, period);
  return period;
}

function guess({ zone, length, anchorWall }: Beat, nowMs: number): number {
  if (length !== 'month' && 'exactMs' in length)
    return Math.floor((nowMs - localMs(zone, anchorWall)) / length.exactMs);
  const wall = wallAt(zone, nowMs);
  if (length !== 'month') return Math.floor((wall - anchorWall) / length.wallMs);
  const [now, anchor] = [new Date(wall), new Date(anchorWall)];
  return (
    (now.getUTCFullYear() - anchor.getUTCFullYear()) * 12 +
    now.getUTCMonth() -
    anchor.getUTCMonth() -
    (now.getUTCDate() === 1 && wall % DAY_MS < anchorWall % DAY_MS ? 1 : 0)
  );
}
