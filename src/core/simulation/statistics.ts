/** The statistics of results: percentiles, means with intervals, and time-to-event under right censoring. */

/** Two-sided 95% quantile of the normal distribution. */
const Z95 = 1.959964;

export const PERCENTILES = [5, 25, 50, 75, 95] as const;

/** The p-th percentile (0-100) of an ascending array, linear between ranks (Hyndman & Fan 1996, type 7); null of nothing. */
export function percentile(ascending: ArrayLike<number>, p: number): number | null {
  if (ascending.length === 0) return null;
  const rank = ((ascending.length - 1) * p) / 100;
  const below = Math.floor(rank);
  const low = ascending[below]!;
  return low + (rank - below) * (ascending[Math.min(below + 1, ascending.length - 1)]! - low);
}

/** Of nothing there is no mean, and of one value no interval: null. */
export interface Mean {
  mean: number | null;
  low: number | null;
  high: number | null;
  n: number;
}

/** Mean with its 95% interval by the normal approximation; with fewer than 2 values the interval is as wide as it can be. */
export function meanWithInterval(values: readonly number[]): Mean {
  const n = values.length;
  if (n === 0) return { mean: null, low: null, high: null, n };
  const mean = values.reduce((sum, value) => sum + value, 0) / n;
  if (n === 1) return { mean, low: null, high: null, n };
  const variance = values.reduce((sum, value) => sum + (value - mean) ** 2, 0) / (n - 1);
  const half = Z95 * Math.sqrt(variance / n);
  return { mean, low: mean - half, high: mean + half, n };
}

/** One observed life: the event happened at `time`, or (`happened` false) was not seen up to then. */
export interface Observation {
  time: number;
  happened: boolean;
}

export interface Survival {
  /** Share for whom it happened by the end of each day, index = day. */
  share: number[];
  /** Median time with its 95% interval; null where the curve does not get that far. */
  median: number | null;
  low: number | null;
  high: number | null;
  happened: number;
  n: number;
}

/**
 * Kaplan & Meier's product-limit estimate (1958) over whole days 0 to `days` - 1, so that players who leave or run out
 * of days are not counted as "never". The interval of the median is Brookmeyer & Crowley's (1982), with
 * Greenwood's variance on the log(-log) scale. O(n + days).
 */
export function survivalEstimate(observations: readonly Observation[], days: number): Survival {
  const events = new Float64Array(days + 1);
  const exits = new Float64Array(days + 1);
  for (const { time, happened } of observations) (happened ? events : exits)[Math.min(time, days)]!++;
  let atRisk = observations.length;
  let alive = 1;
  let greenwood = 0;
  const share: number[] = [];
  const result: Survival = {
    share,
    median: null,
    low: null,
    high: null,
    happened: observations.filter(({ happened }) => happened).length,
    n: observations.length,
  };
  for (let day = 0; day < days; day++) {
    if (atRisk > 0 && events[day]! > 0) {
      alive *= 1 - events[day]! / atRisk;
      greenwood += atRisk > events[day]! ? events[day]! / (atRisk * (atRisk - events[day]!)) : Number.POSITIVE_INFINITY;
    }
    const { lower, upper } = logLogInterval(alive, greenwood);
    if (result.median === null && alive <= 0.5) result.median = day;
    if (result.low === null && lower <= 0.5) result.low = day;
    if (result.high === null && upper <= 0.5) result.high = day;
    share.push(1 - alive);
    atRisk -= events[day]! + exits[day]!;
  }
  return result;
}

function logLogInterval(alive: number, greenwood: number): { lower: number; upper: number } {
  if (alive >= 1) return { lower: 1, upper: 1 };
  if (alive <= 0) return { lower: 0, upper: 0 };
  const half = (Z95 * Math.sqrt(greenwood)) / Math.abs(Math.log(alive));
  return { lower: alive ** Math.exp(half), upper: alive ** Math.exp(-half) };
}
