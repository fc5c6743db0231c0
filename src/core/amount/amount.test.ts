import fc from 'fast-check';
import {
  MAX_UNITS,
  basketAdd,
  basketEquals,
  basketHolds,
  basketTimes,
  unitsFormat,
  unitsParse,
  unitsPreferred,
  unitsRound,
} from './index.js';

const amounts = fc.integer({ min: 0, max: MAX_UNITS });
const decimals = fc.integer({ min: 0, max: 4 });

test('what is formatted is read back to the unit', () => {
  fc.assert(
    fc.property(amounts, decimals, (units, places) => {
      expect(unitsParse(unitsFormat(units, places), places)).toEqual({ ok: true, units });
    }),
  );
});

test.each([
  ['2.50', 2, 250],
  [2.5, 2, 250],
  ['0.1', 1, 1],
  [0.29, 2, 29],
  ['007', 0, 7],
  ['1.500', 1, 15],
  [MAX_UNITS, 0, MAX_UNITS],
])('%s with %d decimals is %d units', (written, places, units) => {
  expect(unitsParse(written, places)).toEqual({ ok: true, units });
});

test.each([
  ['-1', 0, /below zero/],
  ['2.505', 2, /3 decimals/],
  ['1.5', 0, /decimals/],
  ['12 shells', 0, /not an amount/],
  ['', 0, /not an amount/],
  ['9007199254740992', 0, /ceiling/],
  [2 ** 53, 0, /ceiling/],
  ['90071992547409.92', 2, /ceiling/],
  [1e300, 0, /ceiling/],
  [1e-7, 2, /decimals/],
  ['1e3', 0, /not an amount/],
  ['١٢', 0, /not an amount/],
])('%s with %d decimals is refused', (written, places, message) => {
  const parsed = unitsParse(written, places);
  expect(parsed.ok).toBe(false);
  if (!parsed.ok) {
    expect(parsed.message).toMatch(message);
    expect(parsed.fix).not.toBe('');
  }
});

test("formula results become units by the currency's rounding", () => {
  expect(unitsRound(10.9, 0, 'down')).toBe(10);
  expect(unitsRound(10.1, 0, 'up')).toBe(11);
  expect(unitsRound(10.5, 0, 'nearest')).toBe(11);
  expect(unitsRound(2.349, 2, 'down')).toBe(234);
  // 40 x 1.15 is 46 in decimal; in binary it falls a hair short, and must not lose a unit for it.
  expect(unitsRound(40 * 1.15, 0, 'down')).toBe(46);
  expect(unitsRound(1.1 * 3, 1, 'up')).toBe(33);
});

test.each([NaN, Infinity, -0.01, 2 ** 53])('%d is no amount', (value) => {
  expect(unitsRound(value, 0, 'nearest')).toBeUndefined();
});

test('sums and products past the ceiling are refused, never wrapped', () => {
  const basket = { shells: MAX_UNITS - 1 };
  expect(basketAdd(basket, 'shells', 1)).toBe(true);
  expect(basketAdd(basket, 'shells', 1)).toBe(false);
  expect(basket).toEqual({ shells: MAX_UNITS });
  expect(basketTimes({ shells: MAX_UNITS }, 2)).toBeUndefined();
  expect(basketTimes({ shells: 3, wax: 2 }, 4)).toEqual({ shells: 12, wax: 8 });
});

test('a basket holds another with at least as much of everything, whatever zeros are written', () => {
  expect(basketHolds({ shells: 3 }, { shells: 3, wax: 0 })).toBe(true);
  expect(basketHolds({ shells: 4, wax: 1 }, { shells: 3 })).toBe(true);
  expect(basketHolds({ shells: 3 }, { shells: 3, wax: 1 })).toBe(false);
  expect(basketHolds({ shells: 3 }, { shells: 4 })).toBe(false);
  expect(basketEquals({ shells: 3, wax: 0 }, { shells: 3 })).toBe(true);
  expect(basketEquals({ shells: 3, wax: 1 }, { shells: 3 })).toBe(false);
});

test('preferred numbers have few digits, are near, and never fall back to the one before', () => {
  const growth = Array.from({ length: 12 }, (_, place) => unitsPreferred(100 * 1.4 ** place));
  expect(growth).toEqual([100, 140, 200, 270, 400, 550, 750, 1100, 1500, 2000, 3000, 4000]);
  expect([0.2, 1, 3.4, 13, 15.2, 104].map((amount) => unitsPreferred(amount))).toEqual([1, 1, 3, 13, 15, 100]);
  expect(unitsPreferred(1040, 0, 0.01)).toBe(1050);
  expect(unitsPreferred(101, 100)).toBe(105);
  expect(unitsPreferred(2, 2)).toBe(3);
  fc.assert(
    fc.property(fc.integer({ min: 1, max: 1e9 }), fc.integer({ min: 0, max: 1e9 }), (amount, above) => {
      const preferred = unitsPreferred(amount, above);
      expect(Number.isSafeInteger(preferred) && preferred > above).toBe(true);
      if (amount > above) expect(Math.abs(preferred - amount)).toBeLessThanOrEqual(Math.max(1, 0.05 * amount));
    }),
  );
});
