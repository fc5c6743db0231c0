/**
 * Windows that come again: RFC 5545 recurrence rules in local time. The `rrule` package knows no zones, so it works on
 * the clocks on the wall, and each occurrence is then turned into an instant of the zone.
 */
import { Duration } from 'luxon';
import * as rrule from 'rrule';
import type { Options } from 'rrule';
import { DAY_MS, LAST_MS, localMs, wallAt } from './localTime.js';
import type { Period } from './localTime.js';

// The package's main file is CommonJS: Node hands out its names as the default, other loaders one by one.
const { RRule } = (rrule as unknown as { default?: typeof rrule }).default ?? rrule;

/** The parts of a rule that are taken; windows of a game's shop need no more, and each of these is sure to end. */
const PARTS = [
  'FREQ',
  'INTERVAL',
  'COUNT',
  'UNTIL',
  'BYDAY',
  'BYMONTH',
  'BYMONTHDAY',
  'BYSETPOS',
  'BYHOUR',
  'BYMINUTE',
  'WKST',
];
const FREQUENCIES = ['DAILY', 'WEEKLY', 'MONTHLY', 'YEARLY'];
/** How often a rule may come on one day. */
const MOST_A_DAY = 24;
const MONTH_DAYS = [31, 29, 31, 30, 31, 30, 31, 31, 30, 31, 30, 31];

/** One part of a rule with what its value must look like. */
const VALUES: Readonly<Record<string, RegExp>> = {
  INTERVAL: /^[1-9]\d{0,2}$/,
  COUNT: /^[1-9]\d{0,3}$/,
  UNTIL: /^\d{8}(T\d{6}Z?)?$/,
  BYDAY: /^([+-]?[1-5])?(MO|TU|WE|TH|FR|SA|SU)(,([+-]?[1-5])?(MO|TU|WE|TH|FR|SA|SU))*$/,
  BYMONTH: /^([1-9]|1[0-2])(,([1-9]|1[0-2]))*$/,
  BYMONTHDAY: /^-?([1-9]|[12]\d|3[01])(,-?([1-9]|[12]\d|3[01]))*$/,
  BYSETPOS: /^-?[1-9]\d?(,-?[1-9]\d?)*$/,
  BYHOUR: /^(1?\d|2[0-3])(,(1?\d|2[0-3]))*$/,
  BYMINUTE: /^[1-5]?\d(,[1-5]?\d)*$/,
  WKST: /^(MO|TU|WE|TH|FR|SA|SU)$/,
};

/** What is wrong with a recurrence rule, as a sentence part; undefined when it can be used. */
export function recurrenceProblem(written: string): string | undefined {
  const seen = new Map<string, string>();
  for (const part of written.split(';')) {
    const [name = '', value = '', ...more] = part.split('=');
    if (!PARTS.includes(name) || value === '' || more.length > 0)
      return `"${part}" is not one of the parts ${PARTS.join(', ')}, written NAME=VALUE`;
    if (seen.has(name)) return `${name} stands twice`;
    if (VALUES[name] && !VALUES[name].test(value)) return `${name}=${value} cannot be read`;
    seen.set(name, value);
  }
  const frequency = seen.get('FREQ');
  if (frequency === undefined || !FREQUENCIES.includes(frequency)) return `FREQ must be ${FREQUENCIES.join(', ')}`;
  const [hours, minutes] = ['BYHOUR', 'BYMINUTE'].map((name) => new Set(seen.get(name)?.split(',')).size || 1);
  if (hours! * minutes! > MOST_A_DAY)
    return `it comes ${hours! * minutes!} times a day, and ${MOST_A_DAY} are the most; a shelf that rotates can change more often`;
  if (seen.has('COUNT') && seen.has('UNTIL')) return 'COUNT and UNTIL cannot stand together';
  if (frequency === 'DAILY' && seen.has('BYSETPOS')) return 'BYSETPOS picks among several, and a day is only one';
  if (frequency !== 'MONTHLY' && frequency !== 'YEARLY' && /\d[A-Z]/.test(seen.get('BYDAY') ?? ''))
    return 'BYDAY with a number needs FREQ=MONTHLY or YEARLY';
  return undefined;
}

/** Whether no month among those named has any of the days named, as with 30 February. */
function dayNeverComes(written: string): boolean {
  const numbers = (name: string) =>
    new RegExp(`${name}=([-\\d,]+)`).exec(written)?.[1]?.split(',').map(Number) ?? undefined;
  const days = numbers('BYMONTHDAY');
  const months = numbers('BYMONTH') ?? MONTH_DAYS.map((_, index) => index + 1);
  return days !== undefined && !months.some((month) => days.some((day) => Math.abs(day) <= MONTH_DAYS[month - 1]!));
}

/** A window from `startsWall`, `lasts` long, and again by the rule. */
export interface Recurrence {
  zone: string;
  startsWall: number;
  repeats: string | undefined;
  /** How long each is: calendar days, then an exact rest. */
  days: number;
  restMs: number;
  /** The longest that one window can be, in ms: a day at a change of clocks has an hour more. */
  longestMs: number;
  rule: Rule | undefined;
  /** Occurrences by block of time, as they were worked out. A cache only. */
  blocks: Map<number, Period[]>;
}

/** Drafts are compiled at every save, so recurrences that were made are kept by what they were made of. A cache only. */
const made = new Map<string, Recurrence>();
const MOST_MADE = 1000;

/** Days of `lasts` are calendar days, hours are exact (RFC 5545, 3.3.6). The rule must have passed `recurrenceProblem`. */
export function recurrenceMake(
  zone: string,
  startsWall: number,
  repeats: string | undefined,
  lasts: string,
): Recurrence {
  const key = `${zone} ${startsWall} ${repeats} ${lasts}`;
  const known = made.get(key);
  if (known) return known;
  const duration = Duration.fromISO(lasts);
  const days = duration.weeks * 7 + duration.days;
  const recurrence: Recurrence = {
    zone,
    startsWall,
    repeats,
    days,
    restMs: duration.toMillis() - days * DAY_MS,
    longestMs: duration.toMillis() + 2 * 3_600_000,
    rule: repeats === undefined || dayNeverComes(repeats) ? undefined : ruleMake(zone, startsWall, repeats),
    blocks: new Map(),
  };
  if (made.size >= MOST_MADE) made.clear();
  made.set(key, recurrence);
  return recurrence;
}

/** A rule with everything said that the package would take from its start, so that it can also begin later. */
interface Rule {
  options: Partial<Options>;
  startsWall: number;
  untilWall: number;
}

function ruleMake(zone: string, startsWall: number, repeats: string): Rule {
  const written = RRule.parseString(repeats);
  const start = new Date(startsWall);
  const saysDay = written.byweekday !== undefined || written.bymonthday !== undefined;
  const { freq } = written;
  const options: Partial<Options> = {
    ...(saysDay || freq === RRule.DAILY
      ? {}
      : freq === RRule.WEEKLY
        ? { byweekday: [(start.getUTCDay() + 6) % 7] }
        : { bymonthday: [start.getUTCDate()] }),
    ...(freq === RRule.YEARLY && !saysDay ? { bymonth: [start.getUTCMonth() + 1] } : {}),
    ...written,
  };
  const until = written.until ? untilWall(zone, repeats, written.until.getTime()) : Infinity;
  return { options, startsWall, untilWall: Math.min(until, LAST_MS) };
}

/**
 * When it comes in a stretch, by the clocks on the wall, both ends included. The package walks from a rule's start, so
 * it begins shortly before the stretch, as many intervals later as fit: the cost does not grow with the years between.
 */
function occurrences({ options, startsWall, untilWall: until }: Rule, fromWall: number, toWall: number): number[] {
  const dtstart = new Date(options.count ? startsWall : laterStart(options, startsWall, fromWall));
  const rule = new RRule({ ...options, dtstart, until: new Date(Math.min(until, toWall)) }, true);
  return rule
    .all()
    .map((date) => date.getTime())
    .filter((wall) => wall >= Math.max(fromWall, startsWall));
}

/** A start at least an interval before `fromWall`, in step with the first; the first one where there is none. */
function laterStart({ freq, interval = 1 }: Partial<Options>, startsWall: number, fromWall: number): number {
  const unitMs = (freq === RRule.DAILY ? 1 : freq === RRule.WEEKLY ? 7 : freq === RRule.MONTHLY ? 31 : 366) * DAY_MS;
  const steps = Math.floor((fromWall - startsWall) / (unitMs * interval)) - 1;
  if (steps <= 0) return startsWall;
  const units = steps * interval;
  if (freq === RRule.DAILY || freq === RRule.WEEKLY) return startsWall + units * unitMs;
  // Its first day, so that no day of that month or year is missed.
  const first = new Date(startsWall);
  const month = freq === RRule.MONTHLY ? first.getUTCMonth() + units : 0;
  return Date.UTC(first.getUTCFullYear() + (freq === RRule.YEARLY ? units : 0), month, 1) + modulo(startsWall, DAY_MS);
}

const modulo = (value: number, by: number): number => ((value % by) + by) % by;

/** A date means the whole day; a time with Z is UTC, any other is local. */
function untilWall(zone: string, repeats: string, read: number): number {
  const [, time, utc] = /UNTIL=\d{8}(T\d{6}(Z?))?/.exec(repeats)!;
  if (time === undefined) return read + DAY_MS - 1;
  return utc === 'Z' ? wallAt(zone, read) : read;
}

/** How far from its start a rule is looked for: 29 February is a Monday every 28 years, and 40 where a century has none. */
const SEARCHED_MS = 41 * 366 * DAY_MS;

/** Whether it comes at all. */
export function recurrenceComes({ repeats, rule, startsWall }: Recurrence): boolean {
  if (repeats === undefined) return true;
  const key = `${startsWall} ${repeats}`;
  const known = comes.get(key);
  if (known !== undefined) return known;
  if (comes.size > 5000) comes.clear();
  const answer = rule !== undefined && comesWithin(rule);
  comes.set(key, answer);
  return answer;
}
/** A rule that never comes is only known as such after a long search, so the answer is kept. A cache only. */
const comes = new Map<string, boolean>();

function comesWithin({ options, startsWall, untilWall: until }: Rule): boolean {
  const end = new Date(Math.min(until, startsWall + SEARCHED_MS));
  return new RRule({ ...options, count: 1, dtstart: new Date(startsWall), until: end }, true).all().length > 0;
}

const BLOCK_MS = 128 * DAY_MS;
const MOST_BLOCKS = 64;

/** The windows that begin in a block of time. */
function block(recurrence: Recurrence, index: number): Period[] {
  const known = recurrence.blocks.get(index);
  if (known) return known;
  const { zone, rule, days, restMs, startsWall, repeats } = recurrence;
  const [from, to] = [index * BLOCK_MS, (index + 1) * BLOCK_MS];
  const walls =
    repeats === undefined
      ? startsWall >= from && startsWall < to
        ? [startsWall]
        : []
      : to <= startsWall || !recurrenceComes(recurrence)
        ? []
        : occurrences(rule!, from, to - 1);
  const windows = walls.map((wall) => {
    const startMs = localMs(zone, wall);
    // What would be empty, because clocks jump over it, still lasts a moment: nothing that comes is lost.
    return { startMs, endMs: Math.max(localMs(zone, wall + days * DAY_MS) + restMs, startMs + 1) };
  });
  if (recurrence.blocks.size >= MOST_BLOCKS) recurrence.blocks.clear();
  recurrence.blocks.set(index, windows);
  return windows;
}

/** The windows that overlap a stretch of time, in order. Cost: the windows in it and a block around. */
export function recurrenceWindows(recurrence: Recurrence, fromMs: number, toMs: number): Period[] {
  const windows: Period[] = [];
  // Blocks are by the clocks on the wall, which are at most 14 hours from UTC.
  const first = Math.floor((fromMs - recurrence.longestMs - DAY_MS) / BLOCK_MS);
  const end = Math.floor((toMs + DAY_MS) / BLOCK_MS);
  for (let index = first; index <= end; index++)
    for (const window of block(recurrence, index))
      if (window.endMs > fromMs && window.startMs < toMs) windows.push(window);
  return windows;
}
