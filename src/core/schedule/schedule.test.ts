import fc from 'fast-check';
import { DateTime } from 'luxon';
import { DAY, HOUR, MINUTE, NOW } from '../../../tests/support/economy.js';
import {
  beatMake,
  daysBetween,
  levelChange,
  levelNextMs,
  levelReachesMs,
  levelSettle,
  limitCount,
  limitPeriod,
  limitUsed,
  periodAround,
  wallAt,
} from './index.js';
import type { Accrual, Level, Limit } from './index.js';

const EVERY_MS = 20 * MINUTE;
const rule: Accrual = { amount: 1, upTo: 8, comes: { kind: 'duration', everyMs: EVERY_MS } };

describe('what comes back by itself', () => {
  test('whole intervals are added and the unfinished one is kept', () => {
    const level = levelSettle({ units: 3, sinceMs: NOW }, rule, NOW + 50 * MINUTE);
    expect(level).toEqual({ units: 5, sinceMs: NOW + 40 * MINUTE });
    expect(levelSettle(level, rule, NOW + 60 * MINUTE).units).toBe(6);
  });

  test('it never runs above its bound, and counts anew only when it falls below', () => {
    const full = levelSettle({ units: 7, sinceMs: NOW }, rule, NOW + 10 * DAY);
    expect(full).toEqual({ units: 8, sinceMs: null });
    const spent = levelChange(full, -1, rule, NOW + 10 * DAY + 5 * MINUTE);
    expect(spent).toEqual({ units: 7, sinceMs: NOW + 10 * DAY + 5 * MINUTE });
    expect(levelSettle(spent, rule, NOW + 10 * DAY + 24 * MINUTE).units).toBe(7);
    expect(levelSettle(spent, rule, NOW + 10 * DAY + 25 * MINUTE).units).toBe(8);
  });

  test('spending while an interval runs does not start it again', () => {
    const spent = levelChange({ units: 5, sinceMs: NOW }, -2, rule, NOW + 19 * MINUTE);
    expect(levelSettle(spent, rule, NOW + 20 * MINUTE).units).toBe(4);
  });

  test('a balance given above the bound stays, and nothing is due', () => {
    expect(levelSettle({ units: 15, sinceMs: null }, rule, NOW + DAY)).toEqual({ units: 15, sinceMs: null });
    expect(levelNextMs({ units: 15, sinceMs: null }, rule)).toBeUndefined();
  });

  test('a clock that steps back adds nothing and loses nothing', () => {
    const level = { units: 3, sinceMs: NOW };
    expect(levelSettle(level, rule, NOW - DAY)).toEqual(level);
    expect(levelSettle(levelSettle(level, rule, NOW - DAY), rule, NOW + 20 * MINUTE).units).toBe(4);
  });

  test('an absence of a thousand years fills it and passes no ceiling', () => {
    const large: Accrual = { amount: 2 ** 50, upTo: 2 ** 52, comes: { kind: 'duration', everyMs: 1000 } };
    expect(levelSettle({ units: 0, sinceMs: NOW }, large, NOW + 1000 * 365 * DAY)).toEqual({
      units: 2 ** 52,
      sinceMs: null,
    });
  });

  test('when there will be enough is exact', () => {
    const level = { units: 3, sinceMs: NOW };
    expect(levelReachesMs(level, rule, 6)).toBe(NOW + 60 * MINUTE);
    expect(levelSettle(level, rule, NOW + 60 * MINUTE).units).toBe(6);
    expect(levelSettle(level, rule, NOW + 60 * MINUTE - 1).units).toBe(5);
    expect(levelReachesMs(level, rule, 9)).toBeUndefined();
  });

  /** Settling at any moments in between gives what a tick-by-tick count gives. */
  test('however often it is settled, the result is that of counting every tick', () => {
    const steps = fc.array(
      fc.record({ waitMs: fc.integer({ min: 0, max: 3 * HOUR }), spend: fc.integer({ min: 0, max: 3 }) }),
      { maxLength: 30 },
    );
    fc.assert(
      fc.property(steps, fc.integer({ min: 1, max: 3 }), (list, amount) => {
        const accrual = { ...rule, amount };
        let nowMs = NOW;
        let level: Level = { units: 8, sinceMs: null };
        let ticks = { units: 8, nextMs: Number.POSITIVE_INFINITY };
        for (const { waitMs, spend } of list) {
          nowMs += waitMs;
          while (ticks.nextMs <= nowMs) {
            const units = Math.min(8, ticks.units + amount);
            ticks = { units, nextMs: units >= 8 ? Number.POSITIVE_INFINITY : ticks.nextMs + EVERY_MS };
          }
          level = levelSettle(level, accrual, nowMs);
          expect(level.units).toBe(ticks.units);
          const taken = Math.min(spend, level.units);
          level = levelChange(level, -taken, accrual, nowMs);
          if (taken > 0) ticks = { units: ticks.units - taken, nextMs: Math.min(ticks.nextMs, nowMs + EVERY_MS) };
        }
      }),
    );
  });
});

describe('calendar periods', () => {
  const zone = 'Europe/Lisbon';
  const at = (text: string) => Date.parse(text);

  test("days, weeks and months begin at midnight of the economy's zone", () => {
    expect(periodAround(zone, 'day', at('2027-07-10T12:00Z'))).toEqual({
      startMs: at('2027-07-09T23:00Z'),
      endMs: at('2027-07-10T23:00Z'),
    });
    expect(periodAround(zone, 'week', at('2027-03-03T12:00Z')).startMs).toBe(at('2027-03-01T00:00Z'));
    expect(periodAround(zone, 'month', at('2028-02-10T12:00Z'))).toEqual({
      startMs: at('2028-02-01T00:00Z'),
      endMs: at('2028-03-01T00:00Z'),
    });
  });

  test('the day on which clocks change has 23 or 25 hours', () => {
    const spring = periodAround(zone, 'day', at('2027-03-28T12:00Z'));
    const autumn = periodAround(zone, 'day', at('2027-10-31T12:00Z'));
    expect([(spring.endMs - spring.startMs) / HOUR, (autumn.endMs - autumn.startMs) / HOUR]).toEqual([23, 25]);
    expect(daysBetween(zone, at('2027-03-27T12:00Z'), at('2027-03-29T00:30Z'))).toBe(2);
  });

  test('every instant lies in its period, and periods meet without a gap', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: at('2024-01-01'), max: at('2035-01-01') }),
        fc.constantFrom('day' as const, 'week' as const, 'month' as const),
        (nowMs, unit) => {
          const { startMs, endMs } = periodAround(zone, unit, nowMs);
          expect(startMs <= nowMs && nowMs < endMs).toBe(true);
          expect(periodAround(zone, unit, endMs).startMs).toBe(endMs);
          expect(periodAround(zone, unit, startMs - 1).endMs).toBe(startMs);
        },
      ),
    );
  });

  test('a daily limit starts again at midnight, not 24 hours later', () => {
    const limit: Limit = { period: 'day', most: 2, span: { kind: 'calendar', unit: 'day' } };
    const counter = limitCount(limit, undefined, zone, at('2027-03-01T23:50Z'), 2);
    expect(limitUsed(limit, counter, zone, at('2027-03-01T23:59:59.999Z'))).toBe(2);
    expect(limitUsed(limit, counter, zone, at('2027-03-02T00:00Z'))).toBe(0);
  });

  test('a limit per duration opens with the first thing counted', () => {
    const limit: Limit = { period: 'PT12H', most: 3, span: { kind: 'duration', everyMs: 12 * HOUR } };
    let counter = limitCount(limit, undefined, zone, NOW, 1);
    counter = limitCount(limit, counter, zone, NOW + 11 * HOUR, 1);
    expect(limitUsed(limit, counter, zone, NOW + 12 * HOUR - 1)).toBe(2);
    expect(limitPeriod(limit, counter, zone, NOW + HOUR).endMs).toBe(NOW + 12 * HOUR);
    expect(limitUsed(limit, counter, zone, NOW + 12 * HOUR)).toBe(0);
  });

  test('a clock that steps back over midnight gives no fresh day', () => {
    const limit: Limit = { period: 'day', most: 2, span: { kind: 'calendar', unit: 'day' } };
    const counter = limitCount(limit, undefined, zone, at('2027-03-02T00:01Z'), 2);
    const back = at('2027-03-01T23:59Z');
    expect(limitUsed(limit, counter, zone, back)).toBe(2);
    expect(limitPeriod(limit, counter, zone, back).endMs).toBe(at('2027-03-03T00:00Z'));
    expect(limitCount(limit, counter, zone, back, 1)).toEqual({ count: 3, startMs: at('2027-03-02T00:00Z') });
    const beat: Limit = {
      period: 'rotation',
      most: 1,
      span: { kind: 'beat', beat: beatMake(zone, 'day', 18 * HOUR) },
    };
    const counted = limitCount(beat, undefined, zone, at('2027-03-02T18:00Z'), 1);
    expect(limitUsed(beat, counted, zone, at('2027-03-02T17:59Z'))).toBe(1);
    expect(limitUsed(beat, counted, zone, at('2027-03-03T18:00Z'))).toBe(0);
  });

  test('a lifetime limit never starts again', () => {
    const limit: Limit = { period: 'lifetime', most: 1, span: { kind: 'lifetime' } };
    const counter = limitCount(limit, undefined, zone, NOW, 1);
    expect(limitUsed(limit, counter, zone, NOW + 9000 * DAY)).toBe(1);
  });
});

test('clocks show what the calendar says, on days in which they change too', () => {
  const zones = [
    'Europe/Lisbon',
    'America/New_York',
    'Australia/Lord_Howe',
    'Asia/Kathmandu',
    'Africa/Monrovia',
    'UTC',
  ];
  // Changes of clocks in some of them: half an hour, an hour, and in Monrovia at 00:44:30.
  const changes = [
    Date.UTC(2027, 2, 28, 1),
    Date.UTC(2027, 9, 31, 1),
    Date.UTC(2027, 2, 14, 7),
    Date.UTC(2027, 3, 3, 15),
    Date.UTC(1972, 0, 7, 0, 44, 30),
  ];
  const instants = fc.oneof(
    fc.integer({ min: 0, max: Date.UTC(2199, 0, 1) }),
    fc.tuple(fc.constantFrom(...changes), fc.integer({ min: -2 * DAY, max: 2 * DAY })).map(([at, by]) => at + by),
    fc.tuple(fc.constantFrom(...changes), fc.integer({ min: -2, max: 2 })).map(([at, by]) => at + by),
  );
  fc.assert(
    fc.property(fc.constantFrom(...zones), instants, (zone, ms) => {
      expect(wallAt(zone, ms) - ms).toBeCloseTo(DateTime.fromMillis(ms, { zone }).offset * MINUTE, 3);
    }),
    { numRuns: 500 },
  );
});
