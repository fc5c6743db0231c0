/** Recurring windows over both changes of clocks and a leap day, and rules that cannot be used. */
import fc from 'fast-check';
import { RRule } from 'rrule';
import { windowWords } from './index.js';
import { DAY, HOUR } from '../../../tests/support/economy.js';
import {
  instantRead,
  localInstants,
  openingChangesMs,
  openingIsOpen,
  openingWindows,
  recurrenceComes,
  recurrenceMake,
  recurrenceProblem,
  recurrenceWindows,
} from './index.js';
import type { Opening } from './index.js';

const ZONE = 'Europe/Lisbon';
const at = (text: string) => Date.parse(text);
const wall = (text: string) => instantRead('utc', text)!.ms;
const every = (starts: string, repeats: string | undefined, lasts: string) =>
  recurrenceMake(ZONE, wall(starts), repeats, lasts);
const open = (...recurrences: Opening['recurrences'][number][]): Opening => ({
  fromMs: undefined,
  untilMs: undefined,
  recurrences,
});
const shown = (windows: { startMs: number; endMs: number }[]) =>
  windows.map(({ startMs, endMs }) => [new Date(startMs).toISOString(), (endMs - startMs) / HOUR]);

describe('local times', () => {
  test('one that clocks jump over is read as far after the jump; one that comes twice is the first', () => {
    expect(localInstants(ZONE, wall('2027-03-28T01:30'))).toEqual({ ms: at('2027-03-28T01:30Z'), matches: 0 });
    expect(localInstants(ZONE, wall('2027-10-31T01:30'))).toEqual({
      ms: at('2027-10-31T00:30Z'),
      matches: 2,
      secondMs: at('2027-10-31T01:30Z'),
    });
    expect(localInstants(ZONE, wall('2027-10-31T02:00'))).toEqual({ ms: at('2027-10-31T02:00Z'), matches: 1 });
    expect(localInstants('Australia/Lord_Howe', wall('2027-04-04T01:45')).matches).toBe(2);
  });

  test('an offset that is written goes before the zone', () => {
    expect(instantRead(ZONE, '2027-10-31T01:30+00:00')).toEqual({ ms: at('2027-10-31T01:30Z'), matches: 1 });
    expect(instantRead(ZONE, '2027-02-30')).toBeUndefined();
  });
});

describe('windows that come again', () => {
  test('keep their local hour over both changes of clocks; hours stay exact, days are calendar days', () => {
    const hours = every('2027-03-01T10:00', 'FREQ=DAILY', 'PT12H');
    expect(shown(recurrenceWindows(hours, at('2027-03-27T00:00Z'), at('2027-03-29T12:00Z')))).toEqual([
      ['2027-03-27T10:00:00.000Z', 12],
      ['2027-03-28T09:00:00.000Z', 12],
      ['2027-03-29T09:00:00.000Z', 12],
    ]);
    const days = every('2027-03-06T00:00', 'FREQ=WEEKLY;BYDAY=SU', 'P1D');
    expect(shown(recurrenceWindows(days, at('2027-03-28T12:00Z'), at('2027-03-28T13:00Z')))).toEqual([
      ['2027-03-28T00:00:00.000Z', 23],
    ]);
    expect(shown(recurrenceWindows(days, at('2027-10-31T12:00Z'), at('2027-10-31T13:00Z')))).toEqual([
      ['2027-10-30T23:00:00.000Z', 25],
    ]);
  });

  test('the leap day comes in leap years only', () => {
    const leap = every('2027-01-01T00:00', 'FREQ=YEARLY;BYMONTH=2;BYMONTHDAY=29', 'P1D');
    expect(shown(recurrenceWindows(leap, at('2027-01-01'), at('2033-01-01')))).toEqual([
      ['2028-02-29T00:00:00.000Z', 24],
      ['2032-02-29T00:00:00.000Z', 24],
    ]);
    expect(openingChangesMs(open(leap), at('2028-03-01T00:00Z'))).toBe(at('2032-02-29T00:00Z'));
  });

  test('end with COUNT and UNTIL, whether that is a date, a local time or UTC', () => {
    const summer = (until: string) =>
      recurrenceWindows(
        every('2027-07-01T09:00', `FREQ=DAILY;UNTIL=${until}`, 'PT1H'),
        at('2027-06-01'),
        at('2027-08-01'),
      ).length;
    expect([summer('20270703'), summer('20270703T085959'), summer('20270703T090000')]).toEqual([3, 2, 3]);
    // 08:00 UTC is 09:00 on the clocks of Lisbon in summer.
    expect([summer('20270703T075959Z'), summer('20270703T080000Z')]).toEqual([2, 3]);
    const counted = every('2027-07-01T09:00', 'FREQ=DAILY;COUNT=2', 'PT1H');
    expect(recurrenceWindows(counted, at('2027-06-01'), at('2037-01-01'))).toHaveLength(2);
  });

  test('are found the same, however long the stretch and wherever it begins', () => {
    const twice = every('2027-03-05T18:00', 'FREQ=WEEKLY;BYDAY=FR,SA', 'PT30H');
    const whole = recurrenceWindows(twice, at('2027-03-01'), at('2028-03-01'));
    for (let ms = at('2027-03-01'); ms < at('2028-02-01'); ms += 5 * DAY + 7 * HOUR)
      expect(recurrenceWindows(twice, ms, ms + 3 * DAY)).toEqual(
        whole.filter(({ startMs, endMs }) => endMs > ms && startMs < ms + 3 * DAY),
      );
  });

  test('merge where they overlap, and are cut by from and until', () => {
    const twice = every('2027-03-05T18:00', 'FREQ=WEEKLY;BYDAY=FR,SA', 'PT30H');
    const opening = { ...open(twice), fromMs: at('2027-03-06T00:00Z'), untilMs: at('2027-03-12T20:00Z') };
    expect(shown(openingWindows(opening, at('2027-03-01'), at('2027-04-01')))).toEqual([
      ['2027-03-06T00:00:00.000Z', 48],
      ['2027-03-12T18:00:00.000Z', 2],
    ]);
    expect(openingIsOpen(opening, at('2027-03-05T20:00Z'))).toBe(false);
    expect(openingIsOpen(opening, at('2027-03-07T20:00Z'))).toBe(true);
    expect(openingChangesMs(opening, at('2027-03-07T20:00Z'))).toBe(at('2027-03-08T00:00Z'));
    expect(openingChangesMs(opening, at('2027-03-13T00:00Z'))).toBeNull();
  });

  test('from is inclusive and until is exclusive', () => {
    const window = { fromMs: 1000, untilMs: 2000, recurrences: [] };
    expect([999, 1000, 1999, 2000].map((ms) => openingIsOpen(window, ms))).toEqual([false, true, true, false]);
    expect([0, 1000, 2000].map((ms) => openingChangesMs(window, ms))).toEqual([1000, 2000, null]);
  });
});

test.each([
  ['FREQ=DALY', /FREQ must be/],
  ['FREQ=HOURLY', /FREQ must be/],
  ['BYDAY=MO', /FREQ must be/],
  ['FREQ=DAILY;FOO=1', /"FOO=1" is not one of the parts/],
  ['FREQ=DAILY;FREQ=WEEKLY', /stands twice/],
  ['FREQ=WEEKLY;BYDAY=XX', /BYDAY=XX cannot be read/],
  ['FREQ=WEEKLY;BYDAY=2MO', /needs FREQ=MONTHLY/],
  ['FREQ=DAILY;INTERVAL=0', /INTERVAL=0 cannot be read/],
  ['FREQ=DAILY;COUNT=3;UNTIL=20270101', /cannot stand together/],
  ['FREQ=DAILY;BYSETPOS=2', /BYSETPOS/],
  ['FREQ=DAILY;BYMONTHDAY=32', /BYMONTHDAY=32 cannot be read/],
  ['', /not one of the parts/],
])('the rule %j is refused with the reason', (rule, says) => {
  expect(recurrenceProblem(rule)).toMatch(says);
});

test('a rule that never comes is known as such at once', () => {
  expect(recurrenceComes(every('2027-01-01', 'FREQ=DAILY;BYMONTH=2;BYMONTHDAY=30', 'P1D'))).toBe(false);
  expect(recurrenceComes(every('2027-01-01', 'FREQ=YEARLY;UNTIL=20261231', 'P1D'))).toBe(false);
  expect(recurrenceComes(every('2027-01-01', 'FREQ=MONTHLY;BYDAY=5FR', 'P1D'))).toBe(true);
  expect(recurrenceComes(every('2027-01-01', undefined, 'P1D'))).toBe(true);
});

test('a stretch far from the start is reached at once, and holds what walking there would find', () => {
  const part = fc.constantFrom(
    'INTERVAL=2',
    'INTERVAL=7',
    'UNTIL=20450101',
    'BYDAY=MO,WE',
    'BYDAY=-1FR',
    'BYMONTH=2,7',
    'BYMONTHDAY=29',
    'BYMONTHDAY=-1,1',
    'BYSETPOS=1',
    'BYHOUR=0,9,18',
    'WKST=SU',
  );
  const rules = fc
    .tuple(fc.constantFrom('DAILY', 'WEEKLY', 'MONTHLY', 'YEARLY'), fc.uniqueArray(part, { maxLength: 3 }))
    .map(([frequency, parts]) => [`FREQ=${frequency}`, ...parts].join(';'))
    .filter((rule) => recurrenceProblem(rule) === undefined);
  let found = 0;
  fc.assert(
    fc.property(rules, fc.integer({ min: 0, max: 700 }), fc.integer({ min: 0, max: 9000 }), (rule, day, later) => {
      const starts = Date.UTC(2020, 0, 31, 9) + day * DAY;
      const from = starts + later * DAY;
      const end = from + 400 * DAY;
      const { until, ...options } = RRule.parseString(rule);
      const walked = new RRule({
        ...options,
        dtstart: new Date(starts),
        until: new Date(Math.min(end, until ? until.getTime() + DAY - 1 : end)),
      })
        .all()
        .map((date) => date.getTime())
        .filter((ms) => ms >= from);
      const windows = recurrenceWindows(recurrenceMake('UTC', starts, rule, 'PT1S'), from, end + 1);
      expect(windows.map(({ startMs }) => startMs)).toEqual(walked);
      found += walked.length;
    }),
    { numRuns: 60 },
  );
  expect(found).toBeGreaterThan(300);
});

test('any rule that is taken can be worked out, and gives windows in order', () => {
  const part = fc.constantFrom(
    'INTERVAL=2',
    'COUNT=5',
    'UNTIL=20280101',
    'BYDAY=MO,WE',
    'BYDAY=-1FR',
    'BYMONTH=2,7',
    'BYMONTHDAY=29',
    'BYMONTHDAY=-1',
    'BYSETPOS=1',
    'BYHOUR=9,18',
    'BYMINUTE=30',
    'WKST=SU',
    'BYEASTER=1',
    'COUNT=0',
    '=',
    'BYDAY',
  );
  const rules = fc
    .tuple(fc.constantFrom('DAILY', 'WEEKLY', 'MONTHLY', 'YEARLY', 'SECONDLY'), fc.uniqueArray(part, { maxLength: 4 }))
    .map(([frequency, parts]) => [`FREQ=${frequency}`, ...parts].join(';'));
  let taken = 0;
  fc.assert(
    fc.property(rules, fc.constantFrom('PT1H', 'P1D', 'P2DT3H'), (rule, lasts) => {
      if (recurrenceProblem(rule) !== undefined) return;
      taken++;
      const windows = recurrenceWindows(every('2027-01-31T09:00', rule, lasts), at('2027-01-01'), at('2028-06-01'));
      const wrong = windows.filter(
        ({ startMs, endMs }, index) => endMs <= startMs || startMs < (windows[index - 1]?.startMs ?? 0),
      );
      expect(wrong).toEqual([]);
    }),
    { numRuns: 300, seed: 14 },
  );
  expect(taken).toBeGreaterThan(50);
});

test.each([
  ['FREQ=WEEKLY', 'P1D', 'every week on Friday for 1 day'],
  ['FREQ=WEEKLY;BYDAY=SA,SU', 'PT6H', 'every week on Saturday, Sunday for 6 h'],
  ['FREQ=WEEKLY;INTERVAL=2', 'P1DT23H', 'every 2 weeks on Friday for 1 day 23 h'],
  ['FREQ=MONTHLY;BYDAY=1SA', 'P2D', 'every month on the 1st Saturday for 2 days'],
  ['FREQ=DAILY', 'PT30M', 'every day for 30 min'],
  [undefined, 'P2D', 'from 2027-03-26 19:00 for 2 days'],
  // What nobody has words for stays as it is written.
  ['FREQ=DAILY;BYSETPOS=2;BYDAY=SA', 'P1D', 'FREQ=DAILY;BYSETPOS=2;BYDAY=SA for 1 day'],
])('%s for %s reads: %s', (repeats, lasts, words) => {
  expect(windowWords({ starts: '2027-03-26T19:00', repeats, lasts })).toBe(words);
});
