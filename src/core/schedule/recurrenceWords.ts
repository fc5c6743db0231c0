/** When something comes again, in words. */
import * as rrule from 'rrule';
import { durationWords } from './durationText.js';

// The package's main file is CommonJS: Node hands out its names as the default, other loaders one by one.
const { RRule } = (rrule as unknown as { default?: typeof rrule }).default ?? rrule;

/** The parts that the package has words for; of others it would say nothing. */
const WORDED = /^(?:(?:FREQ|INTERVAL|COUNT|UNTIL|BYDAY|BYMONTH|BYMONTHDAY|WKST)=[^;]*(?:;|$))+$/;

const DAYS = ['SU', 'MO', 'TU', 'WE', 'TH', 'FR', 'SA'];

/** `every week on Friday for 1 day`; from its beginning, where it comes once. A rule that has no words stands as it is. */
export function windowWords({
  starts,
  repeats,
  lasts,
}: {
  starts: string;
  repeats?: string | undefined;
  lasts: string;
}): string {
  const when = repeats === undefined ? `from ${starts.replace('T', ' ')}` : recurrenceWords(repeats, starts);
  return `${when} for ${durationWords(lasts)}`;
}

/** `every week on Friday`; without a day of its own a week's rule comes on that of its beginning, where that is known. */
export function recurrenceWords(repeats: string, starts = ''): string {
  const isWeekly = /FREQ=WEEKLY/.test(repeats) && !/BYDAY=/.test(repeats);
  const day = DAYS[new Date(`${starts.slice(0, 10)}T00:00Z`).getUTCDay()];
  try {
    if (!WORDED.test(repeats)) return repeats;
    const rule = RRule.fromString(isWeekly && day !== undefined ? `${repeats};BYDAY=${day}` : repeats);
    return rule.isFullyConvertibleToText() ? rule.toText() : repeats;
  } catch {
    return repeats;
  }
}
