/** When something is open: from and until, and within them windows that come again. */
import { recurrenceWindows } from './recurrence.js';
import type { Recurrence } from './recurrence.js';
import { DAY_MS } from './localTime.js';
import type { Period } from './period.js';

/** `fromMs` inclusive, `untilMs` exclusive. Without recurrences it is open all the time in between. */
export interface Opening {
  fromMs: number | undefined;
  untilMs: number | undefined;
  recurrences: readonly Recurrence[];
}

const within = ({ fromMs, untilMs }: Opening, nowMs: number): boolean =>
  (fromMs === undefined || nowMs >= fromMs) && (untilMs === undefined || nowMs < untilMs);

export function openingIsOpen(opening: Opening, nowMs: number): boolean {
  if (!within(opening, nowMs)) return false;
  return (
    opening.recurrences.length === 0 ||
    opening.recurrences.some((one) => recurrenceWindows(one, nowMs, nowMs + 1).length > 0)
  );
}

/** The stretches in which it is open, merged where they touch, cut to `fromMs` and `toMs`. */
export function openingWindows(opening: Opening, fromMs: number, toMs: number): Period[] {
  const start = Math.max(fromMs, opening.fromMs ?? -Infinity);
  const end = Math.min(toMs, opening.untilMs ?? Infinity);
  if (start >= end) return [];
  if (opening.recurrences.length === 0) return [{ startMs: start, endMs: end }];
  const all = opening.recurrences
    .flatMap((one) => recurrenceWindows(one, start, end))
    .map(({ startMs, endMs }) => ({ startMs: Math.max(startMs, start), endMs: Math.min(endMs, end) }))
    .sort((a, b) => a.startMs - b.startMs);
  const merged: Period[] = [];
  for (const window of all) {
    const last = merged.at(-1);
    if (last && window.startMs <= last.endMs) last.endMs = Math.max(last.endMs, window.endMs);
    else merged.push({ ...window });
  }
  return merged;
}

/** How far ahead is looked for the next opening or closing: a leap day may be eight years away. */
const SPANS = [32 * DAY_MS, 400 * DAY_MS, 3000 * DAY_MS];

/** When it opens next (where it is closed) or closes (where it is open), epoch ms; null when it never does. */
export function openingChangesMs(opening: Opening, nowMs: number): number | null {
  const open = openingIsOpen(opening, nowMs);
  if (opening.recurrences.length === 0) {
    const edge = open ? opening.untilMs : opening.fromMs;
    return edge !== undefined && edge > nowMs ? edge : null;
  }
  for (const span of SPANS) {
    const to = nowMs + span;
    const [first] = openingWindows(opening, nowMs, to);
    if (open && first && first.endMs < to) return first.endMs;
    if (!open && first) return first.startMs;
  }
  return null;
}
