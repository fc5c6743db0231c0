/** Which values of something are looked at. */
import type { Value } from '../formula/index.js';

/** Numbers that are written, and those next to them; none below 0. */
export const around = (literals: readonly Value[]): number[] =>
  literals.flatMap((value) =>
    typeof value === 'number' ? [value - 1, value, value + 1].filter((one) => one >= 0) : [],
  );

/** The first, the last, and evenly between them no more than `most`. */
export const spread = <T>(values: readonly T[], most: number): T[] =>
  values.length <= most
    ? [...values]
    : [...new Set(Array.from({ length: most }, (_, n) => values[Math.round((n * (values.length - 1)) / (most - 1))]!))];
