/** The blocks of time: instants, times of day, zones, beats. */
import { DateTime, IANAZone } from 'luxon';
import { YEARS } from '../schedule/index.js';
import { checked, described, inCells, inForms } from './block.js';
import { DURATION_PATTERN, durationMs } from './values.js';

/** The days that the calendar has, leap days included, so that JSON Schema is as strict as the check. */
const DATE =
  '(?:(?:19[7-9]\\d|2[01]\\d\\d)-(?:(?:0[13578]|1[02])-(?:0[1-9]|[12]\\d|3[01])|(?:0[469]|11)-(?:0[1-9]|[12]\\d|30)|02-(?:0[1-9]|1\\d|2[0-8]))' +
  '|(?:197[26]|198[048]|199[26]|2[01](?:0[48]|[2468][048]|[13579][26])|2000)-02-29)';
const CLOCK = '(?:[01]\\d|2[0-3]):[0-5]\\d';
const OFFSET = '(?:Z|[+-]\\d\\d:\\d\\d)';

const dated = (pattern: string, what: string, example = "2027-03-01T09:00, in the economy's time zone, in quotes") => {
  const fits = new RegExp(pattern);
  /** The one that was valid last: many cases begin at the same. A cache only. */
  let known: string | undefined;
  const isValid = (value: unknown): boolean => {
    if (typeof value !== 'string') return false;
    if (value === known) return true;
    const isDate = fits.test(value) && DateTime.fromISO(value, { zone: 'utc' }).isValid;
    if (isDate) known = value;
    return isDate;
  };
  return checked<string>({ type: 'string', pattern }, (value) =>
    isValid(value)
      ? undefined
      : { problem: `${described(value)} is not ${what} ${YEARS}`, fix: `Write it as ${example}.` },
  );
};

/** An ISO 8601 date or local time; without an offset it is in the economy's time zone. */
export const instant = () =>
  inForms('instant', dated(`^${DATE}(?:T(?:${CLOCK}(?::[0-5]\\d)?|24:00(?::00)?)${OFFSET}?)?$`, 'an instant'));
export const localTime = () => inForms('localTime', dated(`^${DATE}(?:T(?:${CLOCK}|24:00))?$`, 'a local date or time'));
export const localDate = () => inForms('date', dated(`^${DATE}$`, 'a date', '2027-03-01, in quotes'));

/** The one that was valid last: an economy has one, and asking whether a name is one takes half a millisecond. A cache only. */
let zoneKnown: string | undefined;

function isZone(value: unknown): boolean {
  if (typeof value !== 'string') return false;
  if (value === zoneKnown) return true;
  const isValid = IANAZone.isValidZone(value);
  if (isValid) zoneKnown = value;
  return isValid;
}

export const timeZone = () =>
  inForms(
    'zone',
    checked<string>({ type: 'string' }, (value) =>
      isZone(value)
        ? undefined
        : {
            problem: `${JSON.stringify(value)} is not a time zone`,
            fix: 'Write an IANA name, such as Europe/Lisbon or UTC.',
          },
    ),
  );

const TIME_OF_DAY = `^${CLOCK}$`;
/** A time of day, such as 09:00. */
export const timeOfDay = () =>
  inForms(
    'timeOfDay',
    checked<string>({ type: 'string', pattern: TIME_OF_DAY }, (value) =>
      typeof value === 'string' && new RegExp(TIME_OF_DAY).test(value)
        ? undefined
        : { problem: `${JSON.stringify(value)} is not a time of day`, fix: 'Write it as "09:00", in quotes.' },
    ),
  );
/** Milliseconds since midnight of a time of day; midnight where none is written. */
export const timeOfDayMs = (written: string | undefined): number =>
  written === undefined ? 0 : (Number(written.slice(0, 2)) * 60 + Number(written.slice(3))) * 60_000;

const EVERY = ['day', 'week', 'month'];
/** A calendar word or a duration. */
export const every = () =>
  inCells(
    'every',
    checked<string>({ type: 'string', pattern: `^(?:${EVERY.join('|')})$|${DURATION_PATTERN}` }, (value) =>
      typeof value === 'string' && (EVERY.includes(value) || durationMs(value) !== undefined)
        ? undefined
        : {
            problem: `${JSON.stringify(value)} is neither ${EVERY.join(', ')} nor a duration`,
            fix: 'Write day, week, month, or an ISO 8601 duration such as PT6H.',
          },
    ),
  );
