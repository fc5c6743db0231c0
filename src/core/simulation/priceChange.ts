/**
 * How prices moved over a run. A day of the week may have its own sales, so like is held against like: the last week
 * against the first, or, in a run too short for that, the last day against the earliest of the same weekday.
 */
export interface PriceChange {
  /** Prices then by prices before. */
  ratio: number;
  /** How many days lie between. */
  days: number;
  /** What is held against what, in words. */
  words: string;
}

const WEEK = 7;

/** `index`: what all purchases would have cost, by day; undefined where there is nothing to compare. */
export function priceChange(index: readonly number[]): PriceChange | undefined {
  const last = index.length - 1;
  if (last < 1) return undefined;
  if (index.length >= 2 * WEEK) {
    const mean = (days: readonly number[]): number => days.reduce((sum, day) => sum + day, 0) / days.length;
    return {
      ratio: mean(index.slice(-WEEK)) / mean(index.slice(0, WEEK)),
      days: index.length - WEEK,
      words: 'last week against the first',
    };
  }
  const first = last >= WEEK ? last % WEEK : 0;
  return { ratio: index[last]! / index[first]!, days: last - first, words: `day ${last + 1} against day ${first + 1}` };
}
