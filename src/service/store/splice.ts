/** What one text has changed of another, as one part of it that was replaced; and when a row of such changes is kept so. */

/** In the text before, `removed` characters (UTF-16 units) from `at` on were replaced by `inserted`. */
export interface Splice {
  at: number;
  removed: number;
  inserted: string;
}

/** The shortest splice that makes `after` of `before`, but that it never cuts a character of two units in half. */
export function spliceBetween(before: string, after: string): Splice {
  const shorter = Math.min(before.length, after.length);
  let at = 0;
  while (at < shorter && before.charCodeAt(at) === after.charCodeAt(at)) at++;
  if (isFirstHalf(before.charCodeAt(at - 1))) at--;
  let same = 0;
  while (
    same < shorter - at &&
    before.charCodeAt(before.length - 1 - same) === after.charCodeAt(after.length - 1 - same)
  )
    same++;
  if (isSecondHalf(before.charCodeAt(before.length - same))) same--;
  return { at, removed: before.length - same - at, inserted: after.slice(at, after.length - same) };
}

export const spliceApply = (before: string, { at, removed, inserted }: Splice): string =>
  before.slice(0, at) + inserted + before.slice(at + removed);

// NaN, of a place outside the text, is neither.
const isFirstHalf = (unit: number): boolean => unit >= 0xd800 && unit <= 0xdbff;
const isSecondHalf = (unit: number): boolean => unit >= 0xdc00 && unit <= 0xdfff;

/** Changes in a row before a whole one is kept again; together they are never longer than a part of it. */
const MOST_CHANGES = 32;
const MOST_PART = 1 / 4;

/** Revisions since the last whole one: how many, and how many characters they inserted. */
export interface Changes {
  count: number;
  length: number;
}

/** Whether a revision is kept as what it changed; else it is kept whole. */
export const keptAsChange = (before: Changes, { inserted }: Splice, wholeLength: number): boolean =>
  before.count < MOST_CHANGES && before.length + inserted.length <= wholeLength * MOST_PART;
