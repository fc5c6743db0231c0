/** The blocks that hold others: groups of fields, maps, lists, and one of several shapes. */
import * as yup from 'yup';
import { nearestName } from '../issue/index.js';
import {
  blockMeta,
  checked,
  collectErrors,
  described,
  errorsIn,
  failed,
  isRecord,
  made,
  pathJoin,
  quoted,
} from './block.js';
import type { AnySchema, KeyRule, Misfit, Option, Shape, ValueOf } from './block.js';

/** A group of named fields; anything else in it is refused, with its name of now or the nearest. `renamed`: old names to new ones. */
export function fields<S extends yup.ObjectShape>(shape: S, renamed: Readonly<Record<string, keyof S & string>> = {}) {
  const known = Object.keys(shape);
  return made(yup.object(shape), (schema) =>
    schema
      .meta(blockMeta({ kind: 'fields' }))
      .default(undefined)
      .optional()
      .typeError((params: { value: unknown }) => ({
        shape: {
          code: 'wrong-type',
          problem: `a group of fields is needed here, not ${described(params.value)}`,
          fix: `Fields: ${known.join(', ')}.`,
        },
      }))
      .test('known-fields', (value: unknown, context) => {
        if (!isRecord(value)) return true;
        const unknown = Object.keys(value).filter((key) => !Object.hasOwn(shape, key));
        const errors = errorsIn(context, unknown, (key, into) => {
          const now = Object.hasOwn(renamed, key) ? renamed[key] : undefined;
          into.push(failed(context, unknownField(key, known, now), pathJoin(context.path, key)));
        });
        return errors.length === 0 || new yup.ValidationError(errors, value, context.path);
      }),
  );
}

function unknownField(key: string, known: readonly string[], renamed: string | undefined): Misfit {
  if (renamed !== undefined)
    return {
      code: 'unknown-field',
      problem: `"${key}" is called "${renamed}" now`,
      fix: `Write ${renamed}:.`,
      renamed,
    };
  const near = nearestName(key, known);
  return {
    code: 'unknown-field',
    problem: `unknown field "${quoted(key)}"`,
    fix: near ? `Did you mean "${near}"?` : `Fields: ${known.join(', ')}.`,
  };
}

/** A field that may be left out. */
export interface Maybe<T> extends Shape<T | undefined> {
  readonly __maybe: true;
}
const MAYBE = new WeakSet<object>();

/** A field that may be left out, in `record` and `shapeOf`. */
export function maybe<S extends Shape<unknown>>(schema: S): Maybe<ValueOf<S>> {
  const optional = (schema as unknown as AnySchema).optional();
  MAYBE.add(optional);
  return optional as unknown as Maybe<ValueOf<S>>;
}

type MaybeKeys<S> = { [K in keyof S]: S[K] extends Maybe<unknown> ? K : never }[keyof S];
type Flat<T> = { [K in keyof T]: T[K] };
/** What a record holds. */
export type RecordOf<S extends Readonly<Record<string, Shape<unknown>>>> = Flat<
  { [K in Exclude<keyof S, MaybeKeys<S>>]: ValueOf<S[K]> } & { [K in MaybeKeys<S>]?: ValueOf<S[K]> }
>;

/** A group that has every one of its fields, but for those in `maybe`. */
export function record<const S extends Readonly<Record<string, Shape<unknown>>>>(shape: S): yup.Schema<RecordOf<S>> {
  const needed = Object.entries(shape).map(([field, schema]): [string, AnySchema] => {
    const one = schema as unknown as AnySchema;
    return [field, MAYBE.has(schema) ? one : one.defined()];
  });
  return fields(Object.fromEntries(needed)).defined() as unknown as yup.Schema<RecordOf<S>>;
}

/**
 * The record whose values are `T`, a type that is written elsewhere: every field of it must be given a schema, and no
 * other. A field that `T` may leave out is wrapped in `maybe`.
 */
export const shapeOf = <T>(shape: { readonly [K in keyof T]-?: Shape<T[K] | undefined> }): yup.Schema<T> =>
  record(shape as Readonly<Record<string, Shape<unknown>>>) as unknown as yup.Schema<T>;

/** Many things of one shape, by key. `keys` says which may stand, and what they name; `most`, how many. */
export function mapOf<S extends Shape<unknown>>(shape: S, keys: KeyRule, most?: number) {
  const inner = shape as unknown as AnySchema;
  return made(yup.mixed<Record<string, ValueOf<S>>>(), (schema) =>
    schema
      .meta(blockMeta({ kind: 'map', inner, keys, ...(most === undefined ? {} : { most }) }))
      .test('map', (value: unknown, context) => {
        if (value === undefined) return true;
        if (!isRecord(value))
          return failed(context, {
            code: 'wrong-type',
            problem: `entries by id are needed here, not ${described(value)}`,
            fix: 'Write "id: ..." lines, one for each entry.',
          });
        const ids = Object.keys(value);
        if (most !== undefined && ids.length > most)
          return failed(context, {
            problem: `${most} entries are the most here, and this has ${ids.length}`,
            fix: 'Leave out what is not needed.',
          });
        const errors = errorsIn(context, ids, (key, into) => {
          const entry = value[key];
          const path = pathJoin(context.path, key);
          if (!keys.test(key))
            into.push(
              failed(
                context,
                {
                  code: 'malformed-id',
                  problem: `"${quoted(key)}" cannot stand here: ${keys.rule}`,
                  fix: 'Write another key.',
                },
                path,
              ),
            );
          if (entry === undefined || (entry === null && !inner.spec.nullable))
            into.push(
              failed(
                context,
                { code: 'missing-field', problem: `"${quoted(key)}" is empty`, fix: 'Fill it in, or remove the line.' },
                path,
              ),
            );
          else collectErrors(inner, entry, path, into);
        });
        return errors.length === 0 || new yup.ValidationError(errors, value, context.path);
      }),
  );
}

interface ListRule {
  least?: number;
  most: number;
  /** What it holds, in the plural, for the error: "tags". */
  of: string;
  fix?: string;
}

/** From `least` (0 by default) to `most` things of one shape. */
export function listOf<S extends Shape<unknown>>(
  shape: S,
  { least = 0, most, of, fix = 'Write [one, two].' }: ListRule,
) {
  const inner = shape as unknown as AnySchema;
  return made(yup.mixed<ValueOf<S>[]>(), (schema) =>
    schema.meta(blockMeta({ kind: 'list', inner, least, most })).test('list', (value: unknown, context) => {
      if (value === undefined) return true;
      if (!Array.isArray(value))
        return failed(context, {
          code: 'wrong-type',
          problem: `a list of ${of} is needed here, not ${described(value)}`,
          fix,
        });
      if (value.length < least || value.length > most)
        return failed(context, {
          problem: `a list of ${least} to ${most} ${of} is needed here, and this has ${value.length}`,
          fix,
        });
      const errors = errorsIn(context, [...value.entries()], ([index, entry], into) =>
        collectErrors(inner, entry ?? null, pathJoin(context.path, index), into),
      );
      return errors.length === 0 || new yup.ValidationError(errors, value, context.path);
    }),
  );
}

/** One of several shapes; `otherwise` says what is wrong with a value that is none of them. */
export function either<T>(
  shapes: readonly (Omit<Option, 'schema'> & { schema: Shape<unknown> })[],
  otherwise: (value: unknown) => Misfit,
) {
  const options = shapes as unknown as readonly Option[];
  return made(yup.mixed<T & {}>(), (schema) =>
    schema.meta(blockMeta({ kind: 'either', options })).test('either', (value: unknown, context) => {
      if (value === undefined) return true;
      const option = options.find(({ fits }) => fits(value));
      if (!option) return failed(context, otherwise(value));
      const errors: yup.ValidationError[] = [];
      collectErrors(option.schema, value, context.path, errors);
      return errors.length === 0 || new yup.ValidationError(errors, value, context.path);
    }),
  );
}

/** Exactly this value. */
export const exactly = <const T extends string | number | boolean>(value: T) =>
  checked<T>({ const: value }, (written) =>
    written === value
      ? undefined
      : { problem: `${described(written)} is not ${JSON.stringify(value)}`, fix: `Write ${JSON.stringify(value)}.` },
  );

const nothing = (): AnySchema =>
  yup
    .mixed()
    .nullable()
    .meta(blockMeta({ kind: 'value', json: { type: 'null' }, misfitOf: () => undefined }));

/** A value, or null where there is none. */
export const orNull = <S extends Shape<unknown>>(schema: S): yup.Schema<ValueOf<S> | null> =>
  either<ValueOf<S>>(
    [
      { fits: (value) => value === null, schema: nothing() },
      { fits: () => true, schema: schema as unknown as AnySchema },
    ],
    () => ({ problem: 'it fits nothing', fix: 'See the schema.' }),
  ).nullable() as unknown as yup.Schema<ValueOf<S> | null>;

/** Groups told apart by one field: `tagged('kind', {circle: {...}, square: {...}})`. */
export function tagged<T extends object>(tag: string, shapes: Readonly<Record<string, AnySchema>>) {
  const known = Object.keys(shapes);
  return either<T>(
    known.map((name) => ({
      fits: (value) => isRecord(value) && value[tag] === name,
      schema: shapes[name] as unknown as AnySchema,
    })),
    (value) =>
      isRecord(value)
        ? {
            problem: `"${tag}" is ${value[tag] === undefined ? 'missing' : described(value[tag])}, and must be one of: ${known.join(', ')}`,
            fix: `Write ${tag}: and one of them.`,
          }
        : {
            code: 'wrong-type',
            problem: `a group of fields is needed here, not ${described(value)}`,
            fix: `Fields: ${tag}, ...`,
          },
  );
}
