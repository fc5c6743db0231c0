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
  'more-problems',
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

/** How many problems of one thing are told: nobody reads on, and telling them is work that a caller could ask for. */
export const MOST_PROBLEMS = 100;

/** What stands in place of the problems that are not told: `what` says how many and of what. */
export const moreProblems = (pointer: string, what: string): Issue => ({
  code: 'more-problems',
  pointer,
  message: `and ${what}`,
  fix: 'Mend those before it first.',
});

/** The first problems, and at the end how many more there are. */
export function issuesTold(issues: Issue[]): Issue[] {
  const rest = issues.slice(MOST_PROBLEMS);
  const counted = rest.filter(({ code }) => code === 'more-problems');
  const more = rest.length - counted.length;
  return [
    ...issues.slice(0, MOST_PROBLEMS),
    ...(more > 0 ? [moreProblems('', `${more} more ${more === 1 ? 'problem' : 'problems'}`)] : counted),
  ];
}

/** Either a value, or the issues that stand against it. */
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

/** A part of a name with fewer letters says too little. */
const SHORTEST_PART = 4;
const MOST_EDITS = 2;

/** The name among `known` that is nearest to `wrong` (at most two edits away), or the only one that has it in it. */
export function nearestName(wrong: string, known: Iterable<string>): string | undefined {
  const names = [...known];
  let best: string | undefined;
  let bestDistance = MOST_EDITS + 1;
  for (const name of names) {
    const distance = editDistance(wrong, name, bestDistance - 1);
    if (distance >= bestDistance) continue;
    best = name;
    bestDistance = distance;
  }
  return best ?? nameAround(wrong, names);
}

/** The only name that has the wrong one in it: "timeZone" for "zone". Shorter parts are in too many. */
function nameAround(wrong: string, names: readonly string[]): string | undefined {
  if (wrong.length < SHORTEST_PART) return undefined;
  const around = names.filter((name) => name.toLowerCase().includes(wrong.toLowerCase()));
  return around.length === 1 ? around[0] : undefined;
}

/** Letters put in, left out or changed between two names, worked out no further than `most` (Levenshtein; Ukkonen's band); more than `most` otherwise. */
function editDistance(a: string, b: string, most: number): number {
  const far = most + 1;
  if (Math.abs(a.length - b.length) > most) return far;
  let row = Array.from({ length: b.length + 1 }, (_, j) => (j <= most ? j : far));
  for (let i = 1; i <= a.length; i++) {
    const next = new Array<number>(b.length + 1).fill(far);
    if (i <= most) next[0] = i;
    let least = next[0]!;
    for (let j = Math.max(1, i - most); j <= Math.min(b.length, i + most); j++) {
      next[j] = Math.min(row[j]! + 1, next[j - 1]! + 1, row[j - 1]! + (a[i - 1] === b[j - 1] ? 0 : 1), far);
      least = Math.min(least, next[j]!);
    }
    if (least > most) return far;
    row = next;
  }
  return row[b.length]!;
}
