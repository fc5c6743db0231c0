import { meanWithInterval, percentile, survivalEstimate } from './index.js';

test('percentiles lie between the ranks', () => {
  expect([5, 25, 50, 75, 95].map((p) => percentile([10, 20, 30, 40, 50], p))).toEqual([12, 20, 30, 40, 48]);
  expect(percentile([7], 95)).toBe(7);
  expect(percentile([], 50)).toBeNull();
});

test('a mean has its interval; a single value has none to speak of', () => {
  const { mean, low, high } = meanWithInterval([1, 2, 3, 4, 5]);
  expect(mean).toBe(3);
  expect([low, high].map((bound) => bound!.toFixed(3))).toEqual(['1.614', '4.386']);
  expect(meanWithInterval([4])).toEqual({ mean: 4, low: null, high: null, n: 1 });
});

/** Kaplan & Meier's own kind of example: lives of 10, worked by hand with the product-limit formula. */
test('players who leave early are not counted as never', () => {
  const lives = [
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
    lives.map(([time, did]) => ({ time, happened: did })),
    10,
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
    [
      ...Array.from({ length: 3 }, () => ({ time: 2, happened: true })),
      ...Array.from({ length: 9 }, () => ({ time: 29, happened: false })),
    ],
    30,
  );
  expect([median, high]).toEqual([null, null]);
});

test('when it happens to all on one day, that is the median and its interval', () => {
  expect(
    survivalEstimate(
      Array.from({ length: 20 }, () => ({ time: 4, happened: true })),
      10,
    ),
  ).toMatchObject({ median: 4, low: 4, high: 4, happened: 20 });
});

test('nobody to observe gives an empty answer, not a number', () => {
  expect(survivalEstimate([], 3)).toEqual({ share: [0, 0, 0], median: null, low: null, high: null, happened: 0, n: 0 });
});
