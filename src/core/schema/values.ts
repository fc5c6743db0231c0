/** The blocks that hold one value: texts, ids, numbers, amounts, formulas, durations. */
import type { Schema } from 'yup';
import { MAX_UNITS } from '../amount/index.js';
import { MAX_FORMULA_LENGTH } from '../formula/index.js';
import type { Value } from '../formula/index.js';
import { checked, described, inCells, inForms, isRecord, named } from './block.js';
import type { KeyRule, RefKind } from './block.js';
import { either, mapOf } from './groups.js';
import { ID_PATTERN, ID_RULE, isId } from './ids.js';

/** Keys that are ids; with `ref`, of things of that kind that stand elsewhere. */
export const ids = (ref?: RefKind): KeyRule => ({
  test: isId,
  rule: ID_RULE,
  pattern: ID_PATTERN.source,
  ...(ref ? { ref } : {}),
});

/** Text of 1 to `longest` characters, not only blanks. */
export const text = (longest = 200) =>
  checked<string>({ type: 'string', pattern: '\\S', maxLength: longest }, (value) => {
    if (typeof value !== 'string')
      return {
        code: 'wrong-type',
        problem: `a text is needed here, not ${described(value)}`,
        fix: 'Write a text, in quotes if it looks like a number.',
      };
    if (value.trim() === '') return { problem: 'the text is empty', fix: 'Write something, or remove the line.' };
    // Characters as readers (and JSON Schema) count them: an emoji is one.
    const length = value.length > longest ? [...value].length : 0;
    return length > longest
      ? { problem: `the text has ${length} characters and ${longest} is the most`, fix: 'Shorten it.' }
      : undefined;
  });

/** Any text at all, the empty one included. */
export const anyText = () =>
  checked<string>({ type: 'string' }, (value) =>
    typeof value === 'string'
      ? undefined
      : { code: 'wrong-type', problem: `a text is needed here, not ${described(value)}`, fix: 'Write a text.' },
  );

const idOf = (ref?: RefKind) =>
  named(
    'id',
    checked<string>(
      { type: 'string', pattern: ID_PATTERN.source },
      (value) =>
        typeof value === 'string' && isId(value)
          ? undefined
          : {
              code: 'malformed-id',
              problem: `${described(value)} is not an id: ${ID_RULE}`,
              fix: 'Write the id of something that exists.',
            },
      ref ? { ref } : {},
    ),
  );

/** Any key at all. */
export const anyKeys: KeyRule = { test: () => true, rule: 'any key', pattern: '' };

/** The id of something that exists: what it is, `ref` says. */
export const refTo = (ref: RefKind) => idOf(ref);

/** A place of the document, by its JSON pointer: only said of it, so that it may be about nothing. */
export const place = () =>
  checked<string>(
    { type: 'string', pattern: '^/' },
    (value) =>
      typeof value === 'string' && value.startsWith('/')
        ? undefined
        : {
            problem: `${described(value)} is not a place in the economy`,
            fix: 'Write a JSON pointer, such as /items/storm_frame/worth/shells.',
          },
    { ref: 'place', aside: true },
  );

/** Bounds in words; what only keeps a number exact, or finite, is no bound to a person. */
function between(least: number, most: number): string {
  const far = (bound: number): boolean => Math.abs(bound) >= Number.MAX_SAFE_INTEGER;
  if (!far(least) && !far(most)) return `from ${least} to ${most}`;
  if (!far(least)) return `of ${least} or more`;
  return far(most) ? 'that is exact' : `of ${most} or less`;
}

export const wholeNumber = (least: number, most: number) =>
  checked<number>({ type: 'integer', minimum: least, maximum: most }, (value) =>
    typeof value === 'number' && Number.isInteger(value) && value >= least && value <= most
      ? undefined
      : {
          code: typeof value === 'number' ? 'wrong-value' : 'wrong-type',
          problem: `a whole number ${between(least, most)} is needed here, not ${described(value)}`,
          fix: 'Write such a number.',
        },
  );

/** Any whole number that is exact. */
export const anyWhole = () => wholeNumber(Number.MIN_SAFE_INTEGER, Number.MAX_SAFE_INTEGER);

export const anyNumber = (least: number, most: number) =>
  checked<number>({ type: 'number', minimum: least, maximum: most }, (value) =>
    typeof value === 'number' && value >= least && value <= most
      ? undefined
      : {
          code: typeof value === 'number' ? 'wrong-value' : 'wrong-type',
          problem: `a number ${between(least, most)} is needed here, not ${described(value)}`,
          fix: 'Write such a number.',
        },
  );

export const finiteNumber = () =>
  checked<number>({ type: 'number' }, (value) =>
    typeof value === 'number' && Number.isFinite(value)
      ? undefined
      : { code: 'wrong-type', problem: `a number is needed here, not ${described(value)}`, fix: 'Write a number.' },
  );

export const yesNo = () =>
  checked<boolean>({ type: 'boolean' }, (value) =>
    typeof value === 'boolean'
      ? undefined
      : {
          code: 'wrong-type',
          problem: `true or false is needed here, not ${described(value)}`,
          fix: 'Write true or false.',
        },
  );

/** What an attribute or a field of an event may be. */
export const anyValue = () =>
  inCells(
    'value',
    checked<Value>({ type: ['number', 'string', 'boolean'] }, (value) =>
      typeof value === 'string' || typeof value === 'boolean' || (typeof value === 'number' && Number.isFinite(value))
        ? undefined
        : {
            code: 'wrong-type',
            problem: `${described(value)} is not a number, a text, true or false`,
            fix: 'Write one.',
          },
    ),
  );

export const choice = <const T extends string>(...options: T[]) =>
  checked<T>({ enum: options }, (value) =>
    (options as readonly unknown[]).includes(value)
      ? undefined
      : {
          problem: `${described(value)} is not one of: ${options.join(', ')}`,
          fix: `Write one of: ${options.join(', ')}.`,
        },
  );

/** Any JSON value of up to `levels` levels. */
export const anyJson = (levels = 16): Schema<unknown> =>
  inCells(
    'value',
    checked<unknown>({}, (value) =>
      isDeeperThan(value, levels)
        ? { code: 'too-deep', problem: `more than ${levels} levels deep`, fix: 'Flatten it.' }
        : undefined,
    ).nullable() as Schema<unknown>,
  );

/** Goes no deeper than it asks about, so that no depth of input can exhaust the stack. */
export function isDeeperThan(value: unknown, most: number): boolean {
  if (typeof value !== 'object' || value === null) return false;
  if (most <= 0) return true;
  for (const key in value)
    if (Object.hasOwn(value, key) && isDeeperThan((value as Record<string, unknown>)[key], most - 1)) return true;
  return false;
}

const FORMULA_JSON = { type: 'string', pattern: '^=', maxLength: MAX_FORMULA_LENGTH };

/** Whether a written value is a formula: a text that begins with `=`, as in a spreadsheet. */
export const isFormula = (value: unknown): value is string => typeof value === 'string' && value.startsWith('=');

/** A formula; `what` says what it must give. */
const formula = (what: string, fix: string) =>
  checked<string>(
    FORMULA_JSON,
    (value) =>
      !isFormula(value)
        ? { code: 'bad-amount', problem: `${what} is needed here, not ${described(value)}`, fix }
        : value.length > MAX_FORMULA_LENGTH && [...value].length > MAX_FORMULA_LENGTH
          ? {
              code: 'bad-formula',
              problem: `the formula has ${value.length} characters and ${MAX_FORMULA_LENGTH} is the most`,
              fix: 'Shorten it.',
            }
          : undefined,
    { formula: true },
  );

/** A formula that gives true or false. */
export const condition = () =>
  inForms(
    'condition',
    formula('a condition', 'Write a formula in quotes that begins with "=", such as "=level >= 3".'),
  );

const fixedAmount = () =>
  checked<number>({ type: 'number', minimum: 0, maximum: MAX_UNITS }, (value) => {
    if (typeof value !== 'number' || !Number.isFinite(value))
      return {
        code: 'bad-amount',
        problem: `an amount is needed here, not ${described(value)}`,
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

/** A fixed value, or a formula that gives one. */
export const orFormula = <T>(fixed: ReturnType<typeof checked<T>>, what: string) =>
  either<T | string>(
    [
      { fits: isFormula, schema: formula(what, 'Write a formula that begins with "=".') },
      { fits: () => true, schema: fixed },
    ],
    () => ({ problem: `${what} is needed here`, fix: 'Write one.' }),
  );

/** An amount as people write it (decimals allowed up to the asset's own), or a formula. Decimals are checked when the asset is known. */
export const amount = () => named('amount', inCells('amount', orFormula(fixedAmount(), 'an amount')));

/** Asset ids to amounts. */
export const basket = () => named('basket', inCells('basket', mapOf(amount(), ids('asset'))));

// A digit that is not 0 must stand somewhere, so that no duration is 0.
const DURATION =
  /^P(?=.*[1-9])(?!$)(?:(\d{1,5})W)?(?:(\d{1,5})D)?(?:T(?=\d)(?:(\d{1,6})H)?(?:(\d{1,8})M)?(?:(\d{1,9})S)?)?$/;

/** Milliseconds of an ISO 8601 duration of weeks, days, hours, minutes and seconds, a day being 24 hours; undefined when it is none or 0. */
export function durationMs(written: string): number | undefined {
  const match = DURATION.exec(written);
  if (!match) return undefined;
  const [weeks, days, hours, minutes, seconds] = match.slice(1).map((part) => Number(part ?? 0)) as [
    number,
    number,
    number,
    number,
    number,
  ];
  return ((((weeks * 7 + days) * 24 + hours) * 60 + minutes) * 60 + seconds) * 1000;
}

/** The pattern of durations without its ends, for keys that may also be something else. */
export const DURATION_PATTERN = DURATION.source;

/** An ISO 8601 duration, up to so many days where that is given. */
export const duration = (mostDays = Infinity) =>
  inCells(
    'duration',
    checked<string>({ type: 'string', pattern: DURATION_PATTERN }, (value) => {
      const ms = typeof value === 'string' ? durationMs(value) : undefined;
      if (ms === undefined)
        return {
          problem: `${described(value)} is not a duration`,
          fix: 'Write an ISO 8601 duration longer than zero, such as PT6M, PT12H or P3D.',
        };
      return ms > mostDays * 86_400_000
        ? { problem: `${described(value)} is longer than ${mostDays} days`, fix: 'Write a shorter one.' }
        : undefined;
    }),
  );

/** The named periods of limits; any other key is a duration. */
export const PERIODS = ['lifetime', 'day', 'week', 'month', 'rotation'] as const;

/** How often, by period: `{day: 3, lifetime: 10}`. */
export const limits = () =>
  inCells(
    'limits',
    mapOf(wholeNumber(1, 1_000_000), {
      test: (key) => (PERIODS as readonly string[]).includes(key) || durationMs(key) !== undefined,
      rule: `a limit counts per ${PERIODS.join(', ')} or an ISO 8601 duration such as P3D`,
      pattern: `^(?:${PERIODS.join('|')})$|${DURATION_PATTERN}`,
    }),
  );

/** Two numbers, or two amounts: every value from the one to the other, both included. */
export interface Range {
  from: number;
  to: number;
}
export const isRange = (value: unknown): value is Range =>
  isRecord(value) && typeof value['from'] === 'number' && typeof value['to'] === 'number';
