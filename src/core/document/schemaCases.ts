/** The shapes of rehearsals and cases: who, when, what is done, and what must hold after it. */
import {
  anyNumber,
  anyValue,
  checked,
  choice,
  either,
  fields,
  ids,
  inCells,
  instant,
  isRecord,
  listOf,
  mapOf,
  refTo,
  said,
  text,
  throughout,
  wholeNumber,
  worded,
} from '../schema/index.js';
import type { Shape } from '../schema/index.js';
import { inOrder } from './schemaBalance.js';
import { LANGUAGE_KEYS } from './schemaTexts.js';

/** Work is bounded: so many steps, and so many times in all of them. */
export const MOST_STEPS = 1000;
export const MOST_REPEATED = 10_000;
/** A case is shorter: a thousand of them are played at every save. */
export const MOST_CASE_STEPS = 200;
export const MOST_CASES = 5000;
const MOST_NAMED = 200;

const attributeValues = () => inCells('pairs', mapOf(anyValue(), ids('attribute'), MOST_NAMED));

type Amounts = ReturnType<typeof mapOf<Shape<number>>>;
/** As people write them. */
const writtenAmounts = (): Amounts =>
  inCells('basket', mapOf(anyNumber(0, Number.MAX_SAFE_INTEGER), ids('asset'), MOST_NAMED));

/** The verbs, and what may stand beside one; which goes with which is told by `stepsRead`. */
const stepFields = (amounts: Amounts) => ({
  buy: said('Buys', 'An offer.', refTo('offer')),
  sell: said('Sells', 'An item, to a shop.', refTo('item')),
  use: said('Uses', 'An item.', refTo('item')),
  open: said('Opens', 'A box.', refTo('item')),
  collect: said('Collects from', 'An item that yields.', refTo('item')),
  event: said('Event', 'What the game reports.', refTo('event')),
  play: said('Plays', 'An activity, as it usually goes.', refTo('activity')),
  give: said('Is given', 'Money or things, by hand.', amounts),
  take: said('Loses', 'Money or things, by hand.', amounts),
  set: said('Set', 'Attributes, and their new values.', attributeValues()),
  wait: said(
    'Waits',
    'A duration; day for the same time tomorrow; change until time alone changes something.',
    text(40),
  ),
  until: said('Waits until', 'An instant.', text(40)),
  times: said('Times', 'How often; once where nothing is written.', wholeNumber(1, MOST_REPEATED)),
  pay: said('Pays', 'Which of several prices.', text(600)),
  shop: said('To shop', 'Where it is sold.', refTo('shop')),
  fields: said('Fields', 'What the event tells.', mapOf(anyValue(), ids(), MOST_NAMED)),
  brings: said('Brings', 'The luck in which that comes of it.', refTo('asset')),
});

const A_STEP = 'Write them as [{buy: storm_frame}, {wait: day}].';

/** The steps of a rehearsal. */
export const stepsSchema = (amounts: Amounts) =>
  listOf(fields(stepFields(amounts)), { most: MOST_STEPS, of: 'steps', fix: A_STEP });

const playerSchema = () =>
  fields({
    attributes: said(
      'Attributes',
      'What the game knows of them; as new players where nothing is written.',
      attributeValues(),
    ),
    holds: said('Holds', 'Money and things; of the rest what new players have.', writtenAmounts()),
  });

/** The file that `dimestall rehearse` takes. */
export const rehearsalFileSchema = fields({
  name: text(120),
  at: text(40),
  seed: wholeNumber(0, 4_294_967_295),
  player: playerSchema(),
  steps: stepsSchema(writtenAmounts()).required(),
});

/** A number, or a range of which either end may be open. */
export type BoundDocument = number | { from?: number | undefined; to?: number | undefined };

const MOST = Number.MAX_SAFE_INTEGER;
const bound = () =>
  inCells(
    'bound',
    either<BoundDocument>(
      [
        {
          fits: isRecord,
          schema: inOrder(
            fields({
              from: said('From', 'The least.', anyNumber(0, MOST)),
              to: said('To', 'The most.', anyNumber(0, MOST)),
            }),
            ({ from, to }) => ({
              problem: `nothing is ${from} or more and ${to} or less`,
              fix: `Write from: ${to} and to: ${from}, or leave one out.`,
            }),
          ),
        },
        { fits: () => true, schema: anyNumber(0, MOST) },
      ],
      () => ({ problem: 'a number or a range is needed here', fix: 'Write 350, or {from: 300, to: 400}.' }),
    ),
  );

export const ALLOWED = 'allowed';
/** `allowed`, or exactly these codes. */
export type VerdictDocument = typeof ALLOWED | string[];

const code = () =>
  checked<string>({ type: 'string', pattern: '^[a-z]+(-[a-z]+)*$' }, (value) =>
    typeof value === 'string' && /^[a-z]+(-[a-z]+)*$/.test(value)
      ? undefined
      : { problem: `${JSON.stringify(value)} is not the code of a reason`, fix: 'Write one such as short-of.' },
  );
const verdict = () =>
  inCells(
    'verdict',
    either<VerdictDocument>(
      [
        {
          fits: Array.isArray,
          schema: listOf(code(), { least: 1, most: 20, of: 'codes', fix: 'Write [short-of].' }),
        },
        { fits: () => true, schema: choice(ALLOWED) },
      ],
      () => ({
        problem: 'a verdict is needed here',
        fix: 'Write allowed, or the codes of a refusal such as [short-of].',
      }),
    ),
  );

const offers = (of: string) => listOf(refTo('offer'), { most: MOST_NAMED, of });

/** What may be asked of a player as they stand. */
const standing = () => ({
  holds: said('Holds', 'How much of money and things is held.', mapOf(bound(), ids('asset'), MOST_NAMED)),
  attributes: said('Attributes', 'What they are.', attributeValues()),
  levels: said('Levels', 'By track.', mapOf(bound(), ids('track'), MOST_NAMED)),
  goals: said(
    'Goals',
    'Whether they are reached.',
    mapOf(
      said(
        'Goal',
        'Whether it is reached.',
        worded({ reached: 'reached', open: 'not reached' }, choice('reached', 'open')),
      ),
      ids('goal'),
      MOST_NAMED,
    ),
  ),
  shows: said('On show', 'Offers that a shop shows the player.', offers('offers')),
  hides: said('Not on show', 'Offers that no shop shows the player.', offers('offers')),
});

/** What must hold after a step, beside that. */
const outcome = () => ({
  verdict: said('Verdict', 'Allowed, or refused for exactly these codes.', verdict()),
  price: said(
    'Price',
    'What a purchase asks, or a sale pays: exactly these currencies.',
    mapOf(bound(), ids('asset'), 20),
  ),
  ...standing(),
  says: said(
    'Reads',
    'One of the sentences that the player reads of the refusal, by language.',
    mapOf(text(1000), LANGUAGE_KEYS, 20),
  ),
});

const caseStepSchema = fields({
  ...stepFields(writtenAmounts()),
  expect: said('Must hold', 'What must hold after it.', fields(outcome())),
});

/** A rehearsal with what must hold after its steps. Without any part that it names it would be another one. */
export const caseSchema = throughout(
  fields({
    name: said('Name', 'What designers call it.', text(120).required()),
    description: said('Description', 'Why it must hold.', text(1000)),
    at: said('At', 'When it begins.', instant().required()),
    seed: said('Seed', "For the luck; the economy's where nothing is written.", wholeNumber(0, 4_294_967_295)),
    player: said('Player', 'A new player where nothing is written.', playerSchema()),
    expect: said('Must hold at first', 'What must hold before any step.', fields(standing())),
    steps: said(
      'Steps',
      'What the player does, one after another.',
      listOf(caseStepSchema, { most: MOST_CASE_STEPS, of: 'steps', fix: A_STEP }),
    ),
  }),
);
