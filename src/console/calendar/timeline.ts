/** The time line as numbers: scales, ticks, and what dragging an entry changes in the draft. All by the clocks on the wall, so that a day at a change of clocks is as wide as it is long. */
import type { Operation } from 'fast-json-patch';
import type { CalendarEntry } from '../../core/calendar/index.js';
import type { EconomyDocument, SaleDocument } from '../../core/document/index.js';
import { DAY_MS, localMs, localWritten, wallAt } from '../../core/schedule/localTime.js';
import type { Frequency } from '../fields/frequency.js';
import { fieldOperation } from '../parts/step.js';
import type { Step } from '../parts/step.js';

const MINUTE = 60_000;
const HOUR = 60 * MINUTE;

export interface Scale {
  name: string;
  spanMs: number;
  tickMs: number;
  /** What dragging snaps to. */
  snapMs: number;
  tick: Intl.DateTimeFormatOptions;
}

export const SCALES: Readonly<Record<string, Scale>> = {
  hour: {
    name: 'An hour',
    spanMs: HOUR,
    tickMs: 10 * MINUTE,
    snapMs: 5 * MINUTE,
    tick: { hour: '2-digit', minute: '2-digit' },
  },
  day: {
    name: 'A day',
    spanMs: DAY_MS,
    tickMs: 2 * HOUR,
    snapMs: 15 * MINUTE,
    tick: { hour: '2-digit', minute: '2-digit' },
  },
  week: {
    name: 'A week',
    spanMs: 7 * DAY_MS,
    tickMs: DAY_MS,
    snapMs: HOUR,
    tick: { weekday: 'short', day: 'numeric', month: 'short' },
  },
  fortnight: {
    name: 'Two weeks',
    spanMs: 14 * DAY_MS,
    tickMs: DAY_MS,
    snapMs: 6 * HOUR,
    tick: { weekday: 'short', day: 'numeric' },
  },
  month: {
    name: 'A month',
    spanMs: 31 * DAY_MS,
    tickMs: 2 * DAY_MS,
    snapMs: DAY_MS,
    tick: { day: 'numeric', month: 'short' },
  },
  season: {
    name: 'A season',
    spanMs: 92 * DAY_MS,
    tickMs: 7 * DAY_MS,
    snapMs: DAY_MS,
    tick: { day: 'numeric', month: 'short' },
  },
};

export interface Stretch {
  zone: string;
  fromMs: number;
  toMs: number;
}

/** The clocks on the wall at a local date or time, as if they were UTC; NaN where it is none. */
const wallOf = (written: string): number =>
  /^\d{4}-\d\d-\d\d(T\d\d:\d\d)?$/.test(written)
    ? Date.parse(`${written.length === 10 ? `${written}T00:00` : written}:00Z`)
    : NaN;

/** The stretch of a scale that begins at a local date or time. */
export function stretchFrom(zone: string, written: string, { spanMs }: Scale): Stretch | undefined {
  const wall = wallOf(written);
  if (Number.isNaN(wall)) return undefined;
  return { zone, fromMs: localMs(zone, wall), toMs: localMs(zone, wall + spanMs) };
}

/** The local start of a stretch that is so many spans later. */
export function startAfter({ zone, fromMs }: Stretch, { spanMs }: Scale, spans: number): string {
  return localWritten(zone, localMs(zone, wallAt(zone, fromMs) + spans * spanMs));
}

/** The local midnight (or hour, for the shortest scale) around an instant. */
export function startAround(zone: string, ms: number, { spanMs }: Scale): string {
  const unit = spanMs <= HOUR ? HOUR : DAY_MS;
  return localWritten(zone, localMs(zone, Math.floor(wallAt(zone, ms) / unit) * unit));
}

/** Where an instant is, as a part of the stretch. */
export const placeOf = ({ fromMs, toMs }: Stretch, ms: number): number => (ms - fromMs) / (toMs - fromMs);

export function ticksOf({ zone, fromMs, toMs }: Stretch, { tickMs, tick }: Scale): { at: number; label: string }[] {
  const format = new Intl.DateTimeFormat('en-GB', { ...tick, timeZone: zone });
  const ticks: { at: number; label: string }[] = [];
  for (let wall = wallAt(zone, fromMs); ; wall += tickMs) {
    const ms = localMs(zone, wall);
    if (ms >= toMs) return ticks;
    ticks.push({ at: (ms - fromMs) / (toMs - fromMs), label: format.format(ms) });
  }
}

export const timeWords = (zone: string, ms: number): string =>
  new Intl.DateTimeFormat('en-GB', {
    weekday: 'short',
    day: 'numeric',
    month: 'short',
    hour: '2-digit',
    minute: '2-digit',
    timeZone: zone,
  }).format(ms);

/** What is dragged: the whole, its beginning, or its end. */
export type Grip = 'whole' | 'start' | 'end';

interface Written {
  from?: string | undefined;
  until?: string | undefined;
  runs?: Readonly<Record<string, { starts: string; lasts: string }>> | undefined;
  open?: Written['runs'];
}

/** The only recurring window of a thing, with where it is written. */
function onlyWindow(
  written: Written,
  pointer: string,
): { pointer: string; window: { starts: string; lasts: string } } | undefined {
  const name = written.runs ? 'runs' : 'open';
  const windows = Object.entries(written[name] ?? {});
  return windows.length === 1 ? { pointer: `${pointer}/${name}/${windows[0]![0]}`, window: windows[0]![1] } : undefined;
}

const valueAt = (document: EconomyDocument, pointer: string): Written | undefined =>
  pointer
    .slice(1)
    .split('/')
    .reduce<unknown>((value, key) => (value as Record<string, unknown> | undefined)?.[key], document) as
    | Written
    | undefined;

/** Whether dragging it can change one thing and no other. */
export function canDrag(document: EconomyDocument, { kind, pointer, recurs }: CalendarEntry): boolean {
  if (kind !== 'sale' && kind !== 'offer' && kind !== 'open') return false;
  const written = valueAt(document, pointer);
  if (!written) return false;
  return recurs
    ? onlyWindow(written, pointer) !== undefined
    : written.from !== undefined || written.until !== undefined;
}

const snapped = (wall: number, snapMs: number): number => Math.round(wall / snapMs) * snapMs;

/** Where an entry lies after it was dragged by `byMs`, at least one snap long. */
export function dragged(
  zone: string,
  { startMs, endMs }: CalendarEntry,
  byMs: number,
  grip: Grip,
  { snapMs }: Scale,
): { startMs: number; endMs: number } {
  const [start, end] = [wallAt(zone, startMs), wallAt(zone, endMs)];
  const moved = snapped(start + byMs, snapMs) - start;
  if (grip === 'whole') return { startMs: localMs(zone, start + moved), endMs: localMs(zone, end + moved) };
  if (grip === 'start') return { startMs: localMs(zone, Math.min(snapped(start + byMs, snapMs), end - snapMs)), endMs };
  return { startMs, endMs: localMs(zone, Math.max(snapped(end + byMs, snapMs), start + snapMs)) };
}

/** ISO 8601, in days, hours and minutes. */
function durationWritten(ms: number): string {
  const [days, hours, minutes] = [
    Math.floor(ms / DAY_MS),
    Math.floor((ms % DAY_MS) / HOUR),
    Math.round((ms % HOUR) / MINUTE),
  ];
  const time = `${hours ? `${hours}H` : ''}${minutes ? `${minutes}M` : ''}`;
  return `P${days ? `${days}D` : ''}${time ? `T${time}` : ''}`;
}

/** The change that lets a sale of one time come again, with the same hours; undefined where it has no beginning, no end, or comes again already. */
export function againStep(id: string, { from, until, runs }: SaleDocument, frequency: Frequency): Step | undefined {
  const [start, end] = [wallOf(from ?? ''), wallOf(until ?? '')];
  if (runs !== undefined || !(start < end)) return undefined;
  const starts = new Date(start).toISOString().slice(0, 16);
  const value = {
    [frequency.toLowerCase()]: { starts, repeats: `FREQ=${frequency}`, lasts: durationWritten(end - start) },
  };
  const at = `/sales/${id}`;
  return {
    operations: [
      { op: 'add', path: `${at}/runs`, value },
      { op: 'remove', path: `${at}/from` },
      { op: 'remove', path: `${at}/until` },
    ],
  };
}

/** The change of the draft that puts an entry where it was dragged to; undefined where nothing changes. */
export function dragStep(
  document: EconomyDocument,
  zone: string,
  entry: CalendarEntry,
  to: { startMs: number; endMs: number },
): Step | undefined {
  const written = valueAt(document, entry.pointer);
  if (!written) return undefined;
  const operations: Operation[] = [];
  const set = (pointer: string, field: string, before: string | undefined, value: string): void => {
    const operation = fieldOperation(pointer, field, before, value);
    if (operation) operations.push(operation);
  };
  if (entry.recurs) {
    const only = onlyWindow(written, entry.pointer);
    if (!only) return undefined;
    const { pointer, window } = only;
    const by = wallAt(zone, to.startMs) - wallAt(zone, entry.startMs);
    const first = wallOf(window.starts.slice(0, '2027-03-01T09:00'.length));
    if (by !== 0) set(pointer, 'starts', window.starts, new Date(first + by).toISOString().slice(0, 16));
    const long = wallAt(zone, to.endMs) - wallAt(zone, to.startMs);
    if (long !== wallAt(zone, entry.endMs) - wallAt(zone, entry.startMs))
      set(pointer, 'lasts', window.lasts, durationWritten(long));
  } else {
    if (written.from !== undefined && to.startMs !== entry.startMs)
      set(entry.pointer, 'from', written.from, localWritten(zone, to.startMs));
    if (written.until !== undefined && to.endMs !== entry.endMs)
      set(entry.pointer, 'until', written.until, localWritten(zone, to.endMs));
  }
  return operations.length === 0 ? undefined : { operations };
}
