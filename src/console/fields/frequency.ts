/** How often something comes again, by the words of RFC 5545. */
export const FREQUENCIES = {
  DAILY: { one: 'every day', many: 'days' },
  WEEKLY: { one: 'every week', many: 'weeks' },
  MONTHLY: { one: 'every month', many: 'months' },
  YEARLY: { one: 'every year', many: 'years' },
} as const;
export type Frequency = keyof typeof FREQUENCIES;

/** For a drop-down. */
export const FREQUENCY_OPTIONS = Object.entries(FREQUENCIES).map(([value, { one }]) => ({ value, label: one }));
