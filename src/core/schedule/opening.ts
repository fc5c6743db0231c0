/** When something is open: from and until, and within them windows that come again. */
import { recurrenceWindows } from './recurrence.js';
import type { Recurrence } from './recurrence.js';
import { DAY_MS } from './localTime.js';
import type { Period } from './localTime.js';

/** `fromMs` inclusive, `untilMs` exclusive. Without recurrences it is open all the time in between. */
export interface Opening {
  fromMs: number | undefined;
  untilMs: number | undefined;
  recurrences: readonly Recurrence[];
}

const within = ({ fromMs, untilMs }: Opening, nowMs: number): boolean =>
  (fromMs === undefined || nowMs >= fromMs) && (untilMs === undefined || nowMs < untilMs);

/** Whether it is ever closed at all. */
export const openingIsBounded = ({ fromMs, untilMs, recurrences }: Opening): boolean =>
  fromMs !== undefined || untilMs !== undefined || recurrences.length > 0;

/** Whether it is open at an instant: the first instant of a window is in it, the last is not. */
export function openingIsOpen(opening: Opening, nowMs: number): boolean {
  return opening.recurrences.length === 0 ? within(opening, nowMs) : stateAt(opening, nowMs).open;
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
  if (opening.recurrences.length > 0) return stateAt(opening, nowMs).changesMs;
  const edge = within(opening, nowMs) ? opening.untilMs : opening.fromMs;
  return edge !== undefined && edge > nowMs ? edge : null;
}

/** Whether it is open from `fromMs` on, and until when that holds; null: for ever. */
interface State {
  fromMs: number;
  open: boolean;
  changesMs: number | null;
}

/**
 * Asked for every offer of a shop and at every purchase, so what is known of an opening is kept: the answer holds until
 * it changes. A cache only.
 */
const states = new WeakMap<Opening, State[]>();
const MOST_STATES = 16;

function stateAt(opening: Opening, nowMs: number): State {
  const known = states.get(opening) ?? [];
  const held = known.find(({ fromMs, changesMs }) => fromMs <= nowMs && (changesMs === null || nowMs < changesMs));
  if (held) return held;
  const state = stateFind(opening, nowMs);
  // The same state, known from an earlier moment on, takes the place of the later one.
  const others = known.filter(({ changesMs }) => changesMs !== state.changesMs).slice(0, MOST_STATES - 1);
  states.set(opening, [state, ...others]);
  return state;
}

function stateFind(opening: Opening, nowMs: number): State {
  const open = openingWindows(opening, nowMs, nowMs + 1).length > 0;
  for (const span of SPANS) {
    const to = nowMs + span;
    const [first] = openingWindows(opening, nowMs, to);
    if (open && first && first.endMs < to) return { fromMs: nowMs, open, changesMs: first.endMs };
    if (!open && first) return { fromMs: nowMs, open, changesMs: first.startMs };
  }
  return { fromMs: nowMs, open, changesMs: null };
}
