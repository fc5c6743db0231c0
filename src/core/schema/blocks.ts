/**
 * The few building blocks that the economy's Yup schemas are made of. Each carries in its `meta` what
 * the JSON Schema generator needs, so that a shape is written once.
 */
import * as yup from 'yup';
import { MAX_UNITS } from '../amount/index.js';
import { nearestName } from '../issue/index.js';

/** Ids never change; `constructor` is kept out because plain objects already have one. */
export const ID_PATTERN = /^[a-z][a-z0-9_]{0,63}$/;
export const ID_RULE = 'an id is a small letter followed by up to 63 small letters, digits or _';
export const isId = (text: string): boolean => ID_PATTERN.test(text) && text !== 'constructor';

/** What a failed test knows beside its path; it travels in the Yup error's params. */
export interface ShapeParams {
  code: 'malformed-id' | 'unknown-field' | 'wrong-type' | 'missing-field' | 'wrong-value' | 'bad-amount' | 'too-deep';
  problem: string;
  fix: string;
}

export const isRecord = (value: unknown): value is Record<string, unknown> =>
  typeof value === 'object' && value !== null && !Array.isArray(value);

const describe = (value: unknown): string =>
  Array.isArray(value)
    ? 'a list'
    : value === null
      ? 'empty'
      : isRecord(value)
        ? 'a group of fields'
        : `${typeof value} ${JSON.stringify(value)}`;

function failed(context: yup.TestContext, params: ShapeParams, path = context.path): yup.ValidationError {
  return context.createError({ path, message: params.problem, params: { shape: params } });
}

/** A group of named fields; anything else in it is refused, with the nearest known name. */
export function fields<S extends yup.ObjectShape>(shape: S) {
  const known = Object.keys(shape);
  return yup
    .object(shape)
    .default(undefined)
    .optional()
    .typeError((params: { value: unknown }) => ({
      shape: {
        code: 'wrong-type',
        problem: `a group of fields is needed here, not ${describe(params.value)}`,
        fix: `Fields: ${known.join(', ')}.`,
      },
    }))
    .test('known-fields', (value: unknown, context) => {
      if (!isRecord(value)) return true;
      const errors = Object.keys(value)
        .filter((key) => !Object.hasOwn(shape, key))
        .map((key) => {
          const near = nearestName(key, known);
          return failed(
            context,
            {
              code: 'unknown-field',
              problem: `unknown field "${key}"`,
              fix: near ? `Did you mean "${near}"?` : `Fields: ${known.join(', ')}.`,
            },
            join(context.path, key),
          );
        });
      return errors.length === 0 || new yup.ValidationError(errors, value, context.path);
    });
}

/** Any Yup schema, whatever its flags. */
// eslint-disable-next-line @typescript-eslint/no-explicit-any -- Yup's own bound for "any schema"
export type AnySchema = yup.Schema<any, any, any, any>;

/** Many things of one shape, by key. `keyRule` says which keys may stand. */
export function mapOf<S extends AnySchema>(inner: S, keyRule: KeyRule = ID_KEYS) {
  type Inner = Exclude<yup.InferType<S>, undefined>;
  return yup
    .mixed<Record<string, Inner>>()
    .meta({ map: inner, keyPattern: keyRule.pattern, keyProblem: keyRule.rule })
    .test('map', (value: unknown, context) => {
      if (value === undefined) return true;
      if (!isRecord(value))
        return failed(context, {
          code: 'wrong-type',
          problem: `entries by id are needed here, not ${describe(value)}`,
          fix: 'Write "id: ..." lines, one for each entry.',
        });
      const errors: yup.ValidationError[] = [];
      for (const [key, entry] of Object.entries(value)) {
        const path = join(context.path, key);
        if (!keyRule.test(key))
          errors.push(
            failed(
              context,
              {
                code: 'malformed-id',
                problem: `"${key}" cannot stand here: ${keyRule.rule}`,
                fix: 'Write another key.',
              },
              path,
            ),
          );
        if (entry === undefined || entry === null) {
          errors.push(
            failed(
              context,
              { code: 'missing-field', problem: `"${key}" is empty`, fix: 'Fill it in, or remove the line.' },
              path,
            ),
          );
          continue;
        }
        collectErrors(inner, entry, path, errors);
      }
      return errors.length === 0 || new yup.ValidationError(errors, value, context.path);
    });
}

interface KeyRule {
  test(key: string): boolean;
  rule: string;
  pattern: string;
}
export const ID_KEYS: KeyRule = { test: isId, rule: ID_RULE, pattern: ID_PATTERN.source };

function collectErrors(schema: AnySchema, value: unknown, path: string, errors: yup.ValidationError[]): void {
  try {
    // `path` is an internal option of Yup's validate that nested errors start from.
    schema.validateSync(value, { abortEarly: false, strict: true, path } as yup.ValidateOptions);
  } catch (error) {
    if (!yup.ValidationError.isError(error)) throw error;
    errors.push(error);
  }
}

/** Paths in Yup's own notation: the key in brackets where it holds anything but word characters. */
function join(path: string | undefined, key: string): string {
  const plain = /^[\w-]+$/.test(key);
  return plain ? (path ? `${path}.${key}` : key) : `${path ?? ''}[${JSON.stringify(key)}]`;
}

/** A value checked by one function that gives the problem, or undefined when the value is fine. */
export function checked<T>(
  jsonSchema: object,
  problemOf: (value: unknown) => (Omit<ShapeParams, 'code'> & { code?: ShapeParams['code'] }) | undefined,
) {
  return yup
    .mixed<T & {}>()
    .meta({ json: jsonSchema })
    .test('checked', (value: unknown, context) => {
      if (value === undefined) return true;
      const problem = problemOf(value);
      return problem === undefined || failed(context, { code: 'wrong-value', ...problem });
    });
}

/** Text of 1 to `longest` characters, not only blanks. */
export const text = (longest = 200) =>
  checked<string>({ type: 'string', minLength: 1, maxLength: longest }, (value) => {
    if (typeof value !== 'string')
      return {
        code: 'wrong-type',
        problem: `a text is needed here, not ${describe(value)}`,
        fix: 'Write a text, in quotes if it looks like a number.',
      };
    if (value.trim() === '') return { problem: 'the text is empty', fix: 'Write something, or remove the line.' };
    return value.length > longest
      ? { problem: `the text has ${value.length} characters and ${longest} is the most`, fix: 'Shorten it.' }
      : undefined;
  });

export const id = () =>
  checked<string>({ type: 'string', pattern: ID_PATTERN.source }, (value) =>
    typeof value === 'string' && isId(value)
      ? undefined
      : {
          code: 'malformed-id',
          problem: `${describe(value)} is not an id: ${ID_RULE}`,
          fix: 'Write the id of something that exists.',
        },
  );

export const wholeNumber = (least: number, most: number) =>
  checked<number>({ type: 'integer', minimum: least, maximum: most }, (value) =>
    typeof value === 'number' && Number.isInteger(value) && value >= least && value <= most
      ? undefined
      : {
          code: typeof value === 'number' ? 'wrong-value' : 'wrong-type',
          problem: `a whole number from ${least} to ${most} is needed here, not ${describe(value)}`,
          fix: 'Write such a number.',
        },
  );

export const anyNumber = (least: number, most: number) =>
  checked<number>({ type: 'number', minimum: least, maximum: most }, (value) =>
    typeof value === 'number' && value >= least && value <= most
      ? undefined
      : {
          code: typeof value === 'number' ? 'wrong-value' : 'wrong-type',
          problem: `a number from ${least} to ${most} is needed here, not ${describe(value)}`,
          fix: 'Write such a number.',
        },
  );

export const yesNo = () =>
  checked<boolean>({ type: 'boolean' }, (value) =>
    typeof value === 'boolean'
      ? undefined
      : {
          code: 'wrong-type',
          problem: `true or false is needed here, not ${describe(value)}`,
          fix: 'Write true or false.',
        },
  );

export const choice = <const T extends string>(...options: T[]) =>
  checked<T>({ enum: options }, (value) =>
    (options as readonly unknown[]).includes(value)
      ? undefined
      : {
          problem: `${describe(value)} is not one of: ${options.join(', ')}`,
          fix: `Write one of: ${options.join(', ')}.`,
        },
  );

/** A formula that gives true or false. */
export const condition = () =>
  checked<string>({ type: 'string', pattern: '^=', maxLength: 500 }, (value) =>
    typeof value === 'string' && value.startsWith('=')
      ? undefined
      : {
          code: 'bad-amount',
          problem: `a condition is needed here, not ${describe(value)}`,
          fix: 'Write a formula in quotes that begins with "=", such as "=level >= 3".',
        },
  );

const AMOUNT_JSON = {
  oneOf: [
    { type: 'number', minimum: 0, maximum: MAX_UNITS },
    { type: 'string', pattern: '^=', maxLength: 500 },
  ],
};

/** An amount as people write it (decimals allowed up to the asset's own), or a formula. Decimals are checked when the asset is known. */
export const amount = () =>
  checked<number | string>(AMOUNT_JSON, (value) => {
    if (typeof value === 'string' && value.startsWith('=')) return undefined;
    if (typeof value !== 'number' || !Number.isFinite(value))
      return {
        code: 'bad-amount',
        problem: `an amount is needed here, not ${describe(value)}`,
        fix: 'Write a number of 0 or more, or a formula in quotes that begins with "=".',
      };
    if (value < 0)
      return { code: 'bad-amount', problem: `the amount ${value} is below zero`, fix: 'Write a number of 0 or more.' };
    return value > MAX_UNITS
      ? {
          code: 'bad-amount',
          problem: `the amount ${value} is past the ceiling of ${MAX_UNITS}`,
          fix: 'Write a smaller amount.',
        }
      : undefined;
  });

/** Asset ids to amounts. */
export const basket = () => mapOf(amount());

const DURATION_PATTERN =
  /^P(?!$)(?:(\d{1,5})W)?(?:(\d{1,5})D)?(?:T(?=\d)(?:(\d{1,6})H)?(?:(\d{1,8})M)?(?:(\d{1,9})S)?)?$/;

/** Milliseconds of an ISO 8601 duration of weeks, days, hours, minutes and seconds, a day being 24 hours; undefined when it is none or 0. */
export function durationMs(written: string): number | undefined {
  const match = DURATION_PATTERN.exec(written);
  if (!match) return undefined;
  const [weeks, days, hours, minutes, seconds] = match.slice(1).map((part) => Number(part ?? 0)) as [
    number,
    number,
    number,
    number,
    number,
  ];
  const ms = ((((weeks * 7 + days) * 24 + hours) * 60 + minutes) * 60 + seconds) * 1000;
  return ms > 0 ? ms : undefined;
}

export const duration = () =>
  checked<string>({ type: 'string', pattern: DURATION_PATTERN.source }, (value) =>
    typeof value === 'string' && durationMs(value) !== undefined
      ? undefined
      : {
          problem: `${describe(value)} is not a duration`,
          fix: 'Write an ISO 8601 duration longer than zero, such as PT6M, PT12H or P3D.',
        },
  );

/** The named periods of limits; any other key is a duration. */
export const PERIODS = ['lifetime', 'day', 'week', 'month', 'rotation'] as const;

/** How often, by period: `{day: 3, lifetime: 10}`. */
export const limits = () =>
  mapOf(wholeNumber(1, 1_000_000), {
    test: (key) => (PERIODS as readonly string[]).includes(key) || durationMs(key) !== undefined,
    rule: `a limit counts per ${PERIODS.join(', ')} or an ISO 8601 duration such as P3D`,
    pattern: `^(${PERIODS.join('|')}|P.+)$`,
  });
