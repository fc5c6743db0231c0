export { levelChange, levelNextMs, levelReachesMs, levelSettle } from './accrual.js';
export type { Level } from './accrual.js';
export { daysBetween, limitCount, limitPeriod, limitUsed, periodAround } from './period.js';
export type { CalendarUnit, Counter, Period } from './period.js';
