/** What fitting tells. */
import type { Mean } from '../simulation/index.js';

export interface Interval {
  value: number;
  low: number;
  high: number;
}

/** Without an interval it reaches from the value to itself. */
export const intervalOf = ({ mean, low, high }: Mean): Interval => ({
  value: mean ?? 0,
  low: low ?? mean ?? 0,
  high: high ?? mean ?? 0,
});

/** To three digits, which is more than a log can tell. */
export const rounded = (value: number): number => Number(value.toPrecision(3));
