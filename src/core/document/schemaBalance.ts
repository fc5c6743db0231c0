/** The shapes of what balancing works with: targets that a run is held against, and levers that may move. */
import {
  anyNumber,
  choice,
  fields,
  finiteNumber,
  listOf,
  place,
  refTo,
  said,
  text,
  wholeNumber,
  worded,
} from '../schema/index.js';
import type { Misfit } from '../schema/index.js';
import { MEASURE_NAMES, MEASURE_WORDS } from './measures.js';

interface Bounds {
  from?: number;
  to?: number;
}

/** Bounds the wrong way round hold nothing. */
export const inOrder = <S extends ReturnType<typeof fields>>(
  schema: S,
  misfit: (bounds: Required<Bounds>) => Misfit,
): S =>
  schema.test('in-order', (value: unknown, context) => {
    const { from, to } = (value ?? {}) as Bounds;
    if (typeof from !== 'number' || typeof to !== 'number' || from <= to) return true;
    return context.createError({ params: { shape: { code: 'wrong-value', ...misfit({ from, to }) } } });
  }) as S;

const named = () => text(120).required();
const why = () => text(1000);

export const targetSchema = inOrder(
  fields({
    name: said('Name', 'What designers call it.', named()),
    description: said('Description', 'Why it matters.', why()),
    measure: said('Measure', 'What is looked at.', worded(MEASURE_WORDS, choice(...MEASURE_NAMES)).required()),
    from: said(
      'Not below',
      'The least that is well: days, percent, money or times, as the measure has it.',
      finiteNumber(),
    ),
    to: said('Not above', 'The most that is well.', finiteNumber()),
    scenario: said('Scenario', 'The one it is meant for; every one where nothing is picked.', refTo('scenario')),
    persona: said('Persona', 'Of whom; of all players where nothing is picked.', refTo('persona')),
    item: said('Item', 'Which thing.', refTo('item')),
    goal: said('Goal', 'Which goal.', refTo('goal')),
    track: said('Track', 'Levels of which track.', refTo('track')),
    level: said('Level', 'Which level of it.', wholeNumber(1, 9999)),
    currency: said('Currency', 'In which money.', refTo('currency')),
    percentile: said('Percentile', 'How many percent of the players; 50 where nothing is written.', anyNumber(1, 99)),
    day: said('Day', 'At the end of this day of the run; the last where nothing is written.', wholeNumber(1, 3650)),
    reason: said('Reason', 'Why it was refused, such as short-of.', text(64)),
    activity: said('Activity', 'Whose pay.', refTo('activity')),
    than: said('Against', 'The activity that it is held against.', refTo('activity')),
  }),
  ({ from, to }) => ({
    problem: `nothing is ${from} or more and ${to} or less`,
    fix: `Write from: ${to} and to: ${from}, or leave one out.`,
  }),
);

export const leverSchema = inOrder(
  fields({
    name: said('Name', 'What designers call it.', named()),
    at: said(
      'Numbers',
      'The numbers of the economy that it moves.',
      listOf(place(), { most: 200, of: 'places', fix: 'Write [/items/storm_frame/worth/shells].' }),
    ),
    group: said('Prices of', 'All prices of the things in this group, beside those.', refTo('group')),
    moves: said(
      'Moves',
      'Whether it is the number itself or multiplies what is written.',
      worded({ value: 'it is the number', factor: 'it multiplies the numbers' }, choice('value', 'factor')).required(),
    ),
    from: said('From', 'The least it may be.', finiteNumber().required()),
    to: said('To', 'The most it may be.', finiteNumber().required()),
    step: said('Step', 'By how much it moves.', anyNumber(0.000_001, 1_000_000_000_000)),
  }),
  ({ from, to }) => ({
    problem: `a lever cannot go from ${from} up to ${to}`,
    fix: `Write from: ${to} and to: ${from}.`,
  }),
);
