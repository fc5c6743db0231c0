/** The shape of loot tables. */
import { MAX_UNITS } from '../amount/index.js';
import {
  anyNumber,
  checked,
  condition,
  fields,
  id,
  isRecord,
  mapOf,
  text,
  wholeNumber,
  yesNo,
} from '../schema/index.js';

/** A whole number, or a range of them of which each is as likely. */
const range = (least: number, most: number) =>
  checked<number | { from: number; to: number }>(
    {
      oneOf: [
        { type: 'integer', minimum: least, maximum: most },
        {
          type: 'object',
          required: ['from', 'to'],
          additionalProperties: false,
          properties: { from: { type: 'integer' }, to: { type: 'integer' } },
        },
      ],
    },
    (value) =>
      isRange(value, Number.isInteger) && bounds(value).every((one) => one >= least && one <= most)
        ? undefined
        : {
            problem: `${JSON.stringify(value)} is not a whole number or a range from ${least} to ${most}`,
            fix: 'Write a number, or {from: 1, to: 3}.',
          },
  );

type Ranged = number | { from: number; to: number };
const bounds = (value: Ranged): [number, number] =>
  typeof value === 'number' ? [value, value] : [value.from, value.to];
function isRange(value: unknown, fits: (one: unknown) => boolean): value is Ranged {
  if (!isRecord(value)) return typeof value === 'number' && fits(value);
  const { from, to } = value;
  return Object.keys(value).length === 2 && fits(from) && fits(to) && (from as number) <= (to as number);
}

/** An amount of a loot entry: fixed or a range, never a formula, so that odds can be exact. */
const lootAmount = () =>
  checked<Ranged>(
    {
      oneOf: [
        { type: 'number', minimum: 0 },
        {
          type: 'object',
          required: ['from', 'to'],
          additionalProperties: false,
          properties: { from: { type: 'number', minimum: 0 }, to: { type: 'number', minimum: 0 } },
        },
      ],
    },
    (value) =>
      isRange(value, (one) => typeof one === 'number' && one >= 0 && one <= MAX_UNITS)
        ? undefined
        : {
            code: 'bad-amount',
            problem: `${JSON.stringify(value)} is not an amount or a range of amounts`,
            fix: 'Write a number, or {from: 1, to: 3}; a loot entry takes no formula.',
          },
  );

const lootEntrySchema = fields({
  // 0 and less are let in, so that the audit can say what they do.
  weight: anyNumber(-1_000_000_000, 1_000_000_000).required(),
  gives: mapOf(lootAmount()),
  table: id(),
  when: condition(),
});

export const lootSchema = fields({
  name: text(120).required(),
  description: text(1000),
  rolls: range(0, 100),
  distinct: yesNo(),
  entries: mapOf(lootEntrySchema).required(),
  guarantee: fields({ entry: id().required(), within: wholeNumber(1, 1000).required() }),
});
