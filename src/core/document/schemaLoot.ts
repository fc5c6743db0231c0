/** The shape of loot tables. */
import { MAX_UNITS } from '../amount/index.js';
import {
  anyNumber,
  condition,
  either,
  fields,
  ids,
  inCells,
  isRecord,
  mapOf,
  refTo,
  text,
  whole,
  wholeNumber,
  yesNo,
} from '../schema/index.js';
import type { AnySchema, Misfit, Range } from '../schema/index.js';

type Ranged = number | Range;

/** A number that `one` takes, or a range of such numbers of which each is as likely. */
const ranged = (one: AnySchema, misfit: (value: unknown) => Misfit) =>
  either<Ranged>(
    [
      { fits: (value) => typeof value === 'number', schema: one },
      {
        fits: isRecord,
        schema: fields({ from: one.required(), to: one.required() }).test(
          'in-order',
          (value: unknown, context) => inOrder(value) || context.createError({ params: { shape: misfit(value) } }),
        ),
      },
    ],
    misfit,
  );

/** A range that begins above its end holds nothing. */
function inOrder(value: unknown): boolean {
  const { from, to } = (value ?? {}) as Partial<Range>;
  return typeof from !== 'number' || typeof to !== 'number' || from <= to;
}

const picks = () =>
  inCells(
    'range',
    ranged(wholeNumber(0, 100), (value) => ({
      code: 'wrong-value',
      problem: `${JSON.stringify(value)} is not a whole number or a range from 0 to 100`,
      fix: 'Write a number, or {from: 1, to: 3}.',
    })),
  );

/** An amount of a loot entry: fixed or a range, never a formula, so that odds can be exact. */
const lootAmount = () =>
  ranged(anyNumber(0, MAX_UNITS), (value) => ({
    code: 'bad-amount',
    problem: `${JSON.stringify(value)} is not an amount or a range of amounts`,
    fix: 'Write a number, or {from: 1, to: 3}; a loot entry takes no formula.',
  }));

const lootEntrySchema = whole(
  fields({
    // 0 and less are let in, so that the audit can say what they do.
    weight: anyNumber(-1_000_000_000, 1_000_000_000).required(),
    gives: inCells('loot', mapOf(lootAmount(), ids('asset'))),
    table: refTo('loot'),
    when: condition(),
  }),
);

export const lootSchema = fields(
  {
    name: text(120).required(),
    description: text(1000),
    picks: picks(),
    distinct: yesNo(),
    entries: mapOf(lootEntrySchema, ids()).required(),
    guarantee: fields({ entry: refTo('loot-entry').required(), within: wholeNumber(1, 1000).required() }),
  },
  { rolls: 'picks' },
);
