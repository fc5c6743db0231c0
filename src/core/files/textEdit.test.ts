/** One change is one line of a file: what a version control shows is what was changed. */
import fc from 'fast-check';
import { parse } from 'yaml';
import { demoDocument, demoFiles } from '../../../tests/support/economy.js';
import type { EconomyDocument } from '../document/index.js';
import { folderRead, folderWrite } from './index.js';
import { textBrought } from './textEdit.js';

const CASES: Record<string, [before: string, wanted: unknown, after: string]> = {
  'a number on its line': ['a: {x: 1,  y: 2} # two\n', { a: { x: 5, y: 2 } }, 'a: {x: 5,  y: 2} # two\n'],
  'a text keeps its quotes': [`a: 'one'\nb: "two"\n`, { a: 'un', b: 'deux' }, `a: 'un'\nb: "deux"\n`],
  'a text that needs quotes gets them': ['a: { x: one }\n', { a: { x: 'a, b: c' } }, 'a: { x: "a, b: c" }\n'],
  'a formula with a comment': ['a: =level # steep\n', { a: '=2 * level' }, 'a: =2 * level # steep\n'],
  'what had nothing': ['a:\nb: 1\n', { a: 3, b: 1 }, 'a: 3\nb: 1\n'],
  'one more on the line': ['a: { x: 1 }\n', { a: { x: 1, y: [2, { z: 3 }] } }, 'a: { x: 1, y: [2, { z: 3 }] }\n'],
  'the first on the line': ['a: {}\n', { a: { x: 1 } }, 'a: { x: 1 }\n'],
  'things come where there were none, a line for each': [
    'shelf:\n  offers: {} # soon\n  name: S\n',
    { shelf: { offers: { wax: { price: { shells: 3 } }, kite: {} }, name: 'S' } },
    'shelf:\n  offers: # soon\n    wax: { price: { shells: 3 } }\n    kite: {}\n  name: S\n',
  ],
  'things at the end of a file that stops short': ['a: {}', { a: { x: { y: 1 } } }, 'a:\n  x: { y: 1 }\n'],
  'things within one line stay on it': ['a: { b: {} }\n', { a: { b: { x: { y: 1 } } } }, 'a: { b: { x: { y: 1 } } }\n'],
  'one more beside what has a line each': [
    'a:\n  x: { y: 1 }\n  z: { y: 2 }\n',
    { a: { x: { y: 1 }, w: { y: 3 }, z: { y: 2 } } },
    'a:\n  x: { y: 1 }\n  w: { y: 3 }\n  z: { y: 2 }\n',
  ],
  'one less, in front': ['a: { x: 1, y: 2, z: 3 }\n', { a: { y: 2, z: 3 } }, 'a: { y: 2, z: 3 }\n'],
  'two less, at the end': ['a: { x: 1, y: 2, z: 3 }\n', { a: { x: 1 } }, 'a: { x: 1 }\n'],
  'one for another': ['a: { x: 1, y: 2 }\n', { a: { x: 1, z: 2 } }, 'a: { x: 1, z: 2 }\n'],
  'none on the line': ['a: { x: 1 }\n', { a: {} }, 'a: {}\n'],
  'a list': ['a:\n  - 1\n  - 2\n# b\nb: 1\n', { a: [1], b: 1 }, 'a: [1]\n# b\nb: 1\n'],
  'a list on its line': ['a: { t: [one] } # x\n', { a: { t: ['one', 'two'] } }, 'a: { t: [one, two] } # x\n'],
  'an entry': [
    'a:\n  # first\n  x: 1\n\n# then\nb: 2\n',
    { a: { x: 1, y: { z: 2 } }, b: 2 },
    'a:\n  # first\n  x: 1\n  y:\n    z: 2\n\n# then\nb: 2\n',
  ],
  'an entry between others': ['a:\n  x: 1\n  z: 3\n', { a: { x: 1, y: 2, z: 3 } }, 'a:\n  x: 1\n  y: 2\n  z: 3\n'],
  'an entry before all': ['a:\n    z: 3', { a: { x: 1, z: 3 } }, 'a:\n    x: 1\n    z: 3'],
  'an entry at the end of a file that stops short': ['a:\n  x: 1', { a: { x: 1, y: 2 } }, 'a:\n  x: 1\n  y: 2\n'],
  'an entry goes, what is said of all stays': [
    'a:\n  # all\n  x: { p: 1,\n    q: 2 }\n  y: 2\n',
    { a: { y: 2 } },
    'a:\n  # all\n  y: 2\n',
  ],
  'an entry goes before others, with what it says': [
    'a:\n  # all\n  x: 1\n  # of y\n  y: 2\n  z: 3\n',
    { a: { z: 3, y: 2, x: 4 } },
    'a:\n  # all\n  z: 3\n  # of y\n  y: 2\n  x: 4\n',
  ],
  'order on a line': ['a: { x: 1,  y: 2 }\n', { a: { y: 2, x: 1 } }, 'a: { y: 2,  x: 1 }\n'],
  'the ends of lines and the mark of bytes': [
    '\uFEFFa:\r\n  x: 1\r\nb: 2\r\n',
    { a: { x: 3, y: { z: 1 } }, b: 2 },
    '\uFEFFa:\r\n  x: 3\r\n  y:\r\n    z: 1\r\nb: 2\r\n',
  ],
  'a text on lines of its own': [
    'a:\n  x: |\n      one\n      # two\n\n        three\n  # y\n  y: 1\n',
    { a: { x: 'one\n# 2\n\n  three\n', y: 1 } },
    'a:\n  x: |\n      one\n      # 2\n\n        three\n  # y\n  y: 1\n',
  ],
  'a text on lines of its own that has one now, without its last end': [
    'a: |-\r\n  one\r\n  two\r\nb: 1\r\n',
    { a: 'one', b: 1 },
    'a: one\r\nb: 1\r\n',
  ],
  'a folded text stays folded': [
    'a: >-\n    one\n    two\n\n    three\nb: 1\n',
    { a: 'one two\n3', b: 1 },
    'a: >-\n    one two\n\n    3\nb: 1\n',
  ],
  'what is repeated by alias stays so': [
    'a: &a { x: 1 }\nb: *a\nc: 1\n',
    { a: { x: 1 }, b: { x: 1 }, c: 2 },
    'a: &a { x: 1 }\nb: *a\nc: 2\n',
  ],
};

test.each(Object.entries(CASES))('%s', (_, [before, wanted, after]) => {
  expect(textBrought(before, wanted)).toBe(after);
});

test('JSON stays JSON', () => {
  const before = JSON.stringify({ a: { x: 1 }, b: ['c'] }, null, 2);
  const wanted = { a: { x: 2, y: { 'z z': "it's" } }, b: ['c', 'd'] };
  const after = textBrought(before, wanted, true)!;
  expect(JSON.parse(after)).toEqual(wanted);
  expect(after.split('\n')[1]).toBe('  "a": {');
});

test('what edits cannot do is said to be so', () => {
  expect(textBrought('a: &a { x: 1 }\nb: *a\n', { a: { x: 1 }, b: { x: 2 } })).toBeUndefined();
  expect(textBrought('a:\n  x: 1\n', { a: {} })).toBeUndefined();
  // A comment would be lost.
  expect(textBrought('a:\n  - 1\n  # two\n  - 2\n', { a: [1] })).toBeUndefined();
  expect(textBrought('a: [1, # one\n  2]\n', { a: [1] })).toBeUndefined();
});

test('prices of the demo that are changed are the only lines that are', () => {
  const ids = Object.keys(demoDocument().items!).filter((id) => demoDocument().items![id]!.worth?.['shells']);
  fc.assert(
    fc.property(fc.uniqueArray(fc.constantFrom(...ids), { minLength: 1, maxLength: 8 }), (changed) => {
      const document = demoDocument();
      for (const id of changed) (document.items![id]!.worth as Record<string, number>)['shells']! += 1;
      const before = demoFiles();
      const after = folderWrite(before, document);
      const lines = after.flatMap(({ text }, place) => {
        const old = before[place]!.text.split('\n');
        return text.split('\n').filter((line, number) => line !== old[number]);
      });
      expect(lines).toHaveLength(changed.length);
      expect(folderRead(after).raw).toEqual(JSON.parse(JSON.stringify(document)));
    }),
    { numRuns: 4 },
  );
});

test('any change comes to its content, by edits or anew', () => {
  const group = fc.letrec((tie) => ({
    value: fc.oneof(
      { depthSize: 'small' },
      fc.oneof(
        fc.integer(),
        fc.boolean(),
        fc.constantFrom('', 'x', '=a, b: [c]', 'two\nlines', '#no', ' y ', '1', 'null'),
      ),
      fc.array(tie('value'), { maxLength: 3 }),
      fc.dictionary(fc.constantFrom('a', 'b', 'c', 'd e', '1'), tie('value'), { maxKeys: 4 }),
    ),
  }));
  const content = fc.dictionary(fc.constantFrom('p', 'q', 'r', 's'), group.value, { minKeys: 1, maxKeys: 4 });
  let edited = 0;
  fc.assert(
    fc.property(content, content, (before, wanted) => {
      const { text } = folderWrite([], before as unknown as EconomyDocument)[0]!;
      const after = textBrought(text, wanted);
      if (after !== undefined) {
        expect(JSON.stringify(parse(after))).toBe(JSON.stringify(wanted));
        edited++;
      }
    }),
    { numRuns: 300 },
  );
  expect(edited).toBeGreaterThan(150);
});
