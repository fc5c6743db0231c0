/** The shapes of recurring windows, rotations and sales. */
import { DateTime } from 'luxon';
import { recurrenceProblem } from '../schedule/index.js';
import {
  anyNumber,
  basket,
  checked,
  condition,
  duration,
  every,
  fields,
  instant,
  isId,
  localTime,
  mapOf,
  text,
  timeOfDay,
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

/** Windows that come again, by id: each begins at `starts` (local time), lasts so long, and repeats by the rule. */
export const windows = () =>
  mapOf(fields({ starts: localTime().required(), repeats: repeats(), lasts: duration().required() }));

export const rotation = () =>
  fields({
    show: wholeNumber(1, 1000).required(),
    every: every().required(),
    at: timeOfDay(),
    starts: checked<string>({ type: 'string', pattern: '^\\d{4}-\\d\\d-\\d\\d$' }, (value) =>
      typeof value === 'string' && /^\d{4}-\d\d-\d\d$/.test(value) && DateTime.fromISO(value).isValid
        ? undefined
        : { problem: `${JSON.stringify(value)} is not a date`, fix: 'Write it as 2027-03-01, in quotes.' },
    ),
    avoid: wholeNumber(0, 60),
    perPlayer: yesNo(),
  });

/** A list of up to 200 ids or tags; an empty one picks nothing. */
const picked = (what: string, fits: (one: string) => boolean) =>
  checked<string[]>({ type: 'array', items: { type: 'string' }, maxItems: 200 }, (value) =>
    Array.isArray(value) && value.length <= 200 && value.every((one) => typeof one === 'string' && fits(one))
      ? undefined
      : { problem: `a list of up to 200 ${what} is needed here`, fix: 'Write [one, two], or leave it out.' },
  );

export const saleSchema = fields({
  name: text(120).required(),
  offers: picked('offer ids', isId),
  shops: picked('shop ids', isId),
  groups: picked('groups', isId),
  tags: picked('tags', (tag) => tag.trim() !== '' && tag.length <= 64),
  percent: anyNumber(0.01, 99.99),
  price: basket(),
  from: instant(),
  until: instant(),
  runs: windows(),
  when: condition(),
});
