/**
 * Instants that differ in what can be bought: one for each set of shops, offers and sales that are open together.
 * Money loops are looked for at each, since only what is on sale together can be gone round.
 */
import type { Economy } from '../economy/index.js';
import { DAY_MS, openingIsBounded, openingIsOpen, openingWindows } from '../schedule/index.js';
import type { Opening } from '../schedule/index.js';

/** More sets are not looked at. */
const MOST_MOMENTS = 64;
/** How long a recurring window is followed, and how many of its edges count. */
const FOLLOWED_MS = 400 * DAY_MS;
const MOST_EDGES = 120;

/** At least one; sets with more sales come first. Cost: edges x windows. */
export function economyMoments(economy: Economy): number[] {
  const sales = [...economy.sales.values()].map(({ opening }) => opening);
  const openings = [
    ...sales,
    ...[...economy.shops.values()].map(({ opening }) => opening),
    ...[...economy.offers.values()].map(({ opening }) => opening),
  ].filter(openingIsBounded);
  const edges = [...new Set(openings.flatMap(openingEdges))].sort((a, b) => a - b);
  const first = edges[0] ?? 0;
  const bySet = new Map<string, { ms: number; running: number }>();
  for (const ms of [first - 1, ...edges]) {
    const open = openings.map((opening) => (openingIsOpen(opening, ms) ? '1' : '0')).join('');
    if (bySet.has(open)) continue;
    bySet.set(open, { ms, running: sales.filter((opening) => openingIsOpen(opening, ms)).length });
  }
  return [...bySet.values()]
    .sort((a, b) => b.running - a.running || a.ms - b.ms)
    .slice(0, MOST_MOMENTS)
    .map(({ ms }) => ms);
}

function openingEdges(opening: Opening): number[] {
  const { fromMs, untilMs, recurrences } = opening;
  const own = [fromMs, untilMs].filter((ms) => ms !== undefined);
  if (recurrences.length === 0) return own;
  const start = fromMs ?? Math.min(...recurrences.map(({ startsWall }) => startsWall)) - DAY_MS;
  const windows = openingWindows(opening, start, start + FOLLOWED_MS);
  return [...own, ...windows.flatMap(({ startMs, endMs }) => [startMs, endMs]).slice(0, MOST_EDGES)];
}
