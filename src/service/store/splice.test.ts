import fc from 'fast-check';
import { spliceApply, spliceBetween } from './splice.js';

// Few characters, so that texts have much in common; one of them has two units.
const text = fc.string({ unit: fc.constantFrom('a', 'b', '🪁', '🪂'), maxLength: 12 });

test('a splice makes the one text of the other, and keeps whole characters', () => {
  fc.assert(
    fc.property(text, text, (before, after) => {
      const splice = spliceBetween(before, after);
      expect(spliceApply(before, splice)).toBe(after);
      // Storage writes UTF-8, in which half a character is lost.
      expect(Buffer.from(splice.inserted).toString()).toBe(splice.inserted);
    }),
    { numRuns: 3000 },
  );
});

test.each([
  ['{"a":1,"b":2}', '{"a":1,"b":3}', { at: 11, removed: 1, inserted: '3' }],
  ['same', 'same', { at: 4, removed: 0, inserted: '' }],
  ['aa', 'aaa', { at: 2, removed: 0, inserted: 'a' }],
  ['', 'all', { at: 0, removed: 0, inserted: 'all' }],
  ['kite 🪁', 'kite 🪂', { at: 5, removed: 2, inserted: '🪂' }],
])('%s to %s', (before, after, splice) => {
  expect(spliceBetween(before, after)).toEqual(splice);
});
