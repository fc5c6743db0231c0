/** What a case can ask for after a step, as lines: one for each thing, with how it is written. */
import { CELLS } from '../../core/catalog/cell.js';
import type { CellKind } from '../../core/catalog/index.js';
import type { EconomyDocument } from '../../core/document/index.js';
import { nameables } from '../fields/nameable.js';
import type { NameKind, Nameable } from '../fields/nameable.js';

export type Expect = Record<string, unknown>;

/** One thing that must hold: a field, and what of it where the field has many. */
export interface Line {
  field: string;
  of: string | undefined;
  words: string;
  value: unknown;
  cell: CellKind;
}

interface Kind {
  field: string;
  /** Before the name of what it is of. */
  words: string;
  names?: NameKind;
  cell: CellKind;
  /** What is written when it is added. */
  begin: unknown;
  /** It is a list of what it names, with no value of its own. */
  list?: true;
  /** Only after a step. */
  after?: true;
}

/** Reached or not. */
const GOAL: CellKind = {
  write: (value) => String(value),
  read: (text) =>
    ['reached', 'open'].includes(text.trim())
      ? { ok: true, value: text.trim() }
      : { ok: false, problem: `"${text}" should be reached or open` },
};
const NOTHING: CellKind = { write: () => '', read: () => ({ ok: true, value: undefined }) };

const KINDS: readonly Kind[] = [
  { field: 'verdict', words: 'verdict', cell: CELLS.verdict, begin: 'allowed', after: true },
  { field: 'price', words: 'price in', names: 'asset', cell: CELLS.bound, begin: 1, after: true },
  { field: 'holds', words: 'holds', names: 'asset', cell: CELLS.bound, begin: 0 },
  { field: 'attributes', words: 'is', names: 'attribute', cell: CELLS.value, begin: 1 },
  { field: 'levels', words: 'level of', names: 'track', cell: CELLS.bound, begin: 1 },
  { field: 'goals', words: 'goal', names: 'goal', cell: GOAL, begin: 'reached' },
  { field: 'shows', words: 'on show', names: 'offer', cell: NOTHING, begin: undefined, list: true },
  { field: 'hides', words: 'not on show', names: 'offer', cell: NOTHING, begin: undefined, list: true },
  { field: 'says', words: 'reads in', names: 'language', cell: CELLS.text, begin: '...', after: true },
];

const known = (document: EconomyDocument, { names }: Kind): readonly Nameable[] =>
  names === undefined ? [] : nameables(document, names, []);

/** In the order of the kinds. */
export function expectLines(document: EconomyDocument, expect: Expect): Line[] {
  return KINDS.flatMap((kind): Line[] => {
    const { field, words, cell, list, names } = kind;
    const value = expect[field];
    if (value === undefined) return [];
    if (names === undefined) return [{ field, of: undefined, words, value, cell }];
    const nameOf = (id: string): string => known(document, kind).find((one) => one.id === id)?.label ?? id;
    const entries = list ? (value as string[]).map((id) => [id, undefined] as const) : Object.entries(value as object);
    return entries.map(([of, one]) => ({ field, of, words: `${words} ${nameOf(of)}`, value: one as unknown, cell }));
  });
}

const SIGN = ' ';
/** Everything that can be asked for and is not yet: its id is the field and what it is of. */
export function expectChoices(document: EconomyDocument, expect: Expect, isAfterStep: boolean): Nameable[] {
  return KINDS.filter(({ after }) => isAfterStep || !after).flatMap((kind): Nameable[] => {
    const { field, words, names, list } = kind;
    const value = expect[field];
    if (names === undefined) return value === undefined ? [{ id: field, label: words, hint: '' }] : [];
    const has = (id: string): boolean =>
      list
        ? ((value as string[] | undefined) ?? []).includes(id)
        : Object.hasOwn((value as object | undefined) ?? {}, id);
    return known(document, kind)
      .filter(({ id }) => !has(id))
      .map((one) => ({ ...one, id: `${field}${SIGN}${one.id}`, label: `${words} ${one.label}` }));
  });
}

/** With what was chosen, at its first value. */
export function expectWith(document: EconomyDocument, expect: Expect, choice: string): Expect {
  const [field, of] = choice.split(SIGN) as [string, string | undefined];
  const { begin, list } = KINDS.find((kind) => kind.field === field)!;
  if (of === undefined) return { ...expect, [field]: begin };
  if (list) return { ...expect, [field]: [...((expect[field] as string[] | undefined) ?? []), of] };
  const first = field === 'attributes' ? (document.attributes?.[of]?.start ?? begin) : begin;
  return { ...expect, [field]: { ...(expect[field] as object | undefined), [of]: first } };
}

/** With another value of a line; without the line where it is undefined. */
export function expectPut(expect: Expect, { field, of }: Line, value: unknown): Expect {
  const { [field]: before, ...others } = expect;
  const group =
    of === undefined
      ? value
      : Array.isArray(before)
        ? before.filter((id) => id !== of)
        : { ...(before as object), [of]: value };
  const kept =
    of !== undefined && !Array.isArray(group)
      ? Object.fromEntries(Object.entries(group as object).filter(([, one]) => one !== undefined))
      : group;
  const isGone = kept === undefined || (typeof kept === 'object' && kept !== null && Object.keys(kept).length === 0);
  return isGone ? others : { ...expect, [field]: kept };
}
