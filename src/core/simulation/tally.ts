/**
 * What is counted while players play. Every figure is a sum of whole numbers or the first of some days, so that what
 * different players do adds up to the same in any order.
 */
import { REASON_CODES } from '../trade/index.js';
import type { Slots } from './engine/slots.js';

/** Of one day. */
export interface DayTally {
  /** Smallest units by persona, currency, way (in, out) and cause; see `flowAt`. */
  flows: Float64Array;
  /** How often something passed a cap, by persona and currency. */
  capped: Float64Array;
  /** How often each offer was bought, and what was paid for it in each currency. */
  sold: Float64Array;
  paid: Float64Array;
}

/** Of a whole run. */
export interface RunTally {
  /** By their place in `TOTALS`. */
  totals: Float64Array;
  /** By persona and offer: how often it was bought, and by how many players. */
  times: Float64Array;
  buyers: Float64Array;
  /** Player-days on which it was wanted and refused, by persona, offer and reason. */
  refused: Float64Array;
  /** By persona and activity, how often it was played; then by currency what that paid, and the sum of its squares. */
  plays: Float64Array;
  pay: Float64Array;
  paySquares: Float64Array;
  /** How long shared stock was sold out, ms, by offer. */
  soldOut: Float64Array;
  /** The first day on which each offer was bought, and the instant at which it was sold out first; infinite where never. */
  firstDay: Float64Array;
  firstOut: Float64Array;
}

export const TOTALS = ['playerDays', 'sessions', 'events', 'purchases', 'movements'] as const;
export const TOTAL = { playerDays: 0, sessions: 1, events: 2, purchases: 3, movements: 4 } as const;

/** Of these the least counts; all others are summed. */
const FIRSTS = ['firstDay', 'firstOut'] as const;

export const dayTally = ({ deals, currencies, causes }: Slots, personas: number): DayTally => ({
  flows: new Float64Array(personas * currencies * 2 * causes.length),
  capped: new Float64Array(personas * currencies),
  sold: new Float64Array(deals.length),
  paid: new Float64Array(deals.length * currencies),
});

export const runTally = ({ deals, currencies, activities }: Slots, personas: number): RunTally => ({
  totals: new Float64Array(TOTALS.length),
  times: new Float64Array(personas * deals.length),
  buyers: new Float64Array(personas * deals.length),
  refused: new Float64Array(personas * deals.length * REASON_CODES.length),
  plays: new Float64Array(personas * activities.size),
  pay: new Float64Array(personas * activities.size * currencies),
  paySquares: new Float64Array(personas * activities.size * currencies),
  soldOut: new Float64Array(deals.length),
  firstDay: new Float64Array(deals.length).fill(Infinity),
  firstOut: new Float64Array(deals.length).fill(Infinity),
});

/** Adds what other players did. */
export function tallyAdd<T extends DayTally | RunTally>(into: T, from: T): void {
  const columns = into as unknown as Record<string, Float64Array>;
  for (const [name, other] of Object.entries(from as unknown as Record<string, Float64Array>)) {
    const column = columns[name]!;
    if ((FIRSTS as readonly string[]).includes(name))
      for (let i = 0; i < other.length; i++) column[i] = Math.min(column[i]!, other[i]!);
    else for (let i = 0; i < other.length; i++) column[i]! += other[i]!;
  }
}

/** Where a flow is counted; the causes follow each other. */
export const flowAt = ({ currencies, causes }: Slots, persona: number, currency: number, way: 0 | 1): number =>
  ((persona * currencies + currency) * 2 + way) * causes.length;
