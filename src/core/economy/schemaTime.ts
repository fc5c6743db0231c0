/** The shapes of time: instants, recurring windows, rotations, sales. */
import { DateTime, IANAZone } from 'luxon';
import { recurrenceProblem } from '../schedule/index.js';
import {
  basket,
  checked,
  condition,
  duration,
  durationMs,
  fields,
  isId,
  mapOf,
  text,
  wholeNumber,
  yesNo,
  anyNumber,
} from './shapes.js';

/** An ISO 8601 date or local time; without an offset it is in the economy's time zone. */
const INSTANT_PATTERN = /^\d{4}-\d\d-\d\d(T\d\d:\d\d(:\d\d)?(Z|[+-]\d\d:\d\d)?)?$/;
const LOCAL_PATTERN = /^\d{4}-\d\d-\d\d(T\d\d:\d\d)?$/;

const dated = (pattern: RegExp, what: string) =>
  checked<string>({ type: 'string', pattern: pattern.source }, (value) =>
    typeof value === 'string' && pattern.test(value) && DateTime.fromISO(value, { zone: 'utc' }).isValid
      ? undefined
      : {
          problem: `${JSON.stringify(value)} is not ${what}`,
          fix: "Write it as 2027-03-01T09:00, in the economy's time zone, in quotes.",
        },
  );
export const instant = () => dated(INSTANT_PATTERN, 'an instant');
export const localTime = () => dated(LOCAL_PATTERN, 'a local date or time');

export const timeZone = () =>
  checked<string>({ type: 'string' }, (value) =>
    typeof value === 'string' && IANAZone.isValidZone(value)
      ? undefined
      : {
          problem: `${JSON.stringify(value)} is not a time zone`,
          fix: 'Write an IANA name, such as Europe/Lisbon or UTC.',
        },
  );

const TIME_PATTERN = /^([01]\d|2[0-3]):[0-5]\d$/;
/** A time of day, such as 09:00. */
export const timeOfDay = () =>
  checked<string>({ type: 'string', pattern: TIME_PATTERN.source }, (value) =>
    typeof value === 'string' && TIME_PATTERN.test(value)
      ? undefined
      : { problem: `${JSON.stringify(value)} is not a time of day`, fix: 'Write it as "09:00", in quotes.' },
  );
export const timeOfDayMs = (written: string | undefined): number =>
  written === undefined ? 0 : (Number(written.slice(0, 2)) * 60 + Number(written.slice(3))) * 60_000;

const EVERY = ['day', 'week', 'month'];
/** A calendar word or a duration. */
export const every = () =>
  checked<string>({ type: 'string', pattern: `^(${EVERY.join('|')}|P.+)$` }, (value) =>
    typeof value === 'string' && (EVERY.includes(value) || durationMs(value) !== undefined)
      ? undefined
      : {
          problem: `${JSON.stringify(value)} is neither ${EVERY.join(', ')} nor a duration`,
          fix: 'Write day, week, month, or an ISO 8601 duration such as PT6H.',
        },
  );

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
