export { levelChange, levelNextMs, levelReachesMs, levelSettle } from './accrual.js';
export type { Accrual, Level, Rhythm } from './accrual.js';
export { beatMake, beatPeriod, beatStart } from './beat.js';
export type { Beat, BeatPeriod } from './beat.js';
export {
  DAY_MS,
  FIRST_MS,
  LAST_MS,
  YEARS,
  instantRead,
  instantWritten,
  localInstants,
  localMs,
  localWritten,
  wallAt,
  weekdayOf,
} from './localTime.js';
export type { CalendarUnit, Period } from './localTime.js';
export { openingChangesMs, openingIsBounded, openingIsOpen, openingWindows } from './opening.js';
export type { Opening } from './opening.js';
export { daysBefore, daysBetween, limitCount, limitPeriod, limitUsed, periodAround } from './period.js';
export type { Counter, Limit, LimitSpan } from './period.js';
export { durationRead, durationWords } from './durationText.js';
export { recurrenceWords, windowWords } from './recurrenceWords.js';
export { recurrenceComes, recurrenceMake, recurrenceProblem, recurrenceWindows } from './recurrence.js';
