import { Lives, meanWithInterval, percentile, survivalEstimate } from './index.js';
import { gini, meanOfSums, shareInterval } from './statistics.js';

test('percentiles lie between the ranks', () => {
  expect([5, 25, 50, 75, 95].map((p) => percentile([10, 20, 30, 40, 50], p))).toEqual([12, 20, 30, 40, 48]);
  expect(percentile([7], 95)).toBe(7);
  expect(percentile([], 50)).toBeNull();
});

test('a mean has its interval; a single value has none to speak of', () => {
  const { mean, low, high } = meanWithInterval([1, 2, 3, 4, 5]);
  expect(mean).toBe(3);
  // By the table of Student's distribution 2.776 x 0.707 to either side: 1.037 and 4.963.
  expect([low, high].map((bound) => bound!.toFixed(3))).toEqual(['1.042', '4.958']);
  expect(meanWithInterval([4])).toEqual({ mean: 4, low: null, high: null, n: 1 });
});

/** Lives by when something happened in them, or up to when it did not. */
function livesOf(days: number, seen: readonly { time: number; happened: boolean }[]): Lives {
  const lives = new Lives(days);
  for (const { time, happened } of seen) lives.add(happened ? time : null, time);
  return lives;
}

/** Kaplan & Meier's own kind of example: lives of 10, worked by hand with the product-limit formula. */
test('players who leave early are not counted as never', () => {
  const observed = [
    [1, true],
    [2, true],
    [2, false],
    [3, true],
    [4, false],
    [5, true],
    [5, true],
    [6, false],
    [8, true],
    [9, false],
  ] as const;
  const { share, median, happened, n } = survivalEstimate(
    livesOf(
      10,
      observed.map(([time, did]) => ({ time, happened: did })),
    ),
  );
  const alive = [1, 9 / 10, (9 / 10) * (8 / 9), (9 / 10) * (8 / 9) * (6 / 7), (9 / 10) * (8 / 9) * (6 / 7)];
  alive.push(
    alive[4]! * (3 / 5),
    alive[4]! * (3 / 5),
    alive[4]! * (3 / 5),
    alive[4]! * (3 / 5) * (1 / 2),
    alive[4]! * (3 / 5) * (1 / 2),
  );
  expect(share.map((value) => value.toFixed(9))).toEqual(alive.map((value) => (1 - value).toFixed(9)));
  expect([median, happened, n]).toEqual([5, 6, 10]);
});

test('a curve that does not reach half has no median, only a lower bound', () => {
  const { median, high } = survivalEstimate(
    livesOf(30, [
      ...Array.from({ length: 3 }, () => ({ time: 2, happened: true })),
      ...Array.from({ length: 9 }, () => ({ time: 29, happened: false })),
    ]),
  );
  expect([median, high]).toEqual([null, null]);
});

test('when it happens to all on one day, that is the median and its interval', () => {
  expect(
    survivalEstimate(
      livesOf(
        10,
        Array.from({ length: 20 }, () => ({ time: 4, happened: true })),
      ),
    ),
  ).toMatchObject({ median: 4, low: 4, high: 4, happened: 20 });
});

test('nobody to observe gives an empty answer, not a number', () => {
  const none = { mean: null, low: null, high: null, n: 0 };
  expect(survivalEstimate(livesOf(3, []))).toEqual({
    share: [0, 0, 0],
    shareLow: [0, 0, 0],
    shareHigh: [0, 0, 0],
    median: null,
    low: null,
    high: null,
    mean: none,
    happened: 0,
    n: 0,
  });
  expect([gini([]), gini([0, 0]), shareInterval(0, 0), meanOfSums(0, 0, 0)]).toEqual([
    none,
    { ...none, n: 2 },
    none,
    none,
  ]);
});

test('Gini is 0 where all hold the same and (n - 1) / n where one holds all', () => {
  expect(gini([5, 5, 5, 5])).toMatchObject({ mean: 0, low: 0, high: 0 });
  expect(gini([0, 0, 0, 12]).mean).toBeCloseTo(0.75, 12);
  // By its definition: the mean absolute difference of pairs, over twice the mean.
  const values = [1, 2, 2, 7, 9, 30];
  const mean = values.reduce((sum, value) => sum + value, 0) / values.length;
  const apart = values.flatMap((a) => values.map((b) => Math.abs(a - b))).reduce((sum, value) => sum + value, 0);
  const { mean: found, low, high } = gini(values);
  expect(found).toBeCloseTo(apart / values.length ** 2 / (2 * mean), 12);
  expect([low! < found!, found! < high!]).toEqual([true, true]);
});

test('sums of values and squares give the same mean and interval as the values', () => {
  const values = [3, 8, 8, 1, 0, 12];
  const whole = meanWithInterval(values);
  const sums = meanOfSums(
    6,
    32,
    values.reduce((sum, value) => sum + value ** 2, 0),
  );
  for (const key of ['mean', 'low', 'high'] as const) expect(sums[key]).toBeCloseTo(whole[key]!, 12);
});

test("Wilson's interval of a share stays within 0 and 1", () => {
  // Newcombe 1998, table I: 81 of 263 and 0 of 20.
  const { low, high } = shareInterval(81, 263);
  expect([low!.toFixed(4), high!.toFixed(4)]).toEqual(['0.2553', '0.3662']);
  const none = shareInterval(0, 20);
  expect([none.low, none.high!.toFixed(4)]).toEqual([0, '0.1611']);
});

test('the mean of waiting counts whoever does not get there with all days, and equals the plain mean where all do', () => {
  const at = (time: number) => ({ time, happened: true });
  expect(survivalEstimate(livesOf(10, [at(0), at(2), at(2), at(4)])).mean.mean).toBe(2);
  expect(survivalEstimate(livesOf(4, [at(0), { time: 3, happened: false }])).mean.mean).toBe(2);
  // One leaves on day 1, before anything happened to it: the two that are left stand for it.
  expect(survivalEstimate(livesOf(6, [{ time: 1, happened: false }, at(2), at(4)])).mean.mean).toBeCloseTo(3, 12);
});
