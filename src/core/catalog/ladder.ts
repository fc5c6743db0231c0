/** A rule for many prices: each so many times the one before, as numbers that people like. */
import { MAX_UNITS, unitsFormat, unitsParse, unitsPreferred } from '../amount/index.js';
import { valueAt } from '../document/index.js';
import type { EconomyDocument } from '../document/index.js';
import { pointerOf, pointerSegments } from '../issue/index.js';
import { decimalsIn } from './amounts.js';
import type { Edited } from './outcome.js';
import { nothingAt, refuse } from './outcome.js';
import { pricePlaces } from './pricePlaces.js';

export interface LadderEdit {
  kind: 'ladder';
  /** JSON pointers of the amounts, the lowest price first. */
  at: string[];
  /** The first price, in display units. */
  first: number;
  /** How many times the price before each of the others is, before it is rounded. */
  factor: number;
  /** Whether prices become preferred numbers (`unitsPreferred`), which is so where it is left out; else they are rounded to smallest units. */
  preferred?: boolean;
}

const MOST_FACTOR = 1000;

export function ladder(document: EconomyDocument, { at, first, factor, preferred = true }: LadderEdit): Edited {
  if (!(factor >= 1 && factor <= MOST_FACTOR))
    return refuse('', `prices cannot grow by ${factor}`, `Write a factor from 1 to ${MOST_FACTOR}, such as 1.4.`);
  const paths = at.map(pointerSegments);
  const [lowest] = paths;
  if (lowest === undefined) return refuse('', 'no price is named', 'Name the prices, the lowest first.');
  const known = new Set(pricePlaces(document, {}).map(pointerOf));
  const asset = lowest.at(-1)!;
  const named = new Set<string>();
  for (const [place, path] of paths.entries()) {
    const pointer = at[place]!;
    if (!known.has(pointerOf(path))) return nothingAt(pointer);
    if (named.has(pointerOf(path))) return refuse(pointer, 'it is named twice', 'Name each price once.');
    named.add(pointerOf(path));
    if (path.at(-1) !== asset)
      return refuse(pointer, `it is no price in ${asset}, as the first is`, 'Name prices in one currency.');
    if (typeof valueAt(document, path) !== 'number')
      return refuse(pointer, 'it is a formula', 'Leave it out, or write a number first.');
  }
  const decimals = decimalsIn(document, asset);
  const start = unitsParse(first, decimals);
  if (!start.ok || start.units === 0)
    return refuse(
      '',
      `prices cannot begin at ${first}`,
      'Write the first price, more than 0 and no finer than the currency.',
    );
  let exact = start.units;
  let before = 0;
  for (const path of paths) {
    // Where nothing grows, equal prices are what is asked for.
    const above = factor > 1 ? before : 0;
    const units = preferred ? unitsPreferred(exact, above) : Math.max(Math.round(exact), above + 1);
    if (units > MAX_UNITS)
      return refuse(
        pointerOf(path),
        'its price would pass the ceiling of amounts',
        'Take a smaller factor, or fewer prices.',
      );
    (valueAt(document, path.slice(0, -1)) as Record<string, number>)[asset] = Number(unitsFormat(units, decimals));
    before = units;
    exact *= factor;
  }
  return { ok: true, document, notes: [] };
}
