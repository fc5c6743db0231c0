/** The statistics of results: percentiles, means with intervals, and time-to-event under right censoring. */
import jstat from 'jstat';

/** Two-sided 95% quantile of the normal distribution. */
export const Z95 = 1.959964;

/** The same of Student's distribution, by its expansion around the normal one (Abramowitz & Stegun 1964, 26.7.5). */
function t95(freedom: number): number {
  const z = Z95;
  return (
    z +
    (z ** 3 + z) / (4 * freedom) +
    (5 * z ** 5 + 16 * z ** 3 + 3 * z) / (96 * freedom ** 2) +
    (3 * z ** 7 + 19 * z ** 5 + 17 * z ** 3 - 15 * z) / (384 * freedom ** 3)
  );
}

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

/**
 * Mean with its interval by Student's distribution, of 95% unless `quantile` gives another of its upper quantiles by
 * degrees of freedom; of one value there is no interval. `leastVariance`: what the values are known to vary by at least.
 */
export function meanWithInterval(values: ArrayLike<number>, quantile = t95, leastVariance = 0): Mean {
  const n = values.length;
  if (n === 0) return { mean: null, low: null, high: null, n };
  let sum = 0;
  for (let i = 0; i < n; i++) sum += values[i]!;
  const mean = sum / n;
  if (n === 1) return { mean, low: null, high: null, n };
  let squares = 0;
  for (let i = 0; i < n; i++) squares += (values[i]! - mean) ** 2;
  return around(mean, Math.max(leastVariance, squares / (n - 1)) / n, n, n - 1, quantile);
}

/**
 * How much of one thing there is for each of another, over pairs: sum of `ys` by sum of `xs`, with a 95% interval by the
 * residuals around it (Cochran 1977, 6.4). Null where there is nothing to divide by.
 */
export function ratioWithInterval(ys: ArrayLike<number>, xs: ArrayLike<number>): Mean {
  const n = ys.length;
  let top = 0;
  let bottom = 0;
  for (let i = 0; i < n; i++) {
    top += ys[i]!;
    bottom += xs[i]!;
  }
  if (bottom === 0) return { mean: null, low: null, high: null, n };
  const ratio = top / bottom;
  if (n === 1) return { mean: ratio, low: null, high: null, n };
  let squares = 0;
  for (let i = 0; i < n; i++) squares += (ys[i]! - ratio * xs[i]!) ** 2;
  return around(ratio, (squares / (n - 1) / n) * (n / bottom) ** 2, n);
}

/** As `ratioWithInterval`, of a part of each of the `xs`: the interval is wide where few players tell of it. */
export function partWithInterval(ys: ArrayLike<number>, xs: ArrayLike<number>): Mean {
  const ratio = ratioWithInterval(ys, xs);
  if (ratio.mean === null) return ratio;
  let [some, notAll, sum, squares] = [0, 0, 0, 0];
  for (let i = 0; i < ys.length; i++) {
    if (ys[i]! > 0) some++;
    if (ys[i]! < xs[i]!) notAll++;
    sum += xs[i]!;
    squares += xs[i]! ** 2;
  }
  if (Math.min(some, notAll) >= ENOUGH_TELL) return ratio;
  // As if all that a player does were one throw: no players vary more among each other.
  const alike = sum ** 2 / squares;
  const exact = exactShare(ratio.mean * alike, alike);
  return {
    ...ratio,
    low: Math.max(0, Math.min(ratio.low ?? 0, exact.low)),
    high: Math.min(1, Math.max(ratio.high ?? 1, exact.high)),
  };
}
/** From so many players on of whom each is one, residuals tell how unsure a part is. */
const ENOUGH_TELL = 20;

/** The 95% interval of a share by its exact distribution (Clopper & Pearson 1934): right for any number, `n` in parts too. */
export function exactShare(count: number, n: number): { low: number; high: number } {
  return {
    low: count <= 0 ? 0 : jstat.beta.inv(TAIL, count, n - count + 1),
    high: count >= n ? 1 : jstat.beta.inv(1 - TAIL, count + 1, n - count),
  };
}
const TAIL = 0.025;

/** From so many on, ranks go by the normal distribution. */
const MANY = 1000;

/**
 * The p-th percentile of an ascending array with its 95% interval by order statistics (Conover 1999, 3.2): exact ranks,
 * and no bound where so few have none.
 */
export function percentileWithInterval(ascending: ArrayLike<number>, p: number): Mean {
  const n = ascending.length;
  const mean = percentile(ascending, p);
  const [below, above] = n > MANY ? ranksNearly(n, p) : ranksExact(n, p);
  return { mean, low: ascending[below] ?? null, high: ascending[above] ?? null, n };
}

function ranksNearly(n: number, p: number): [number, number] {
  const half = Z95 * Math.sqrt((n * p * (100 - p)) / 1e4);
  return [Math.floor((n * p) / 100 - half) - 1, Math.ceil((n * p) / 100 + half)];
}

/** Ranks from 0; outside of 0 to n - 1 where there is none. */
function ranksExact(n: number, p: number): [number, number] {
  let [below, above] = [-1, n];
  // By logarithms: the chance of none is too small to be a number.
  let logChance = n * Math.log(1 - p / 100);
  let atMost = Math.exp(logChance);
  for (let count = 0; count < n; count++) {
    // `atMost`: the chance that no more than `count` of them lie below the percentile.
    if (atMost <= TAIL) below = count;
    if (atMost >= 1 - TAIL) {
      above = count;
      break;
    }
    logChance += Math.log(((n - count) / (count + 1)) * (p / (100 - p)));
    atMost += Math.exp(logChance);
  }
  return [below, above];
}

/** How few can have both bounds of a percentile. */
export const fewestForPercentile = (p: number): number =>
  Math.ceil(Math.log(TAIL) / Math.log(Math.max(p, 100 - p) / 100));

/** The ratio of two means that are told apart, with a 95% interval on the scale of logarithms; null unless both are above 0. */
export function quotientOf(one: Mean, other: Mean): Mean {
  const n = Math.min(one.n, other.n);
  if (!(one.mean! > 0) || !(other.mean! > 0)) return { mean: null, low: null, high: null, n };
  const mean = one.mean! / other.mean!;
  if (one.high === null || other.high === null) return { mean, low: null, high: null, n };
  const half = Math.hypot((one.high - one.mean!) / one.mean!, (other.high - other.mean!) / other.mean!);
  return { mean, low: mean * Math.exp(-half), high: mean * Math.exp(half), n };
}

function around(mean: number, variance: number, n: number, freedom = n - 1, quantile = t95): Mean {
  const half = quantile(freedom) * Math.sqrt(Math.max(0, variance));
  return { mean, low: mean - half, high: mean + half, n };
}

/** The same of values of which only their sum and that of their squares is known. */
export function meanOfSums(n: number, sum: number, squares: number): Mean {
  if (n === 0) return { mean: null, low: null, high: null, n };
  const mean = sum / n;
  if (n === 1) return { mean, low: null, high: null, n };
  return around(mean, (squares - n * mean ** 2) / (n - 1) / n, n);
}

/** A share of `n` with its 95% score interval (Wilson 1927), which stays within 0 and 1 and holds for small samples. */
export function shareInterval(count: number, n: number): Mean {
  if (n === 0) return { mean: null, low: null, high: null, n };
  const share = count / n;
  const middle = (share + Z95 ** 2 / (2 * n)) / (1 + Z95 ** 2 / n);
  const half = (Z95 / (1 + Z95 ** 2 / n)) * Math.sqrt((share * (1 - share)) / n + Z95 ** 2 / (4 * n ** 2));
  return { mean: share, low: Math.max(0, middle - half), high: Math.min(1, middle + half), n };
}

/**
 * How unevenly something is held, 0 where all hold the same, near 1 where one holds all: Gini's coefficient of an ascending
 * array, with a 95% interval by the jackknife (Yitzhaki 1991). Null where nobody holds anything. O(n).
 */
export function gini(ascending: ArrayLike<number>): Mean {
  const n = ascending.length;
  let total = 0;
  let ranked = 0;
  for (let i = 0; i < n; i++) {
    total += ascending[i]!;
    ranked += (i + 1) * ascending[i]!;
  }
  if (total === 0) return { mean: null, low: null, high: null, n };
  const of = (count: number, sum: number, rankedSum: number) =>
    sum === 0 ? 0 : (2 * rankedSum) / (count * sum) - (count + 1) / count;
  const mean = of(n, total, ranked);
  if (n < 3) return { mean, low: null, high: null, n };
  let above = total;
  const without = new Float64Array(n);
  for (let i = 0; i < n; i++) {
    above -= ascending[i]!;
    without[i] = of(n - 1, total - ascending[i]!, ranked - (i + 1) * ascending[i]! - above);
  }
  let average = 0;
  for (let i = 0; i < n; i++) average += without[i]! / n;
  let squares = 0;
  for (let i = 0; i < n; i++) squares += (without[i]! - average) ** 2;
  return around(mean, ((n - 1) / n) * squares, n);
}

/** Observed lives over whole days from 0: on which day something happened in each, or the last on which it had not. */
export class Lives {
  n = 0;
  happened = 0;
  /** By day, the last for all that is later. */
  readonly events: Float64Array;
  readonly exits: Float64Array;

  constructor(readonly days: number) {
    this.events = new Float64Array(days + 1);
    this.exits = new Float64Array(days + 1);
  }

  /** `day` is null where it was not seen up to `lastDay`. */
  add(day: number | null, lastDay: number): void {
    this.n++;
    if (day === null) {
      this.exits[Math.min(lastDay, this.days)]!++;
      return;
    }
    this.happened++;
    this.events[Math.min(day, this.days)]!++;
  }
}

export interface Survival {
  /** Share for whom it happened by the end of each day, index = day, and the bounds of its 95% interval. */
  share: number[];
  shareLow: number[];
  shareHigh: number[];
  /** Median time, or that of another quantile, with its 95% interval; null where the curve does not get that far. */
  median: number | null;
  low: number | null;
  high: number | null;
  /** Mean time, where it does not happen within `days` counted as `days`. */
  mean: Mean;
  happened: number;
  n: number;
}

/**
 * Kaplan & Meier's product-limit estimate (1958) over the days of `lives`, so that players who leave or run out
 * of days are not counted as "never". `quantile`: which part of the players `median` is of. Its interval is Brookmeyer
 * & Crowley's (1982), with Greenwood's variance on the log(-log) scale, and Wilson's where it happened to nobody or to
 * all; that of the restricted mean is Klein & Moeschberger's (2003, 4.5.3). O(days).
 */
export function survivalEstimate(lives: Lives, quantile = 0.5): Survival {
  const { days, events, exits, n, happened } = lives;
  let atRisk = n;
  let alive = 1;
  let greenwood = 0;
  const share: number[] = [];
  const terms: number[] = [];
  const result: Survival = {
    share,
    shareLow: [],
    shareHigh: [],
    median: null,
    low: null,
    high: null,
    mean: { mean: null, low: null, high: null, n },
    happened,
    n,
  };
  // Products of shares fall a hair beside round numbers.
  const left = 1 - quantile + 1e-12;
  // The curve and its interval move only on days on which it happens.
  const isExact = n > 0 && n <= EXACT_UP_TO;
  const interval = (): { lower: number; upper: number } =>
    isExact ? exactInterval(alive, greenwood, atRisk) : logLogInterval(alive, greenwood, n);
  let { lower, upper } = interval();
  for (let day = 0; day < days; day++) {
    if (atRisk > 0 && events[day]! > 0) {
      alive *= 1 - events[day]! / atRisk;
      greenwood += atRisk > events[day]! ? events[day]! / (atRisk * (atRisk - events[day]!)) : Number.POSITIVE_INFINITY;
      ({ lower, upper } = interval());
    } else if (isExact && alive === 1 && atRisk > 0) ({ lower, upper } = interval());
    if (result.median === null && alive <= left) result.median = day;
    if (result.low === null && lower <= left) result.low = day;
    if (result.high === null && upper <= left) result.high = day;
    share.push(1 - alive);
    result.shareLow.push(1 - upper);
    result.shareHigh.push(1 - lower);
    terms.push(alive > 0 && events[day]! > 0 ? events[day]! / (atRisk * (atRisk - events[day]!)) : 0);
    atRisk -= events[day]! + exits[day]!;
  }
  result.mean = restrictedMean(share, terms, result);
  return result;
}

/**
 * The area under the curve of those for whom it has not happened; `terms` are Greenwood's, by day. Their sum is widened by
 * m / (m - 1) for m that happened, as Kaplan & Meier ask for; of fewer than two there is no interval.
 */
function restrictedMean(
  share: readonly number[],
  terms: readonly number[],
  { n, happened }: Pick<Survival, 'n' | 'happened'>,
): Mean {
  if (n === 0) return { mean: null, low: null, high: null, n };
  let area = 0;
  let variance = 0;
  for (let day = share.length - 1; day >= 0; day--) {
    area += 1 - share[day]!;
    variance += area ** 2 * terms[day]!;
  }
  if (happened < 2) return { mean: area, low: null, high: null, n };
  const { low, high } = around(area, (variance * happened) / (happened - 1), n, happened - 1);
  return { mean: area, low: Math.max(0, low!), high: Math.min(share.length, high!), n };
}

/** Up to so many players intervals of their shares are exact. */
const EXACT_UP_TO = 100;

/** Clopper & Pearson's, of as many players as would vary as much if none had left. */
function exactInterval(alive: number, greenwood: number, atRisk: number): { lower: number; upper: number } {
  const n = alive > 0 && alive < 1 ? (1 - alive) / (alive * greenwood) : atRisk;
  const { low, high } = exactShare(n * alive, n);
  return { lower: low, upper: high };
}

function logLogInterval(alive: number, greenwood: number, n: number): { lower: number; upper: number } {
  if (alive >= 1) return { lower: 1 - (shareInterval(0, n).high ?? 0), upper: 1 };
  if (alive <= 0) return { lower: 0, upper: shareInterval(0, n).high ?? 0 };
  const half = (Z95 * Math.sqrt(greenwood)) / Math.abs(Math.log(alive));
  return { lower: alive ** Math.exp(half), upper: alive ** Math.exp(-half) };
}

/** Statistics are kept to six decimals: more would be noise, and longer files. */
export const tidy = (value: number): number => Math.round(value * 1e6) / 1e6;
export const tidyOrNone = (value: number | null): number | null => (value === null ? null : tidy(value));
