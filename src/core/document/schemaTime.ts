/** The shapes of recurring windows, rotations and sales. */
import { recurrenceProblem } from '../schedule/index.js';
import {
  anyNumber,
  basket,
  checked,
  condition,
  duration,
  every,
  fields,
  ids,
  inForms,
  instant,
  listOf,
  localDate,
  localTime,
  mapOf,
  refTo,
  said,
  text,
  timeOfDay,
  whole,
  wholeNumber,
  yesNo,
} from '../schema/index.js';

const repeats = () =>
  inForms(
    'recurrence',
    checked<string>({ type: 'string', pattern: '^FREQ=', maxLength: 300 }, (value) => {
      const problem =
        typeof value === 'string' && value.length <= 300 ? recurrenceProblem(value) : 'a text is needed here';
      return problem === undefined
        ? undefined
        : {
            problem: `${JSON.stringify(value)} is not a recurrence rule: ${problem}`,
            fix: 'Write an RFC 5545 rule, such as FREQ=WEEKLY;BYDAY=SA,SU.',
          };
    }),
  );

const LONGEST_DAYS = 400;
const MOST_WINDOWS = 50;

/** Windows that come again, by id: each begins at `starts` (local time), lasts so long, and repeats by the rule. */
export const windows = () =>
  mapOf(
    fields({
      starts: said('Begins', 'The first time.', localTime().required()),
      repeats: said('Repeats', 'When it comes again; once where nothing is written.', repeats()),
      lasts: said('Lasts', 'How long each time.', duration(LONGEST_DAYS).required()),
    }),
    ids(),
    MOST_WINDOWS,
  );

export const rotation = () =>
  fields({
    show: said('On show', 'How many at a time.', wholeNumber(1, 1000).required()),
    every: said('Every', 'How long until others come.', every().required()),
    at: said('At', 'The time of day at which they come.', timeOfDay()),
    starts: said('Counted from', 'A day on which a period begins.', localDate()),
    avoid: said('Rests', 'For so many periods what was on show does not come again.', wholeNumber(0, 60)),
    perPlayer: said('For each player', 'Everyone has a selection of their own.', yesNo()),
  });

const PICKED = { most: 200, fix: 'Write [one, two], or leave it out.' };

export const saleSchema = whole(
  fields({
    name: said('Name', 'What players call it.', text(120).required()),
    offers: said('Offers', 'Only these.', listOf(refTo('offer'), { ...PICKED, of: 'offer ids' })),
    shops: said('Shops', 'Offers of these shops.', listOf(refTo('shop'), { ...PICKED, of: 'shop ids' })),
    groups: said(
      'Groups',
      'Offers that give items of these groups.',
      listOf(refTo('group'), { ...PICKED, of: 'groups' }),
    ),
    tags: said('Tags', 'Offers that give items with one of these tags.', listOf(text(64), { ...PICKED, of: 'tags' })),
    percent: said('Percent off', 'How much cheaper.', anyNumber(0.01, 99.99)),
    price: said('Price', 'Or the price that holds instead.', basket()),
    from: said('From', 'When it begins; at once where nothing is written.', instant()),
    until: said('Until', 'When it ends; never where nothing is written.', instant()),
    runs: said('Runs', 'Hours in which it runs; all the time where nothing is written.', windows()),
    when: said('Only if', 'A formula that must hold for the player.', condition()),
  }),
);
