/** Rotation as a function: pure, reachable, stable, fair, weighted, resting, per player, right where clocks change. */
import fc from 'fast-check';
import { DAY, HOUR } from '../../../tests/support/economy.js';
import type { Economy, PeriodRecord, Rotation, RotationRecord, Shelf } from '../economy/index.js';
import { beatMake, beatPeriod, beatStart } from '../schedule/index.js';
import { isOnShow, offerShownNextMs, ruleShown, shelfShown } from './index.js';
import type { OnShow } from './index.js';

const ZONE = 'Europe/Lisbon';
const always = { fromMs: undefined, untilMs: undefined, recurrences: [] };
const START = Date.parse('2027-03-01T09:00Z');

const rotation = (weights: readonly number[], { show = 2, avoid = 1, ...more }: Partial<Rotation> = {}): Rotation => ({
  key: 'wagon/pool',
  seed: 7,
  show,
  avoid,
  perPlayer: false,
  beat: beatMake(ZONE, 'day', 9 * HOUR),
  pool: weights.map((weight, index) => ({ id: `o${index}`, weight, opening: always })),
  ...more,
});
const drawn = (one: Rotation) => ({ kind: 'drawn', rotation: one }) as const;
const rotationShown = (one: Rotation, record: RotationRecord | undefined, player: string, ms: number) =>
  ruleShown(drawn(one), record, player, ms) as Extract<OnShow, { kind: 'drawn' }>;
/** A fresh copy each time, so that nothing kept from an earlier answer can help. */
const shownIn = (one: Rotation, period: number, record?: RotationRecord, player = ''): string[] => [
  ...rotationShown({ ...one }, record, player, beatStart(one.beat, period)).offers,
];
const periodOf = (one: Rotation, ms: number) => beatPeriod(one.beat, ms).index;

/** Pools of every size against what is shown and how long it rests. */
const pools = fc
  .record({
    weights: fc.array(fc.integer({ min: 1, max: 9 }), { minLength: 1, maxLength: 24 }),
    show: fc.integer({ min: 1, max: 4 }),
    avoid: fc.integer({ min: 0, max: 3 }),
    seed: fc.integer({ min: 0, max: 1e9 }),
  })
  .map(({ weights, ...more }) => rotation(weights, more));

describe('what is on show', () => {
  test('is as many as asked for, all different, and the same however it is reached', () => {
    fc.assert(
      fc.property(pools, fc.integer({ min: -4000, max: 4000 }), (one, period) => {
        const offers = shownIn(one, period);
        expect(new Set(offers).size).toBe(offers.length);
        expect(offers).toHaveLength(Math.min(one.show, one.pool.length));
        // Walking up to it gives what jumping to it gives.
        for (let before = period - 5; before < period; before++)
          rotationShown(one, undefined, '', beatStart(one.beat, before));
        expect([...rotationShown(one, undefined, '', beatStart(one.beat, period)).offers]).toEqual(offers);
      }),
      { numRuns: 150, seed: 11 },
    );
  });

  test('no offer comes again within the periods that it rests, wherever the pool allows it', () => {
    fc.assert(
      fc.property(pools, fc.integer({ min: -500, max: 500 }), (one, first) => {
        const rests = Math.min(one.avoid, Math.floor(one.pool.length / one.show) - 1);
        const days = Array.from({ length: 150 }, (_, n) => [
          ...rotationShown(one, undefined, '', beatStart(one.beat, first + n)).offers,
        ]);
        days.forEach((offers, day) => {
          for (let back = 1; back <= Math.min(rests, day); back++)
            expect(offers.filter((id) => days[day - back]!.includes(id))).toEqual([]);
        });
      }),
      { numRuns: 60, seed: 12 },
    );
  });

  test.each([
    [[1, 1, 1, 1, 1, 1, 1, 1], 2, 1],
    [[1, 2, 3, 4, 5, 6, 7], 2, 0],
    [[1, 1, 1, 1, 1, 2, 2, 3], 1, 2],
    [[1, 1, 1, 2, 2, 2, 3, 3, 3, 4, 4, 4], 3, 1],
    [[1, 1, 1, 2, 2, 2, 3, 3, 3, 4, 4, 4], 2, 2],
  ])('in the long run shares follow the weights %j, %d shown, resting %d', (weights, show, avoid) => {
    const one = rotation(weights, { show, avoid });
    const counts = new Map<string, number>();
    const periods = 3_000;
    for (let period = 0; period < periods; period++)
      for (const id of rotationShown(one, undefined, '', beatStart(one.beat, period)).offers)
        counts.set(id, (counts.get(id) ?? 0) + 1);
    const total = weights.reduce((sum, weight) => sum + weight, 0);
    weights.forEach((weight, index) => {
      const share = counts.get(`o${index}`)! / (periods * show) / (weight / total);
      expect(share).toBeGreaterThan(0.9);
      expect(share).toBeLessThan(1.1);
    });
  });

  test('an offer that is added takes only the places that it wins', () => {
    const before = rotation([1, 1, 1, 1, 1, 1, 1, 1, 1, 1], { avoid: 0 });
    const after = rotation([1, 1, 1, 1, 1, 1, 1, 1, 1, 1, 1], { avoid: 0 });
    let wins = 0;
    for (let period = 0; period < 400; period++) {
      const [old, now] = [shownIn(before, period), shownIn(after, period)];
      if (now.includes('o10')) wins++;
      expect(now.filter((id) => !old.includes(id) && id !== 'o10')).toEqual([]);
    }
    expect(wins / 400).toBeCloseTo(2 / 11, 1);
  });

  test('the order in which the pool is written does not matter, and every seed and shelf has luck of its own', () => {
    const one = rotation([3, 1, 4, 1, 5, 9, 2, 6]);
    const turned = { ...one, pool: [...one.pool].reverse() };
    const other = { ...one, seed: 8 };
    const shelf = { ...one, key: 'wagon/other' };
    const days = Array.from({ length: 60 }, (_, n) => n);
    expect(days.map((n) => shownIn(turned, n).sort())).toEqual(days.map((n) => shownIn(one, n).sort()));
    expect(days.map((n) => shownIn(other, n))).not.toEqual(days.map((n) => shownIn(one, n)));
    expect(days.map((n) => shownIn(shelf, n))).not.toEqual(days.map((n) => shownIn(one, n)));
  });

  test('each player has a selection of their own only where the shelf says so', () => {
    const own = rotation([1, 1, 1, 1, 1, 1, 1, 1], { perPlayer: true });
    const days = Array.from({ length: 40 }, (_, n) => n);
    const seenBy = (one: Rotation, player: string) => days.map((n) => shownIn(one, n, undefined, player));
    expect(seenBy(own, 'ines')).toEqual(seenBy(own, 'ines'));
    expect(seenBy(own, 'ines')).not.toEqual(seenBy(own, 'oda'));
    expect(seenBy({ ...own, perPlayer: false }, 'ines')).toEqual(seenBy({ ...own, perPlayer: false }, 'oda'));
  });
});

describe('a pool that is hardly larger than what is shown while others rest', () => {
  const TIGHT: readonly [number, number, number][] = [
    [8, 4, 1],
    [6, 2, 2],
    [9, 3, 2],
    [8, 3, 1],
    [5, 2, 1],
    [7, 2, 2],
    [4, 1, 2],
  ];
  const even = (size: number, show: number, avoid: number, perPlayer = true) =>
    rotation(
      Array.from({ length: size }, () => 1),
      { show, avoid, perPlayer },
    );

  test.each(TIGHT)('%d offers, %d shown, resting %d: each player has a selection of their own', (...of) => {
    const one = even(...of);
    const players = Array.from({ length: 60 }, (_, n) => `player${n}`);
    const seen = new Set(players.map((player) => shownIn(one, 1100, undefined, player).sort().join()));
    expect(seen.size).toBeGreaterThan(of[1] === 1 ? 3 : 8);
    const shared = { ...one, perPlayer: false };
    expect(new Set(players.map((player) => shownIn(shared, 1100, undefined, player).join())).size).toBe(1);
  });

  test.each(TIGHT)(
    '%d offers, %d shown, resting %d: shares are even, and resting is kept over segments',
    (size, show, avoid) => {
      const one = even(size, show, avoid);
      const counts = new Map<string, number>();
      for (const player of ['ines', 'oda', 'rui']) {
        const days = Array.from({ length: 800 }, (_, n) => [
          ...rotationShown(one, undefined, player, beatStart(one.beat, n - 400)).offers,
        ]);
        days.forEach((offers, day) => {
          expect(offers).toHaveLength(show);
          for (const id of offers) counts.set(id, (counts.get(id) ?? 0) + 1);
          for (let back = 1; back <= Math.min(avoid, day); back++)
            expect(offers.filter((id) => days[day - back]!.includes(id))).toEqual([]);
        });
      }
      for (const count of counts.values()) expect(count / (2400 * show)).toBeCloseTo(1 / size, 1.5);
    },
  );

  test('where some can be spare, more than a few selections come in a year, for all as well', () => {
    const year = (one: Rotation) =>
      new Set(
        Array.from({ length: 365 }, (_, n) =>
          shownIn(one, 1000 + n)
            .sort()
            .join(),
        ),
      ).size;
    expect(year(even(8, 3, 1, false))).toBeGreaterThan(30);
    // All of them must be shown in turn: as many selections as turns.
    expect(year(even(8, 4, 1, false))).toBe(2);
  });

  test('shares follow the weights as far as resting allows', () => {
    const one = rotation([4, 3, 2, 2, 1], { show: 1, avoid: 1, perPlayer: true });
    const counts = new Map<string, number>();
    for (const player of ['ines', 'oda', 'rui'])
      for (let n = 0; n < 2000; n++)
        for (const id of rotationShown(one, undefined, player, beatStart(one.beat, n)).offers)
          counts.set(id, (counts.get(id) ?? 0) + 1);
    [4, 3, 2, 2, 1].forEach((weight, n) => {
      const share = counts.get(`o${n}`)! / 6000 / (weight / 12);
      expect(share).toBeGreaterThan(0.85);
      expect(share).toBeLessThan(1.15);
    });
  });

  test('resting is kept over a release that changes the rotation, wherever in a segment it comes', () => {
    const rules = [even(8, 3, 1), even(9, 3, 2), even(14, 2, 2), even(12, 3, 2), even(5, 2, 1), even(24, 2, 3)];
    for (const [at, before] of rules.entries())
      for (const after of rules.slice(at + 1).concat(rules.slice(0, at)))
        for (let n = 0; n < 10; n++) {
          const released = 900 + 19 * n;
          const record: RotationRecord = {
            periods: [],
            earlier: [{ untilMs: beatStart(before.beat, released), rule: drawn(before) }],
          };
          const days = Array.from({ length: 10 }, (_, day) => shownIn(after, released - 3 + day, record, 'ines'));
          const rests = Math.min(after.avoid, before.avoid);
          days.forEach((offers, day) => {
            for (let back = 1; back <= Math.min(rests, day); back++)
              expect(offers.filter((id) => days[day - back]!.includes(id))).toEqual([]);
          });
        }
  });
});

describe('when it turns', () => {
  test('at the same local time all year, over both changes of clocks', () => {
    const one = rotation([1, 1, 1, 1, 1, 1]);
    for (const [before, after] of [
      ['2027-03-28T07:59:59.999Z', '2027-03-28T08:00Z'],
      ['2027-10-31T08:59:59.999Z', '2027-10-31T09:00Z'],
      ['2028-02-29T08:59:59.999Z', '2028-02-29T09:00Z'],
    ]) {
      const [left, entered] = [before!, after!].map((text) => beatPeriod(one.beat, Date.parse(text)));
      expect(entered!.index).toBe(left!.index + 1);
      expect(entered!.startMs).toBe(Date.parse(after!));
    }
  });

  test('periods of any beat meet without a gap and hold every instant', () => {
    const beats = [
      beatMake(ZONE, 'day', 90 * 60_000),
      beatMake(ZONE, 'week', 9 * HOUR),
      beatMake(ZONE, 'month', 0),
      beatMake('America/New_York', 6 * HOUR, 2.5 * HOUR),
      beatMake('Australia/Lord_Howe', 3 * DAY, 0),
      beatMake('Asia/Kathmandu', 7 * HOUR, 0),
    ];
    fc.assert(
      fc.property(fc.constantFrom(...beats), fc.integer({ min: 1.2e12, max: 2.6e12 }), (beat, ms) => {
        const { index, startMs, endMs } = beatPeriod({ ...beat }, ms);
        expect(startMs <= ms && ms < endMs).toBe(true);
        expect(beatPeriod({ ...beat }, endMs)).toMatchObject({ index: index + 1, startMs: endMs });
        expect(beatPeriod({ ...beat }, startMs - 1).endMs).toBe(startMs);
      }),
      { numRuns: 2000, seed: 13 },
    );
  });
});

describe('what is recorded', () => {
  const one = rotation([1, 1, 1, 1, 1, 1, 1, 1, 1, 1], { show: 3 });
  const period = periodOf(one, START);
  const decided = (index: number, more: Partial<PeriodRecord>): PeriodRecord => ({
    startMs: beatStart(one.beat, index),
    endMs: beatStart(one.beat, index + 1),
    pinned: [],
    without: [],
    ...more,
  });
  const recorded = (...periods: PeriodRecord[]): RotationRecord => ({ periods, earlier: [] });
  const replaced = (rotation: Rotation, untilMs: number): RotationRecord => ({
    periods: [],
    earlier: [{ untilMs, rule: drawn(rotation) }],
  });

  test('a pinned offer is on show, and rests afterwards; earlier periods stay as they were', () => {
    const absent = one.pool.find(({ id }) => !shownIn(one, period).includes(id))!.id;
    const record = recorded(decided(period, { pinned: [absent] }));
    expect(shownIn(one, period, record)).toContain(absent);
    expect(shownIn(one, period, record)).toHaveLength(3);
    expect(shownIn(one, period + 1, record)).not.toContain(absent);
    for (let back = 1; back < 40; back++)
      expect(shownIn(one, period - back, record)).toEqual(shownIn(one, period - back));
  });

  test('what is taken out of a period is replaced by the next best; the others stay', () => {
    const [first, ...others] = shownIn(one, period);
    const now = shownIn(one, period, recorded(decided(period, { without: [first!] })));
    expect(now).toHaveLength(3);
    expect(now).not.toContain(first);
    expect(now).toEqual(expect.arrayContaining(others));
  });

  test('a release in the middle of a period changes nothing until the period ends', () => {
    const before = rotation([1, 1, 1, 1, 1, 1]);
    const after = rotation([9, 1, 1, 1, 1, 1, 5, 5, 5]);
    const { endMs, index } = beatPeriod(before.beat, START);
    const record = replaced(before, endMs);
    const shown = (ms: number) => rotationShown(after, record, '', ms).offers;
    expect(shown(START)).toEqual(shownIn(before, index));
    expect(shown(endMs - 1)).toEqual(shownIn(before, index));
    // And the rest of the running period counts for what comes next.
    expect(shown(endMs).filter((id) => shown(START).includes(id))).toEqual([]);
    const days = Array.from({ length: 30 }, (_, n) => shown(beatStart(after.beat, index + 1 + n))).flat();
    expect(days.some((id) => ['o6', 'o7', 'o8'].includes(id))).toBe(true);
  });

  test('at the end of a segment too: neither a pin nor a release of the future changes what is on show', () => {
    // Resting one period makes segments of 64; the last period of one looks ahead to the first of the next.
    for (let segment = -6; segment < 6; segment++) {
      const last = segment * 64 + 63;
      const now = shownIn(one, last);
      const pins = recorded(decided(last + 1, { pinned: now }));
      expect(shownIn(one, last, pins)).toEqual(now);
      expect(shownIn(one, last + 1, pins).sort()).toEqual([...now].sort());
      const heavy: Rotation = { ...one, pool: one.pool.map((offer, n) => ({ ...offer, weight: n < 3 ? 90 : 1 })) };
      const record = replaced(one, beatStart(one.beat, last + 1));
      expect(shownIn(heavy, last, record)).toEqual(now);
    }
  });

  test('a release that changes how long offers rest keeps the running period, whatever was asked for before', () => {
    const longer: Rotation = { ...one, avoid: 2 };
    for (let n = 0; n < 70; n++) {
      const now = period + n;
      const record = replaced(one, beatStart(one.beat, now + 1));
      const fresh = { ...longer };
      rotationShown(fresh, record, '', beatStart(one.beat, now + 3));
      expect(rotationShown(fresh, record, '', beatStart(one.beat, now)).offers).toEqual(shownIn(one, now));
    }
  });

  test('a release that gives each player a selection of their own, or takes it away, waits for the end of the period', () => {
    const own = { ...one, perPlayer: true };
    const seen = (rule: Rotation, record: RotationRecord, ms: number) =>
      ['ines', 'oda', 'rui'].map((player) => rotationShown({ ...rule }, record, player, ms).offers.join());
    for (let n = 0; n < 15; n++) {
      const endMs = beatStart(one.beat, period + n + 1);
      const given = replaced(one, endMs);
      expect(seen(own, given, endMs - 1)).toEqual(seen(one, recorded(), endMs - 1));
      expect(new Set(seen(own, given, endMs)).size).toBeGreaterThan(1);
      const taken = replaced(own, endMs);
      expect(seen(one, taken, endMs - 1)).toEqual(seen(own, recorded(), endMs - 1));
    }
  });

  test('a release that changes the beat keeps the running period with its pin, and the next begins where it ends', () => {
    const weekly: Rotation = { ...one, beat: beatMake(ZONE, 'week', 9 * HOUR) };
    const absent = one.pool.find(({ id }) => !shownIn(one, period).includes(id))!.id;
    const { startMs, endMs } = beatPeriod(one.beat, START);
    const record: RotationRecord = {
      periods: [decided(period, { pinned: [absent] })],
      earlier: [{ untilMs: endMs, rule: drawn(one) }],
    };
    const running = rotationShown(weekly, record, '', START);
    expect(running.offers).toContain(absent);
    expect(running.period).toEqual({ index: period, startMs, endMs });
    const next = rotationShown(weekly, record, '', endMs);
    expect(next.period).toEqual({ ...beatPeriod(weekly.beat, endMs), startMs: endMs });
    // Its number by days would be a week of another century.
    expect(shownIn(weekly, period, record)).toEqual(shownIn(weekly, period));
  });

  test('a pin for a day to come holds in the week in which that day falls', () => {
    const weekly: Rotation = { ...one, beat: beatMake(ZONE, 'week', 9 * HOUR) };
    const day = period + 9;
    const week = beatPeriod(weekly.beat, beatStart(one.beat, day)).index;
    const around = [week - 1, week, week + 1];
    const absent = one.pool.find(({ id }) => !around.slice(0, 2).some((n) => shownIn(weekly, n).includes(id)))!.id;
    const record = recorded(decided(day, { pinned: [absent] }));
    expect(around.map((n) => shownIn(weekly, n, record).includes(absent))).toEqual([false, true, false]);
  });

  describe('on a shelf that begins or ends to rotate', () => {
    const { endMs } = beatPeriod(one.beat, START);
    const economy = (record: RotationRecord) =>
      ({ rotationRecords: new Map([[one.key, record]]) }) as unknown as Economy;
    const shelf = (rotation: Rotation | undefined) => ({ key: one.key, rotation }) as Shelf;

    test('a rotation that is taken away shows its period to the end, then all', () => {
      const stopped = economy(replaced(one, endMs));
      const running = shelfShown(stopped, shelf(undefined), '', endMs - 1);
      const offers = one.pool.filter(({ id }) => isOnShow(running, id)).map(({ id }) => id);
      expect(offers.sort()).toEqual(shownIn(one, period).sort());
      expect(shelfShown(stopped, shelf(undefined), '', endMs)).toEqual({ kind: 'all', untilMs: null });
      const absent = one.pool.find(({ id }) => !offers.includes(id))!.id;
      expect(offerShownNextMs(stopped, shelf(undefined), absent, '', START)).toBe(endMs);
    });

    test('all stays on show until the first period of a new rotation begins', () => {
      const begun = economy({ periods: [], earlier: [{ untilMs: endMs, rule: { kind: 'all' } }] });
      expect(shelfShown(begun, shelf(one), '', endMs - 1)).toEqual({ kind: 'all', untilMs: endMs });
      expect(shelfShown(begun, shelf(one), '', endMs)).toMatchObject({ period: { startMs: endMs } });
    });
  });

  test('offers come and go with their own windows', () => {
    const gone = { fromMs: undefined, untilMs: START, recurrences: [] };
    const ended: Rotation = { ...one, pool: one.pool.map((offer, n) => (n < 4 ? { ...offer, opening: gone } : offer)) };
    for (let n = 1; n < 60; n++) expect(shownIn(ended, period + n).every((id) => Number(id.slice(1)) >= 4)).toBe(true);
    expect(shownIn(ended, period + 5)).toHaveLength(3);
  });
});
