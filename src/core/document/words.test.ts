/** Every field that a designer can meet has a name for people and a line of help, every choice its words. */
import { blockOf, fieldsOf, marksOf } from '../schema/index.js';
import type { AnySchema, Shape } from '../schema/index.js';
import { economySchema } from './schema.js';

interface Field {
  path: string;
  label: string | undefined;
  help: string | undefined;
  choices: readonly string[];
  worded: readonly string[];
}

function fieldsBelow(shape: Shape<unknown>, path: string): Field[] {
  const block = blockOf(shape);
  switch (block.kind) {
    case 'fields':
      return Object.entries(fieldsOf(shape)).flatMap(([name, field]) => {
        const { label, about, options } = marksOf(field);
        const { json } = blockOf(field) as { json?: { enum?: string[] } };
        const one = { label, help: about, choices: json?.enum ?? [], worded: Object.keys(options ?? {}) };
        return [{ path: `${path}/${name}`, ...one }, ...fieldsBelow(field as AnySchema, `${path}/${name}`)];
      });
    case 'map':
    case 'list':
      return fieldsBelow(block.inner, `${path}/*`);
    // Alternatives of one field are written in one place: what they are made of is told there.
    case 'either':
    case 'value':
      return [];
  }
}
const fields = fieldsBelow(economySchema, '');

test('all of them', () => {
  expect(fields.length).toBeGreaterThan(130);
  expect(fields.filter(({ label, help }) => !label || !/^[A-Z].*\.$/.test(help ?? '')).map(({ path }) => path)).toEqual(
    [],
  );
});

test('no label is a key of the file format, and no two in a group are the same', () => {
  const keys = fields.filter(({ path, label }) => label === path.split('/').at(-1) || /[a-z][A-Z]/.test(label ?? ''));
  expect(keys).toEqual([]);
  const inGroups = fields.map(({ path, label }) => `${path.slice(0, path.lastIndexOf('/'))}: ${label}`);
  expect(inGroups.filter((one, index) => inGroups.indexOf(one) !== index)).toEqual([]);
});

test('every option of a choice', () => {
  const choices = fields.filter(({ choices: all }) => all.length > 0);
  expect(choices.length).toBeGreaterThan(5);
  for (const { path, choices: all, worded } of choices) expect([path, worded]).toEqual([path, all]);
});
