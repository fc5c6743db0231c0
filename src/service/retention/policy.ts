/** What is kept for how long: the one place that says so. */

/** One kind of record. */
export interface Policy {
  /** Days that it is kept unless told otherwise. */
  days: number;
  /** It cannot be kept for less: something that is still needed would go. */
  least: number;
  what: string;
}

export const POLICIES = {
  answers: {
    days: 90,
    least: 1,
    what: 'answers to purchases, acts, events and grants; a repeat is known by them, and done anew once they are gone',
  },
  sums: { days: 92, least: 1, what: 'what was earned in a day, week or month that is over, for its rankings' },
  trail: { days: 730, least: 30, what: 'who changed what, when and why' },
  revisions: { days: 365, least: 7, what: 'earlier states of the draft; the last hundred always stay' },
  runs: { days: 365, least: 1, what: 'simulations with their results' },
  pictures: { days: 365, least: 7, what: 'pictures, from when neither the draft nor a release names them' },
  movements: {
    days: 400,
    least: 31,
    what: 'movements, by whole months, once they are in the archive; for ever where there is none',
  },
} as const satisfies Record<string, Policy>;

export type Kept = keyof typeof POLICIES;
/** What goes by its age alone; movements leave by the archive. */
export type Aged = Exclude<Kept, 'movements'>;

export const KEPT = Object.keys(POLICIES) as Kept[];

/** Days for which each kind is kept; `Infinity` is for ever. */
export type KeptDays = Readonly<Record<Kept, number>>;

export const USUAL_DAYS = Object.fromEntries(KEPT.map((kind) => [kind, POLICIES[kind].days])) as Record<Kept, number>;

/** Reads `answers=30` or `runs=always`. Throws a `RangeError` with a sentence that says what to write. */
export function keptDaysRead(written: string): { kind: Kept; days: number } {
  const [name = '', value = ''] = written.split('=', 2);
  const kind = KEPT.find((one) => one === name);
  if (!kind)
    throw new RangeError(`There is no "${name}" to keep. Write one of ${KEPT.join(', ')}, such as answers=30.`);
  if (value === 'always') return { kind, days: Infinity };
  const { least } = POLICIES[kind];
  const days = Number(value);
  if (!/^\d+$/.test(value) || days < least)
    throw new RangeError(`Write a number of days for ${kind}, ${least} or more, or ${kind}=always.`);
  return { kind, days };
}
