import fc from 'fast-check';
import { MAX_FORMULA_LENGTH, formulaCompile } from './index.js';
import type { Names, Scope, Value } from './index.js';

const names: Names = new Map([
  ['level', 'number'],
  ['day', 'number'],
  ['platform', 'text'],
]);

const scope = (values: Record<string, Value> = {}, owned: Record<string, number> = {}): Scope => ({
  name: (name) => values[name] ?? 0,
  owned: (id) => owned[id] ?? 0,
  balance: () => 12.5,
  bought: () => 2,
});

function value(text: string, values: Record<string, Value> = {}, wants: 'number' | 'truth' | 'text' = 'number'): Value {
  const compiled = formulaCompile(text, names, wants);
  if (!compiled.ok) throw new Error(compiled.problem.message);
  return compiled.formula.run(scope(values, { workbench: 3 }));
}

function problem(text: string, wants: 'number' | 'truth' = 'number') {
  const compiled = formulaCompile(text, names, wants);
  if (compiled.ok) throw new Error(`${text} compiled`);
  return compiled.problem;
}

test.each([
  ['=40 * 1.15 ^ owned(workbench)', 40 * 1.15 ** 3],
  ['=2 + 3 * 4', 14],
  ['=(2 + 3) * 4', 20],
  ['=2 ^ 3 ^ 2', 512],
  ['=10 - 4 - 3', 3],
  ['=7 % 4', 3],
  ['=-2 ^ 2', (-2) ** 2],
  ['=min(3, 1, 2) + max(3, 1, 2)', 4],
  ['=clamp(99, 0, 10)', 10],
  ['=floor(2.7) + ceil(2.2) + round(2.5) + abs(-1)', 9],
  ['=sqrt(16) + ln(exp(2))', 6],
  ['=if(level >= 3, 30, 8)', 30],
  ['=balance(shells) + bought(kit)', 14.5],
  ['=if(platform == "phone", 1, 2)', 1],
])('%s', (text, expected) => {
  expect(value(text, { level: 3, platform: 'phone' })).toBeCloseTo(expected, 10);
});

test.each([
  ['=level >= 3 and day < 10', true],
  ['=not (level == 3)', false],
  ['=level == 4 or day == 0 and level == 3', true],
  ['=platform != "phone"', false],
  ['=true', true],
])('the condition %s', (text, expected) => {
  expect(value(text, { level: 3, platform: 'phone' }, 'truth')).toBe(expected);
});

test.each([
  ['=levle + 1', 2, /unknown name "levle"/],
  ['=1 + unknwon(2)', 6, /unknown function/],
  ['=level +', 9, /breaks off/],
  ['=platform + 1', 2, /needs a number/],
  ['=1 + min()', 6, /takes/],
  ['=owned("workbench")', 2, /takes one id/],
  ['=level.constructor', 2, /cannot be used/],
  ['=level ? 1 : 2', 2, /cannot be used/],
  ['=[1]', 2, /cannot be used/],
  ['=1; 2', 2, /cannot be used/],
  ['=level = 3', 8, /breaks off|cannot be used/],
  ['=if(level, 1, 2)', 2, /truth/],
  ['=if(level > 1, 1, "x")', 2, /one type/],
  ['=constructor', 2, /unknown name/],
  ['=toString()', 2, /unknown function/],
])('%s is refused at character %d', (text, at, message) => {
  const found = problem(text);
  expect(found.message).toMatch(message);
  expect(Math.abs(found.at + 1 - at)).toBeLessThanOrEqual(1);
  expect(found.fix).not.toBe('');
});

test('the position is that of the wrong name, not of the first one', () => {
  expect(problem('=level + day * wavez').at).toBe('=level + day * '.length);
});

test('a condition must give a truth, and an amount a number', () => {
  expect(problem('=level + 1', 'truth').message).toMatch(/gives a number where a truth is needed/);
  expect(problem('=level > 1').message).toMatch(/gives a truth where a number is needed/);
});

test('a comparison with one sign says what to write', () => {
  expect(problem('=level = 3', 'truth').fix).toMatch(/==/);
});

test('what a formula read is listed for the breakdown', () => {
  const compiled = formulaCompile('=level * 2 + owned(workbench)', names, 'number');
  if (!compiled.ok) throw new Error();
  expect(compiled.formula.inputs(scope({ level: 5 }, { workbench: 3 }))).toEqual([
    { name: 'level', value: 5 },
    { name: 'owned(workbench)', value: 3 },
  ]);
  expect(compiled.formula.references).toMatchObject([{ lookup: 'owned', id: 'workbench' }]);
});

test('a formula longer than the limit is refused, also when it nests deeply', () => {
  expect(problem(`=${'('.repeat(MAX_FORMULA_LENGTH)}1`).message).toMatch(/characters/);
  const deep = `=${'('.repeat(200)}1${')'.repeat(200)}`;
  expect(value(deep)).toBe(1);
});

test('no text makes the parser crash or hang', () => {
  const piece = fc.constantFrom(
    'level',
    'day',
    '(',
    ')',
    '+',
    '^',
    'if',
    ',',
    '"',
    "'",
    '1',
    '.',
    '=',
    '>',
    'owned',
    ' and ',
    'not ',
    '[',
    ']',
    '{',
    '}',
    '`',
    '\\',
    'this',
    '@',
    '∞',
  );
  const anything = fc.oneof(
    fc.string(),
    fc.array(piece, { maxLength: 40 }).map((parts) => parts.join('')),
  );
  fc.assert(
    fc.property(anything, (body) => {
      const compiled = formulaCompile(`=${body}`, names, 'number');
      if (compiled.ok) expect(typeof compiled.formula.run(scope())).toBe('number');
      else expect(compiled.problem.at).toBeGreaterThanOrEqual(0);
    }),
    { numRuns: 2000 },
  );
});
