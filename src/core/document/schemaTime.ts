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
  instant,
  listOf,
  localDate,
  localTime,
  mapOf,
  refTo,
  text,
  timeOfDay,
  whole,
  wholeNumber,
  yesNo,
} from '../schema/index.js';

const repeats = () =>
  checked<string>({ type: 'string', pattern: '^FREQ=', maxLength: 300 }, (value) => {
    const problem =
      typeof value === 'string' && value.length <= 300 ? recurrenceProblem(value) : 'a text is needed here';
    return problem === undefined
      ? undefined
      : {
          problem: `${JSON.stringify(value)} is not a recurrence rule: ${problem}`,
          fix: 'Write an RFC 5545 rule, such as FREQ=WEEKLY;BYDAY=SA,SU.',
        };
  });

const LONGEST_DAYS = 400;
const MOST_WINDOWS = 50;

/** Windows that come again, by id: each begins at `starts` (local time), lasts so long, and repeats by the rule. */
export const windows = () =>
  mapOf(
    fields({ starts: localTime().required(), repeats: repeats(), lasts: duration(LONGEST_DAYS).required() }),
    ids(),
    MOST_WINDOWS,
  );

export const rotation = () =>
  fields({
    show: wholeNumber(1, 1000).required(),
    every: every().required(),
    at: timeOfDay(),
    starts: localDate(),
    avoid: wholeNumber(0, 60),
    perPlayer: yesNo(),
  });

const PICKED = { most: 200, fix: 'Write [one, two], or leave it out.' };

export const saleSchema = whole(
  fields({
    name: text(120).required(),
    offers: listOf(refTo('offer'), { ...PICKED, of: 'offer ids' }),
    shops: listOf(refTo('shop'), { ...PICKED, of: 'shop ids' }),
    groups: listOf(refTo('group'), { ...PICKED, of: 'groups' }),
    tags: listOf(text(64), { ...PICKED, of: 'tags' }),
    percent: anyNumber(0.01, 99.99),
    price: basket(),
    from: instant(),
    until: instant(),
    runs: windows(),
    when: condition(),
  }),
);
