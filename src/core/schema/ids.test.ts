import fc from 'fast-check';
import { idFor, isId } from './ids.js';

test.each([
  ['Crème Sail', 'creme_sail'],
  ['3 Pennants!', 'pennants'],
  ['Æther', 'ther'],
  ['constructor', 'item_1'],
  ['شراع أزرق', 'item_1'],
  ['🪁', 'item_1'],
  ['  ', ''],
])('the name "%s" makes the id "%s"', (name, id) => {
  expect(idFor(name, 'item')).toBe(id);
});

test('a name without letters for an id takes the first number that is free', () => {
  const taken = ['loot_table_1', 'loot_table_2'];
  expect(idFor('صندوق', 'loot table', (id) => taken.includes(id))).toBe('loot_table_3');
});

test('whatever a thing is called, its id is one', () => {
  fc.assert(
    fc.property(fc.string({ unit: 'grapheme', maxLength: 200 }), (name) => {
      const id = idFor(name, 'item');
      expect(id === '' ? name.trim() === '' : isId(id)).toBe(true);
    }),
  );
});
