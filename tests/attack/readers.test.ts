/** What people write, in whatever state: every reader gives a value or says what is wrong, and is done soon. */
import fc from 'fast-check';
import { csvRead } from '../../src/core/catalog/index.js';
import { economyLoad } from '../../src/core/economy/index.js';
import { folderRead } from '../../src/core/files/index.js';
import { formulaCompile } from '../../src/core/formula/index.js';
import {
  recurrenceComes,
  recurrenceMake,
  recurrenceProblem,
  recurrenceWindows,
} from '../../src/core/schedule/index.js';
import { demoDocument } from '../support/economy.js';

/** Pieces of a grammar in any order and number, with something foreign among them. */
const of = (pieces: readonly string[], most: number): fc.Arbitrary<string> =>
  fc
    .array(
      fc.oneof(
        { weight: 9, arbitrary: fc.constantFrom(...pieces) },
        { weight: 1, arbitrary: fc.string({ unit: 'binary', maxLength: 4 }) },
      ),
      {
        maxLength: most,
      },
    )
    .map((all) => all.join(''));

const YAML = [
  'items:',
  'shops:',
  ' ',
  '  ',
  '\n',
  '\n  ',
  '- ',
  ': ',
  '{',
  '}',
  '[',
  ']',
  '&a ',
  '*a',
  '!!js ',
  '"',
  "'",
  '|\n',
  '>\n',
  '#',
  '<<: ',
  '? ',
  '---\n',
  '1e999',
  '__proto__: ',
  'x: 1',
  'é',
];
const CSV = [
  'id',
  'name',
  'kind',
  ',',
  ';',
  '\t',
  '"',
  '""',
  '\n',
  '\r\n',
  '=1+1',
  'kite_a',
  '-5',
  '1,5',
  '\ufeff',
  '|',
  'x'.repeat(300),
];
const FORMULA = [
  '=',
  '(',
  ')',
  '+',
  '-',
  '*',
  '/',
  '^',
  '!',
  '<',
  '>=',
  '==',
  '&&',
  '||',
  '?',
  ':',
  ',',
  'level',
  'owned',
  'max',
  'wax',
  '1',
  '0',
  '1e308',
  '"text"',
  '.',
  '[',
  ']',
  ' ',
  'constructor',
  '__proto__',
  'this',
];
const RULE = [
  'FREQ=DAILY',
  'FREQ=WEEKLY',
  'FREQ=MONTHLY',
  'FREQ=YEARLY',
  ';',
  'INTERVAL=',
  'COUNT=',
  'UNTIL=20270703',
  'BYDAY=MO,FR',
  'BYDAY=-1SU',
  'BYMONTH=2',
  'BYMONTHDAY=29',
  'BYMONTHDAY=-1',
  'BYSETPOS=',
  'BYHOUR=0,6,12',
  'BYMINUTE=15',
  '1',
  '9',
  '999',
  '-',
];

test('economy files', () => {
  fc.assert(
    fc.property(of(YAML, 60), of(YAML, 60), (one, two) => {
      const files = [
        { path: 'a.yaml', text: one },
        { path: 'b.json', text: two },
      ];
      const { issues, placeOf } = folderRead(files);
      for (const { message, fix } of issues) expect([message, fix]).not.toContain('');
      placeOf('/items/a/worth');
      economyLoad(files);
    }),
    { numRuns: 400 },
  );
});

test('sheets', () => {
  const document = demoDocument();
  fc.assert(
    fc.property(of(CSV, 80), fc.constantFrom('items', 'offers', 'loot', 'currencies' as const), (text, sheet) => {
      const read = csvRead(document, sheet as 'items', `id,name,kind\n${text}`);
      if (!read.ok) for (const { message } of read.problems) expect(message).not.toBe('');
    }),
    { numRuns: 400 },
  );
});

test('formulas', () => {
  fc.assert(
    fc.property(of(FORMULA, 40), (text) => {
      const parsed = formulaCompile(text, new Map([['level', 'number']]), 'number');
      if (!parsed.ok) expect([parsed.problem.message, parsed.problem.fix]).not.toContain('');
    }),
    { numRuns: 3000 },
  );
});

test('recurrences', () => {
  const start = Date.UTC(2027, 2, 1);
  fc.assert(
    fc.property(of(RULE, 9), fc.integer({ min: 0, max: 229 }), (rule, years) => {
      if (recurrenceProblem(rule) !== undefined) return;
      const recurrence = recurrenceMake('Europe/Lisbon', Date.UTC(1970 + years, 0, 31, 9), rule, 'PT1H');
      recurrenceComes(recurrence);
      const windows = recurrenceWindows(recurrence, start, start + 30 * 86_400_000);
      expect(windows.length).toBeLessThanOrEqual(24 * 33);
    }),
    { numRuns: 1500 },
  );
});
