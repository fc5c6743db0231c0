import fc from 'fast-check';
import {
  CELLS,
  basketToCell,
  cellToBasket,
  cellToList,
  cellToNumber,
  cellToPrice,
  cellToText,
  priceToCell,
} from './cell.js';

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

test('a restock at a time of day is not lost in its cell', () => {
  const stock = { units: 40, restock: { amount: 2, every: 'day', at: '09:00' } };
  expect(CELLS.stock.write(stock)).toBe('40, 2 every day at 09:00');
  expect(CELLS.stock.read('40, 2 every day at 09:00')).toEqual({ ok: true, value: stock });
});

test('what a notation cannot say is said in JSON, and read back', () => {
  for (const [cell, value] of [
    [CELLS.list, ['a, b', 'c']],
    [CELLS.limits, {}],
    [CELLS.price, [{ shells: 3 }]],
    [CELLS.text, ' indented '],
    [CELLS.key, { item: 'brass_key', keeps: false }],
  ] as const) {
    expect(cell.read(cell.write(value))).toEqual({ ok: true, value });
  }
  expect(CELLS.text.write('A "quoted" word')).toBe('A "quoted" word');
  expect(CELLS.text.read('"Hi" she said')).toEqual({ ok: true, value: '"Hi" she said' });
});
