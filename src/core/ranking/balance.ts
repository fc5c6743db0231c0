/** What players hold at an instant, for rankings by a balance: refills, ends and conversions included, as everywhere else. */
import type { Units } from '../amount/index.js';
import type { Currency, Economy } from '../economy/index.js';
import { playerSettle } from '../player/index.js';
import type { Player } from '../player/index.js';
import { levelNextMs } from '../schedule/index.js';
import type { Level } from '../schedule/index.js';

export type Levels = Readonly<Record<string, Level>>;

/**
 * The currencies that a balance comes from by time alone: itself, and those that have ended in it; none where time has
 * changed nothing by then.
 */
export function balanceSources({ currencies }: Economy, currency: string, nowMs: number): Currency[] {
  const own = currencies.get(currency);
  const hasEnded = ({ ends }: Currency): boolean => ends !== undefined && ends.atMs <= nowMs;
  const into = [...currencies.values()].filter((one) => one.ends?.into === currency && hasEnded(one));
  return own && (own.refill || hasEnded(own) || into[0]) ? [own, ...into] : [];
}

/** What somebody with these levels of a currency and its sources holds, and when time changes that next, epoch ms. */
export function balanceAt(
  economy: Economy,
  currency: string,
  sources: readonly Currency[],
  levels: Levels,
  nowMs: number,
): { units: Units; nextMs: number } {
  const settled = playerSettle(economy, { ...NOBODY, balances: levels }, nowMs).player.balances;
  let nextMs = Infinity;
  for (const { id, refill, ends } of sources) {
    const level = settled[id];
    if (!level || (level.units === 0 && level.sinceMs === null)) continue;
    if (id === currency) nextMs = Math.min(nextMs, levelNextMs(level, refill) ?? Infinity);
    if (ends && ends.atMs > nowMs) nextMs = Math.min(nextMs, ends.atMs);
  }
  return { units: settled[currency]?.units ?? 0, nextMs };
}

const NOBODY: Player = {
  id: '',
  name: '',
  startedMs: 0,
  attributes: {},
  balances: {},
  stacks: [],
  counters: {},
  stocks: {},
  teams: {},
};
