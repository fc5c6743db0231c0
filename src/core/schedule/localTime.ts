/** Local times of a zone as instants, right where clocks change: a local time may not exist, or exist twice. */
import { DateTime, IANAZone } from 'luxon';

const MINUTE_MS = 60_000;
export const DAY_MS = 86_400_000;

/** The years that are taken: what is asked or written beyond them is a slip, and calendars are walked through. */
export const FIRST_MS = Date.UTC(1970, 0, 1);
/** Not included. */
export const LAST_MS = Date.UTC(2200, 0, 1);
export const YEARS = 'from 1970 to 2199';

/** A local time as if it were UTC: what clocks on the wall show, in milliseconds. Days of it always have 24 hours. */
export type WallMs = number;

const zones = new Map<string, IANAZone>();
function zoneOf(name: string): IANAZone {
  const known = zones.get(name) ?? IANAZone.create(name);
  zones.set(name, known);
  return known;
}

/** Offsets in minutes by zone and day (of UTC); NaN for a day in which clocks change. A cache only. */
const offsets = new Map<string, Map<number, number>>();
const MOST_DAYS = 5000;

/** How far clocks are ahead of UTC at an instant. What is slow to ask is asked at both ends of a day, and kept. */
function offsetAt(zone: string, ms: number): number {
  let days = offsets.get(zone);
  if (!days) offsets.set(zone, (days = new Map()));
  const day = Math.floor(ms / DAY_MS);
  let known = days.get(day);
  if (known === undefined) {
    const [first, last] = [zoneOf(zone).offset(day * DAY_MS), zoneOf(zone).offset((day + 1) * DAY_MS)];
    known = first === last ? first : NaN;
    if (days.size >= MOST_DAYS) days.clear();
    days.set(day, known);
  }
  return Number.isNaN(known) ? zoneOf(zone).offset(ms) : known;
}

/** What clocks show at an instant. */
export const wallAt = (zone: string, ms: number): WallMs => ms + offsetAt(zone, ms) * MINUTE_MS;

/** `startMs` inclusive, `endMs` exclusive. */
export interface Period {
  startMs: number;
  endMs: number;
}

export type CalendarUnit = 'day' | 'week' | 'month';

export interface LocalInstants {
  /** The instant that is meant: the first of two; where clocks jumped over it, as far after the jump (RFC 5545, 3.3.5). */
  ms: number;
  /** How often clocks show this time. */
  matches: 0 | 1 | 2;
  /** The second instant, where there are two. */
  secondMs?: number;
}

/** The day of the week that clocks show, from 0 for Monday. */
export const weekdayOf = (wall: WallMs): number => (new Date(wall).getUTCDay() + 6) % 7;

/** The instants at which clocks show `wall`. */
export function localInstants(zone: string, wall: WallMs): LocalInstants {
  const [before, after] = [wall - DAY_MS, wall + DAY_MS].map((ms) => offsetAt(zone, ms) * MINUTE_MS);
  if (before === after) return { ms: wall - before!, matches: 1 };
  const fits = [wall - before!, wall - after!].filter((ms) => wallAt(zone, ms) === wall).sort((a, b) => a - b);
  if (fits.length === 0) return { ms: wall - before!, matches: 0 };
  return fits.length === 1 ? { ms: fits[0]!, matches: 1 } : { ms: fits[0]!, matches: 2, secondMs: fits[1]! };
}

/** The instant at which clocks show `wall`, by the rule of `localInstants`. */
export const localMs = (zone: string, wall: WallMs): number => localInstants(zone, wall).ms;

/** Local times as most are written: logs have a hundred thousand of them, and a regular expression reads these ten times as fast. */
const PLAIN = /^([1-9]\d{3})-(\d\d)-(\d\d)(?:T([01]\d|2[0-3]):([0-5]\d)(?::([0-5]\d))?)?$/;

function plainRead(written: string): WallMs | undefined {
  const [, year, month, day, hour = 0, minute = 0, second = 0] = PLAIN.exec(written) ?? [];
  if (year === undefined) return undefined;
  const wall = Date.UTC(+year, +month! - 1, +day!, +hour, +minute, +second);
  const read = new Date(wall);
  return read.getUTCMonth() === +month! - 1 && read.getUTCDate() === +day! ? wall : undefined;
}

/** What a written ISO 8601 date or time means in a zone; undefined when it is none. An offset in it goes before the zone. */
export function instantRead(zone: string, written: string): LocalInstants | undefined {
  const plain = plainRead(written);
  if (plain !== undefined) return localInstants(zone, plain);
  const read = DateTime.fromISO(written, { zone: 'utc', setZone: true });
  if (!read.isValid) return undefined;
  if (/(Z|[+-]\d\d:?\d\d)$/.test(written) && written.includes('T')) return { ms: read.toMillis(), matches: 1 };
  return localInstants(zone, read.toMillis());
}

/** `2027-10-31T01:30+01:00`: an instant with the offset of its zone, so that nothing about it is in doubt. */
export const instantWritten = (zone: string, ms: number): string =>
  DateTime.fromMillis(ms, { zone }).toISO({ suppressSeconds: true, suppressMilliseconds: true })!;

/** `2027-10-31T01:30`: an instant as local time, as files have it. */
export const localWritten = (zone: string, ms: number): string =>
  DateTime.fromMillis(ms, { zone }).toISO({ suppressSeconds: true, suppressMilliseconds: true, includeOffset: false })!;
