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

describe('durations as people say them', () => {
  test.each([
    ['20 min', 'PT20M'],
    ['1 day', 'P1D'],
    ['7 days', 'P7D'],
    ['1 week', 'P1W'],
    ['90min', 'PT90M'],
    ['1 day 12 h', 'P1DT12H'],
    ['2 hours and 30 minutes', 'PT2H30M'],
    ['PT6H', 'PT6H'],
  ])('%s is kept as %s', (said, kept) => {
    expect(CELLS.duration.read(said)).toEqual({ ok: true, value: kept });
    expect(CELLS.duration.read(CELLS.duration.write(kept))).toEqual({ ok: true, value: kept });
  });

  test.each(['soon', '20', '3 moons', '1 day 2 days', '-3 h', '1.5 h'])('%s is told to be none', (said) => {
    expect(CELLS.duration.read(said)).toMatchObject({
      ok: false,
      problem: expect.stringContaining('20 min') as string,
    });
  });

  test('whatever is kept is said and read back the same', () => {
    const count = fc.option(fc.integer({ min: 0, max: 9999 }), { nil: undefined });
    const iso = fc.tuple(count, count, count, count, count).map(([w, d, h, m, s]) => {
      const part = (n: number | undefined, letter: string) => (n === undefined ? '' : `${n}${letter}`);
      const time = part(h, 'H') + part(m, 'M') + part(s, 'S');
      return `P${part(w, 'W')}${part(d, 'D')}${time === '' ? '' : `T${time}`}`;
    });
    fc.assert(
      fc.property(iso, (value) => {
        fc.pre(value !== 'P');
        expect(CELLS.duration.read(CELLS.duration.write(value))).toEqual({ ok: true, value });
      }),
    );
  });

  test('in limits and stock too, calendar words beside them', () => {
    expect(CELLS.limits.write({ lifetime: 1, P3D: 2 })).toBe('1 per lifetime; 2 per 3 days');
    expect(CELLS.limits.read('1 per lifetime; 2 per 3 days')).toEqual({ ok: true, value: { lifetime: 1, P3D: 2 } });
    const stock = { units: 40, scope: 'shared', restock: { amount: 2, every: 'PT12H' } };
    expect(CELLS.stock.write(stock)).toBe('40 shared, 2 every 12 h');
    expect(CELLS.stock.read('40 shared, 2 every 12 h')).toEqual({ ok: true, value: stock });
    expect(CELLS.stock.read('40, 2 every day at 09:00')).toEqual({
      ok: true,
      value: { units: 40, restock: { amount: 2, every: 'day', at: '09:00' } },
    });
    expect(CELLS.every.read('day')).toEqual({ ok: true, value: 'day' });
  });
});

test.each([
  [3, '3'],
  [-1.5, '-1.5'],
  ['phone', 'phone'],
  ['=level + 1', '=level + 1'],
  [{ from: 2, to: 4 }, '2-4'],
  [{ weights: { phone: 3, desktop: 1 } }, 'phone: 3, desktop: 1'],
  [{ poisson: 3 }, 'poisson 3'],
  [{ lognormal: [-1, 0.5] }, 'lognormal -1 0.5'],
  [{ geometric: 0.2 }, 'geometric 0.2'],
])('a draw %j reads %s', (value, said) => {
  expect(CELLS.draw.write(value)).toBe(said);
  expect(CELLS.draw.read(said)).toEqual({ ok: true, value });
});

test('a draw without its figures, or a weight that is none, is told', () => {
  expect(CELLS.draw.read('poisson')).toMatchObject({
    ok: false,
    problem: expect.stringContaining('such as poisson 3') as string,
  });
  expect(CELLS.draw.read('geometric')).toMatchObject({
    problem: expect.stringContaining('such as geometric 0.2') as string,
  });
  expect(CELLS.draw.read('phone: many')).toMatchObject({ ok: false });
});

test.each([
  [3, '3'],
  [true, 'true'],
  ['phone', 'phone'],
  ['3', '"3"'],
  [{ a: [1] }, '{"a":[1]}'],
])('a value %j reads %s', (value, said) => {
  expect(CELLS.value.write(value)).toBe(said);
  expect(CELLS.value.read(said)).toEqual({ ok: true, value });
});

test.each([
  [CELLS.bound, '350', 350],
  [CELLS.bound, '300-400', { from: 300, to: 400 }],
  [CELLS.bound, '2.5 or more', { from: 2.5 }],
  [CELLS.bound, '400 or less', { to: 400 }],
  [CELLS.verdict, 'allowed', 'allowed'],
  [CELLS.verdict, 'refused for short-of and carry-full', ['short-of', 'carry-full']],
  [CELLS.pairs, 'level=3, pilot=true, platform=phone', { level: 3, pilot: true, platform: 'phone' }],
])('%# %s', (cell, text, value) => {
  expect([cell.read(text), cell.write(value)]).toEqual([{ ok: true, value }, text]);
});

test.each([
  [CELLS.bound, '-', 'a number or a range'],
  [CELLS.bound, '3 or so', 'a number or a range'],
  [CELLS.verdict, 'refused: 3', 'allowed, or the codes'],
  [CELLS.pairs, 'level 3', 'a name and its value'],
])('what is none says what it should be: %# %s', (cell, text, problem) => {
  expect(cell.read(text)).toMatchObject({ ok: false, problem: expect.stringContaining(problem) as string });
});

test('codes are read with commas, spaces or words between them', () => {
  for (const text of ['short-of, carry-full', 'short-of carry-full', 'Refused for short-of and carry-full'])
    expect(CELLS.verdict.read(text)).toEqual({ ok: true, value: ['short-of', 'carry-full'] });
});
