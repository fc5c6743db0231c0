import fc from 'fast-check';
import { basketToCell, cellToBasket, cellToList, cellToNumber, cellToPrice, cellToText, priceToCell } from './cell.js';

const asset = fc.constantFrom('shells', 'pearls', 'glide_wax', 'breeze');
const amount = fc.oneof(
  fc.integer({ min: 0, max: 1e9 }),
  fc.constantFrom(2.5, 0.25),
  fc.constantFrom('=60 * 1.15 ^ owned(wind_chime)', '=if(level >= 3, 10, 20)'),
);
const basket = fc.dictionary(asset, amount, { minKeys: 1, maxKeys: 3 }).map((entries) => ({ ...entries }));

test('what a cell shows is read back the same, formulas and decimals included', () => {
  fc.assert(fc.property(basket, (value) => expect(cellToBasket(basketToCell(value))).toEqual({ ok: true, value })));
  fc.assert(
    fc.property(fc.array(basket, { minLength: 2, maxLength: 3 }), (value) =>
      expect(cellToPrice(priceToCell(value))).toEqual({ ok: true, value }),
    ),
  );
});

test('an empty price falls back to the worth; only the word free gives away', () => {
  expect(cellToPrice('  ')).toEqual({ ok: true, value: undefined });
  expect(cellToPrice('free')).toEqual({ ok: true, value: 'free' });
  expect([priceToCell(undefined), priceToCell('free')]).toEqual(['', 'free']);
  expect(cellToPrice('0')).toMatchObject({ ok: false });
});

test.each([
  '900',
  'shells',
  '900 shells;',
  '900 Shells',
  '-5 shells',
  '9 shells; 9 shells',
  '1,5 shells',
  'nine shells',
  '5 shells | ',
])('"%s" is told as a slip', (text) => {
  const read = cellToPrice(text);
  expect(read.ok).toBe(false);
  if (!read.ok) expect(read.problem).not.toBe('');
});

test('numbers, texts and lists', () => {
  expect([cellToNumber(''), cellToNumber('12'), cellToNumber('1.5')]).toEqual(
    [undefined, 12, 1.5].map((value) => ({ ok: true, value })),
  );
  expect(cellToNumber('many')).toMatchObject({ ok: false });
  expect([cellToText('  Oak Reel '), cellToText(' ')]).toEqual(
    ['Oak Reel', undefined].map((value) => ({ ok: true, value })),
  );
  expect([cellToList('starter,  rare ,'), cellToList('')]).toEqual(
    [['starter', 'rare'], undefined].map((value) => ({ ok: true, value })),
  );
});
