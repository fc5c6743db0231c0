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
  said,
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
    weight: said('Weight', 'How likely it is beside the others.', anyNumber(-1_000_000_000, 1_000_000_000).required()),
    gives: said('Gives', 'What is found.', inCells('loot', mapOf(lootAmount(), ids('asset')))),
    table: said('Loot table', 'What is drawn instead, from another table.', refTo('loot')),
    when: said('Only if', 'A formula that must hold for the player.', condition()),
  }),
);

export const lootSchema = fields(
  {
    name: said('Name', 'What designers call it.', text(120).required()),
    description: said('Description', 'A sentence for players.', text(1000)),
    picks: said('Picks', 'How many are drawn; 1 where nothing is written.', picks()),
    distinct: said('All different', 'No entry comes twice in one opening.', yesNo()),
    entries: said('Entries', 'What can be drawn.', mapOf(lootEntrySchema, ids()).required()),
    guarantee: said(
      'Guarantee',
      'An entry that comes at the latest after some openings.',
      fields({
        entry: said('Entry', 'Which one.', refTo('loot-entry').required()),
        within: said('Within', 'So many openings.', wholeNumber(1, 1000).required()),
      }),
    ),
  },
  { rolls: 'picks' },
);
