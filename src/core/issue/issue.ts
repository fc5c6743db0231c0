/**
 * What is wrong with something a person wrote: a stable code, the place, and the way out.
 * Expected failures travel as these values; exceptions are for bugs.
 */

/** Every code that reading or compiling an economy can give. Codes are never renamed or reused. */
export const ISSUE_CODES = [
  'yaml-syntax',
  'file-too-large',
  'too-deep',
  'duplicate-id',
  'malformed-id',
  'unknown-field',
  'wrong-type',
  'missing-field',
  'wrong-value',
  'bad-amount',
  'bad-formula',
  'bad-text',
  'dangling-reference',
  'conflicting-reference',
  'circular-bundle',
  'circular-table',
] as const;
export type IssueCode = (typeof ISSUE_CODES)[number];

/** Where in a file: lines and columns count from 1. */
export interface Place {
  file: string;
  line: number;
  column: number;
}

export interface Issue {
  code: IssueCode;
  /** RFC 6901 pointer into the economy document. */
  pointer: string;
  /** What is wrong, with the value and the rule. */
  message: string;
  /** The way out, as a sentence. */
  fix: string;
  place?: Place;
  /** What stands at the pointer is a field that has this name now. */
  renamed?: string;
  /** What would mend it, where that is safe without asking. */
  mend?: Mend;
}

/** A change of the document that mends something: RFC 6902 operations, and what they do in words. */
export interface Mend {
  words: string;
  operations: { op: 'add' | 'remove' | 'replace'; path: string; value?: unknown }[];
}

/** Either a value, or every issue that stands against it. */
export type Result<T> = { ok: true; value: T } | { ok: false; issues: Issue[] };

/** RFC 6901 pointer for the segments given: `['items', 'a/b']` is `/items/a~1b`. */
export function pointerOf(segments: readonly (string | number)[]): string {
  return segments.map((segment) => `/${String(segment).replace(/~/g, '~0').replace(/\//g, '~1')}`).join('');
}

/** The segments of an RFC 6901 pointer; the empty pointer has none. */
export function pointerSegments(pointer: string): string[] {
  if (pointer === '') return [];
  return pointer
    .slice(1)
    .split('/')
    .map((segment) => segment.replace(/~1/g, '/').replace(/~0/g, '~'));
}

/** The name among `known` that is nearest to `wrong` (at most two edits away), or undefined. */
export function nearestName(wrong: string, known: Iterable<string>): string | undefined {
  let best: string | undefined;
  let bestDistance = 3;
  for (const name of known) {
    if (Math.abs(name.length - wrong.length) >= bestDistance) continue;
    const distance = editDistance(wrong, name);
    if (distance < bestDistance) {
      best = name;
      bestDistance = distance;
    }
  }
  return best;
}

function editDistance(a: string, b: string): number {
  let row = Array.from({ length: b.length + 1 }, (_, i) => i);
  for (let i = 1; i <= a.length; i++) {
    const next = [i];
    for (let j = 1; j <= b.length; j++) {
      next[j] = Math.min(row[j]! + 1, next[j - 1]! + 1, row[j - 1]! + (a[i - 1] === b[j - 1] ? 0 : 1));
    }
    row = next;
  }
  return row[b.length]!;
}
