/**
 * Weighted drawing without replacement, exactly. Give every entry an alarm clock that rings after an
 * exponential time with its weight as rate: the order of ringing is the order of such draws (Efraimidis and
 * Spirakis, 2006). So "the first r drawn" is "the first r to ring", and what is asked of them is one integral over
 * time instead of a sum over all orders.
 *
 * The integral is taken by the trapezoidal rule after t = e^u. The integrand is analytic for |Im u| < 1.2, where
 * that rule errs by about e^(-2 pi 1.2 / step): at a step of 1/8 below 1e-25 times the integrand's bound there. What
 * is left is rounding, below 1e-13 (the tests hold it against the sum over all orders).
 */

const STEP = 0.125;
/** Below e^-40 nothing has rung yet; beyond 45 / (least weight) everything has, to the last bit. */
const FIRST_U = -40;

function* nodes(weights: readonly number[]): Generator<{ t: number; width: number }> {
  const last = Math.log(45 / Math.min(...weights));
  for (let u = FIRST_U; u <= last; u += STEP) {
    const t = Math.exp(u);
    yield { t, width: STEP * t };
  }
}

/** Weights that sum to 1. */
function normalised(weights: readonly number[]): number[] {
  const sum = weights.reduce((total, weight) => total + weight, 0);
  return weights.map((weight) => weight / sum);
}

/**
 * The mean of the product of `factors[e]` over the entries that are among the first r drawn, for r from 0 to
 * `most`. With factor 0 for some and 1 for others: the chance that none of those is drawn.
 * Cost: about 500 x entries x most.
 */
export function drawnProduct(weights: readonly number[], factors: readonly number[], most: number): number[] {
  const n = weights.length;
  const rates = normalised(weights);
  const product = factors.reduce((all, factor) => all * factor, 1);
  const result = Array.from({ length: most + 1 }, (_, r) => (r === 0 ? 1 : r >= n ? product : 0));
  const depth = Math.min(most, n - 1);
  if (depth < 1) return result;
  for (const { t, width } of nodes(rates)) {
    // Coefficient k of `rung`: k have rung, their factors multiplied. `ringing`: beside them, one rings just now.
    const rung = new Float64Array(depth);
    const ringing = new Float64Array(depth);
    rung[0] = 1;
    for (let e = 0; e < n; e++) {
      const silent = Math.exp(-rates[e]! * t);
      const done = -Math.expm1(-rates[e]! * t) * factors[e]!;
      const now = rates[e]! * silent * factors[e]!;
      for (let k = depth - 1; k >= 0; k--) {
        ringing[k] = ringing[k]! * silent + (k > 0 ? ringing[k - 1]! * done : 0) + rung[k]! * now;
        rung[k] = rung[k]! * silent + (k > 0 ? rung[k - 1]! * done : 0);
      }
    }
    for (let r = 1; r <= depth; r++) result[r] = result[r]! + width * ringing[r - 1]!;
  }
  return result;
}

/**
 * The chance of each entry to be among the first R drawn, where `beyond[k]` is the chance that R is above k.
 * Cost: about 500 x entries x length of `beyond`, squared.
 */
export function drawnChances(weights: readonly number[], beyond: readonly number[]): number[] {
  const n = weights.length;
  const rates = normalised(weights);
  const depth = Math.min(beyond.length, n);
  const chances = new Array<number>(n).fill(0);
  for (const { t, width } of nodes(rates)) {
    const silent = rates.map((rate) => Math.exp(-rate * t));
    const rung = rates.map((rate) => -Math.expm1(-rate * t));
    // after[e][k]: the chance that k of the entries behind e have rung.
    const after: Float64Array[] = new Array<Float64Array>(n + 1);
    after[n] = new Float64Array(depth);
    after[n][0] = 1;
    for (let e = n - 1; e >= 0; e--) after[e] = withEntry(after[e + 1]!, silent[e]!, rung[e]!);
    let before = new Float64Array(depth);
    before[0] = 1;
    for (let e = 0; e < n; e++) {
      let reached = 0;
      for (let i = 0; i < depth; i++)
        for (let j = 0; i + j < depth; j++) reached += before[i]! * after[e + 1]![j]! * beyond[i + j]!;
      chances[e]! += width * rates[e]! * silent[e]! * reached;
      before = withEntry(before, silent[e]!, rung[e]!);
    }
  }
  return chances;
}

function withEntry(counts: Float64Array, silent: number, rung: number): Float64Array<ArrayBuffer> {
  const result = new Float64Array(counts.length);
  for (let k = 0; k < counts.length; k++) result[k] = counts[k]! * silent + (k > 0 ? counts[k - 1]! * rung : 0);
  return result;
}
