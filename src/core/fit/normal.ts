/** The normal distribution. */
import jstat from 'jstat';

/** The share between two values, or of what is rounded to one; `[mean, deviation]`. */
export function normalShare(
  at: number | readonly [number, number],
  [mean, deviation]: readonly [number, number],
): number {
  const [low, high] = typeof at === 'number' ? [at - 0.5, at + 0.5] : at;
  if (deviation <= 0) return Number(low <= mean && mean < high);
  return jstat.normal.cdf(high, mean, deviation) - jstat.normal.cdf(low, mean, deviation);
}
