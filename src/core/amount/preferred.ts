/** Amounts that people like to read: few digits, of which the last is a five or a nought where that is near enough. */
import type { Units } from './amount.js';

/**
 * The preferred number nearest to `amount` above `above`: with a second digit of 5 or 0, with two digits, or with more,
 * whichever is the first within `tolerance` (a part of the amount). Whole and at least 1.
 */
export function unitsPreferred(amount: number, above: Units = 0, tolerance = 0.05): Units {
  const magnitude = 10 ** Math.floor(Math.log10(Math.max(amount, 1)));
  for (const step of [magnitude / 2, magnitude / 10, magnitude / 20, magnitude / 100, magnitude / 1000]) {
    if (step < 1 || !Number.isInteger(step)) continue;
    const near = Math.max(Math.round(amount / step), Math.floor(above / step) + 1) * step;
    if (Math.abs(near - amount) <= tolerance * amount) return near;
  }
  return Math.max(Math.round(amount), above + 1);
}
