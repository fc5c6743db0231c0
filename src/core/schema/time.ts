/** The building blocks of time: instants, times of day, zones, beats. */
import { DateTime, IANAZone } from 'luxon';
import { checked, durationMs } from './blocks.js';

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
