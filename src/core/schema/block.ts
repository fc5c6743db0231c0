/**
 * What every block of a schema knows beside its check: enough to make JSON Schema from it, to find what in a value
 * names something else, and to write the value into a cell. It travels in the Yup schema's `meta`, so that a shape is
 * written once and everything else is read from it.
 */
import * as yup from 'yup';
import { MOST_PROBLEMS, moreProblems } from '../issue/index.js';

/** Any Yup schema, whatever its flags. */
// oxlint-disable-next-line typescript/no-explicit-any -- Yup's own bound for "any schema"
export type AnySchema = yup.Schema<any, any, any, any>;

/** A schema whose values are `T`; every Yup schema is one. */
export interface Shape<out T> {
  readonly __outputType: T;
}
/** The values of a schema, once they are there. */
export type ValueOf<S extends Shape<unknown>> = Exclude<S['__outputType'], undefined>;

/**
 * What something in a document can name. `asset` is a currency or an item; entries and event fields are looked for where
 * they stand; a `place` is any place of the document, by its JSON pointer.
 */
export const REF_KINDS = [
  'asset',
  'group',
  'attribute',
  'event',
  'offer',
  'loot',
  'store',
  'shop',
  'activity',
  'persona',
  'scenario',
  'goal',
  'track',
  'team',
  'currency',
  'item',
  'loot-entry',
  'event-field',
  'place',
] as const;
export type RefKind = (typeof REF_KINDS)[number];

/** Which keys a map may have, and what they name. */
export interface KeyRule {
  test(key: string): boolean;
  /** The rule as a sentence: "an id is ...". */
  rule: string;
  pattern: string;
  /** What a key names. A place is named from the key's first `/` on. */
  ref?: RefKind;
  /** What is only said of the thing: it goes with it unasked, and may be about nothing. */
  aside?: true;
}

/** One of several shapes: the first whose `fits` is true is the one that a value is held against. */
export interface Option {
  fits(value: unknown): boolean;
  schema: AnySchema;
}

export type Block =
  | { kind: 'fields' }
  | { kind: 'map'; inner: AnySchema; keys: KeyRule; most?: number }
  | { kind: 'list'; inner: AnySchema; least: number; most: number }
  | { kind: 'either'; options: readonly Option[] }
  | {
      kind: 'value';
      json: object;
      misfitOf: (value: unknown) => Misfit | undefined;
      ref?: RefKind;
      aside?: true;
      formula?: true;
    };

/** What texts of a form of their own hold: each is written and picked in its own way. */
export type Form =
  | 'condition'
  | 'date'
  | 'icon'
  | 'instant'
  | 'language'
  | 'localTime'
  | 'recurrence'
  | 'timeOfDay'
  | 'weights'
  | 'zone';

interface Marks {
  block?: Block;
  /** The name of its component in JSON Schema and OpenAPI. */
  name?: string;
  /** What people call it. */
  label?: string;
  /** A line of help. */
  about?: string;
  /** What its options are called, where it is a choice. */
  options?: Readonly<Record<string, string>>;
  /** How a person writes it into a form, where that does not follow from its kind. */
  form?: Form;
  /**
   * What goes when something in it names nothing any more: all of it, unless it stood in a list; all of it, wherever it
   * stood; or only that part.
   */
  goes?: 'whole' | 'throughout' | 'part';
  /** How it is written into a cell, where that does not follow from its kind. */
  cell?: string;
}

/** Marks as Yup's `meta` holds them: behind a function, for with each step Yup copies what it holds to the last leaf. */
interface Meta {
  marks: () => Marks;
}
const metaOf = (marks: Marks): Meta => ({ marks: () => marks });
export const blockMeta = (block: Block): Meta => metaOf({ block });

const NO_MARKS: Marks = {};

/** What a schema made of these blocks says of itself. */
export const marksOf = (schema: Shape<unknown>): Marks =>
  ((schema as unknown as AnySchema).meta() as Meta | undefined)?.marks() ?? NO_MARKS;

/** The block that a schema is; a group of fields where it does not say. */
export const blockOf = (schema: Shape<unknown>): Block => marksOf(schema).block ?? { kind: 'fields' };

/** The schemas of a group's fields. */
export const fieldsOf = (schema: Shape<unknown>): Readonly<Record<string, AnySchema>> =>
  (schema as unknown as { fields?: Record<string, AnySchema> }).fields ?? {};

/** Whether a field may be left out. */
export const isOptional = (schema: Shape<unknown>): boolean => (schema as unknown as AnySchema).spec.optional;

/** A new schema with all that it is to be: as long as nobody else knows it, no step needs a copy of it. */
export const made = <S extends { withMutation<T>(build: (schema: S) => T): T }, T>(
  schema: S,
  build: (schema: S) => T,
): T => schema.withMutation(build);

const marked = <S extends Shape<unknown>>(schema: S, marks: Marks): S =>
  (schema as unknown as AnySchema).meta(metaOf({ ...marksOf(schema), ...marks })) as unknown as S;

/** The same schema as a component of its own, which others refer to. */
export const named = <S extends Shape<unknown>>(name: string, schema: S): S => marked(schema, { name });
/** The same schema with a line of help. */
export const about = <S extends Shape<unknown>>(words: string, schema: S): S => marked(schema, { about: words });
/** The same schema with what people call it, and a line of help. */
export const said = <S extends Shape<unknown>>(label: string, help: string, schema: S): S =>
  marked(schema, { label, about: help });
/** The same schema with what one thing of it is called in a sentence. */
export const called = <S extends Shape<unknown>>(word: string, schema: S): S => marked(schema, { label: word });
/** The same choice with what each of its options is called. */
export const worded = <S extends Shape<unknown>>(options: Readonly<Record<string, string>>, schema: S): S =>
  marked(schema, { options });
/** The same schema, written into forms in a way of its own. */
export const inForms = <S extends Shape<unknown>>(form: Form, schema: S): S => marked(schema, { form });
/** The same schema, of which nothing makes sense without its parts: it goes as a whole. */
export const whole = <S extends Shape<unknown>>(schema: S): S => marked(schema, { goes: 'whole' });
/** The same schema, of which nothing makes sense without any of its parts, those in lists included. */
export const throughout = <S extends Shape<unknown>>(schema: S): S => marked(schema, { goes: 'throughout' });
/** The same schema, of which a part can go alone, whatever it stands in. */
export const inParts = <S extends Shape<unknown>>(schema: S): S => marked(schema, { goes: 'part' });
/** The same schema, written into cells in this notation. */
export const inCells = <S extends Shape<unknown>>(cell: string, schema: S): S => marked(schema, { cell });

/** What a failed test knows beside its path; it travels in the Yup error's params. */
export interface ShapeParams {
  code:
    | 'malformed-id'
    | 'unknown-field'
    | 'wrong-type'
    | 'missing-field'
    | 'wrong-value'
    | 'bad-amount'
    | 'bad-formula'
    | 'too-deep'
    | 'more-problems';
  problem: string;
  fix: string;
  /** The field has another name now. */
  renamed?: string;
}
/** What is wrong with a value; `wrong-value` unless it says otherwise. */
export type Misfit = Omit<ShapeParams, 'code'> & { code?: ShapeParams['code'] };

export const isRecord = (value: unknown): value is Record<string, unknown> =>
  typeof value === 'object' && value !== null && !Array.isArray(value);

const LONGEST_QUOTED = 80;

/** What somebody wrote, cut where it is too long to be read in a sentence. */
export const quoted = (written: string): string =>
  written.length > LONGEST_QUOTED ? `${written.slice(0, LONGEST_QUOTED)}...` : written;

/** A value as a person would name it in an error. */
export const described = (value: unknown): string =>
  Array.isArray(value)
    ? 'a list'
    : value === null
      ? 'empty'
      : isRecord(value)
        ? 'a group of fields'
        : typeof value === 'string'
          ? `the text ${JSON.stringify(quoted(value))}`
          : String(value);

export const failed = (context: yup.TestContext, misfit: Misfit, path = context.path): yup.ValidationError =>
  context.createError({ path, message: misfit.problem, params: { shape: { code: 'wrong-value', ...misfit } } });

/**
 * What `check` finds in each of many `entries`, as far as problems are told: the rest is not looked at, and the last of
 * the errors says how many that are. So the work is bounded by what is told, and Yup never has to merge more.
 */
export function errorsIn<T>(
  context: yup.TestContext,
  entries: readonly T[],
  check: (entry: T, errors: yup.ValidationError[]) => void,
): yup.ValidationError[] {
  const errors: yup.ValidationError[] = [];
  let found = 0;
  for (const [index, entry] of entries.entries()) {
    if (found >= MOST_PROBLEMS) {
      const { code, message, fix } = moreProblems('', `${entries.length - index} more, which were not looked at`);
      errors.push(failed(context, { code, problem: message, fix } as Misfit));
      break;
    }
    const before = errors.length;
    check(entry, errors);
    for (const error of errors.slice(before)) found += error.errors.length;
  }
  return errors;
}

/** The fields of a group that must be there: of most groups few, while they could have many. */
const needed = new WeakMap<AnySchema, readonly string[]>();
function neededIn(schema: AnySchema): readonly string[] {
  const known = needed.get(schema);
  if (known) return known;
  const fields = Object.entries(fieldsOf(schema)).flatMap(([name, field]) => (isOptional(field) ? [] : [name]));
  needed.set(schema, fields);
  return fields;
}

/**
 * Whether a value fits, by the blocks alone and without a word on what is wrong: twenty times as fast as Yup, which is
 * asked where this says no. That both agree is held against JSON Schema by a test.
 */
export function fitsPlainly(shape: Shape<unknown>, value: unknown): boolean {
  const schema = shape as unknown as AnySchema;
  if (value === undefined) return schema.spec.optional;
  // What is null, and what has a test beside its block's own, is left to Yup.
  if (value === null || schema.tests.length !== 1) return false;
  const block = blockOf(schema);
  switch (block.kind) {
    case 'value':
      return block.misfitOf(value) === undefined;
    case 'either': {
      const option = block.options.find(({ fits }) => fits(value));
      return option !== undefined && fitsPlainly(option.schema, value);
    }
    case 'list':
      return (
        Array.isArray(value) &&
        value.length >= block.least &&
        value.length <= block.most &&
        value.every((entry: unknown) => entry !== undefined && fitsPlainly(block.inner, entry))
      );
    case 'map': {
      if (!isRecord(value)) return false;
      const keys = Object.keys(value);
      return (
        keys.length <= (block.most ?? Infinity) &&
        keys.every((key) => block.keys.test(key) && value[key] !== undefined && fitsPlainly(block.inner, value[key]))
      );
    }
    case 'fields': {
      if (!isRecord(value)) return false;
      const fields = fieldsOf(schema);
      for (const key of Object.keys(value))
        if (!Object.hasOwn(fields, key) || !fitsPlainly(fields[key]!, value[key])) return false;
      return neededIn(schema).every((field) => value[field] !== undefined);
    }
  }
}

/**
 * Things that fitted, and are the same objects from save to save: a thousand cases are not looked at again because a
 * price is changed. Whoever changes a document makes new objects for what is changed. A cache only.
 */
const fitting = new WeakSet<object>();

/** Adds what `schema` finds in `value` to `errors`. */
export function collectErrors(schema: AnySchema, value: unknown, path: string, errors: yup.ValidationError[]): void {
  const isThing = marksOf(schema).goes === 'throughout' && isRecord(value);
  if (isThing && fitting.has(value)) return;
  if (fitsPlainly(schema, value)) {
    if (isThing) fitting.add(value);
    return;
  }
  try {
    // `path` is an internal option of Yup's validate that nested errors start from.
    schema.validateSync(value, { abortEarly: false, strict: true, path } as yup.ValidateOptions);
  } catch (error) {
    if (!yup.ValidationError.isError(error)) throw error;
    errors.push(error);
  }
}

/** Paths in Yup's own notation: the key in brackets where it holds anything but word characters. */
export function pathJoin(path: string | undefined, key: string | number): string {
  if (typeof key === 'number') return `${path ?? ''}[${key}]`;
  const plain = /^[\w-]+$/.test(key);
  return plain ? (path ? `${path}.${key}` : key) : `${path ?? ''}[${JSON.stringify(key)}]`;
}

/** A value checked by one function that gives the problem, or undefined when the value is fine. */
export function checked<T>(
  json: object,
  misfitOf: (value: unknown) => Misfit | undefined,
  names: { ref?: RefKind; aside?: true; formula?: true } = {},
) {
  return made(yup.mixed<T & {}>(), (schema) =>
    schema.meta(blockMeta({ kind: 'value', json, misfitOf, ...names })).test('checked', (value: unknown, context) => {
      if (value === undefined) return true;
      const misfit = misfitOf(value);
      return misfit === undefined || failed(context, misfit);
    }),
  );
}
