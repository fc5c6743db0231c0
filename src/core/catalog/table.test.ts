import { demoDocument, documentOf } from '../../../tests/support/economy.js';
import { economyJsonSchema } from '../document/index.js';
import { SHEETS, csvRead } from './index.js';
import type { JsonNode, SheetName } from './index.js';
import { hasDecimalComma, matchesGuess, tableRead, tableToSheet } from './table.js';
import type { Match, Table } from './table.js';

const schema = economyJsonSchema() as JsonNode;
const demo = demoDocument();

function tableOf(text: string): Table {
  const read = tableRead(text);
  if (!read.ok) throw new Error(read.problem.message);
  return read.table;
}

/** What a table adds to the demo, with its columns as guessed but for those given. */
function brought(
  name: SheetName,
  text: string,
  by: Record<number, Match> = {},
  otherwise: Record<string, string> = {},
  document = demo,
) {
  const table = tableOf(text);
  const sheet = SHEETS[name];
  const matches = matchesGuess(schema, sheet, document, table.head).map((guess, index) => by[index] ?? guess);
  const decimalComma = hasDecimalComma(table);
  const { csv } = tableToSheet({ sheet, schema, document, table, matches, decimalComma, otherwise });
  const read = csvRead(document, name, csv);
  if (!read.ok)
    throw new Error(read.problems.map(({ line, column, message }) => `${line} ${column}: ${message}`).join('\n'));
  return read.document;
}

const GERMAN = [
  'Produkt\tKind\tPrice (Shells)\tcost in pearls\tGruppe',
  'Crème Sail\tdurable\t1.250\t\tSails',
  'Moon Wax\tConsumable\t40\t2,5\twax',
  'شراع\tDurable\t\t3\t',
].join('\n');

test('names of columns are guessed, others matched by hand; ids are made of names, amounts say what they are of', () => {
  const group = Object.entries(demo.groups!)[0]!;
  const text = GERMAN.replace(/Sails/g, group[1].name.toUpperCase()).replace(/\twax$/m, `\t${group[0]}`);
  const { items } = brought('items', text, {
    0: { kind: 'column', field: 'name' },
    4: { kind: 'column', field: 'group' },
  });
  expect(items!['creme_sail']).toEqual({
    name: 'Crème Sail',
    kind: 'durable',
    worth: { shells: 1250 },
    group: group[0],
  });
  expect(items!['moon_wax']).toEqual({
    name: 'Moon Wax',
    kind: 'consumable',
    worth: { shells: 40, pearls: 2.5 },
    group: group[0],
  });
  expect(items!['item_1']).toEqual({ name: 'شراع', kind: 'durable', worth: { pearls: 3 } });
});

test('a column that is left out changes nothing, and what a table lacks is said once for all new rows', () => {
  const { items } = brought('items', 'Name,Colour\nMoon Wax,blue\nGlide Wax,red\n', {}, { kind: 'consumable' });
  expect(items!['moon_wax']).toEqual({ name: 'Moon Wax', kind: 'consumable' });
  // What is there keeps its kind and everything else.
  expect(items!['glide_wax']).toEqual(demo.items!['glide_wax']);
});

test('offers come into the shop and shelf that are chosen, by the names of what they give', () => {
  const [shop, { shelves }] = Object.entries(demo.shops!)[0]!;
  const shelf = Object.keys(shelves)[0]!;
  const after = brought(
    'offers',
    'What it gives;Shells\nStorm Frame;1.900\n"2 Glide Wax; 4 pennant";80\n',
    {
      0: { kind: 'column', field: 'gives' },
    },
    { shop, shelf },
  );
  const { offers } = after.shops![shop]!.shelves[shelf]!;
  // What is on that shelf already gets its new price.
  expect(offers['storm_frame']).toEqual({ ...shelves[shelf]!.offers['storm_frame'], price: { shells: 1900 } });
  expect(Object.values(offers)).toContainEqual({ gives: { glide_wax: 2, pennant: 4 }, price: { shells: 80 } });
});

test.each([
  ['a;b\n1;2', true],
  ['a\tb\n1,5\t2', true],
  ['a\tb\n1.234,50\t2', true],
  ['a\tb\n1,234\t2', false],
  ['a,b\n1.5,2', false],
  ['a;b\n12.50;2', false],
  ['a;b\n12.50 pearls;2', false],
  ['a;b\n1.250;2', true],
  ['a;b\n12.50;2,5 pearls', true],
])('%j writes its numbers with a decimal comma: %s', (text, comma) => {
  expect(hasDecimalComma(tableOf(text))).toBe(comma);
});

const broughtFrom = (text: string, otherwise: Record<string, string> = {}, document = demo) => {
  const [table, sheet] = [tableOf(text), SHEETS.items];
  const matches = matchesGuess(schema, sheet, document, table.head);
  const decimalComma = hasDecimalComma(table);
  return { matches, ...tableToSheet({ sheet, schema, document, table, matches, decimalComma, otherwise }) };
};

test.each([
  ['Item name', { kind: 'column', field: 'name' }],
  ['Item', { kind: 'column', field: 'name' }],
  ['Name of item', { kind: 'none' }],
  ['item_id', { kind: 'column', field: 'id' }],
  ['Type', { kind: 'column', field: 'kind' }],
  ['Item category', { kind: 'column', field: 'group' }],
  ['Cost in Pearls', { kind: 'amount', field: 'worth', asset: 'pearls' }],
  // Of which of several currencies, nobody says.
  ['Price', { kind: 'none' }],
])('a column "%s" is guessed as %j', (head, match) => {
  expect(broughtFrom(`${head}\nx\n`).matches).toEqual([match]);
});

test('a price alone is in the only currency', () => {
  const one = documentOf('currencies: { shells: { name: Shells } }');
  expect(broughtFrom('Price\n3\n', {}, one).matches).toEqual([{ kind: 'amount', field: 'worth', asset: 'shells' }]);
});

test('numbers that are read otherwise than written are told once, and so is what is not there', () => {
  const { read, unknown, named } = broughtFrom(
    'Name\tKind\tGroup\tShells\tWorth\nMoon Wax\tdurable\tHats\t1,200\t\nGlide Wax\tdurable\tSails\t1,200\t3,400 pearls\nSun Wax\tdurable\tHats\t80\t\n',
  );
  expect(read).toEqual([
    { text: '1,200', as: '1200' },
    { text: '3,400', as: '3400' },
  ]);
  expect([unknown, named]).toEqual([[{ kind: 'group', text: 'Hats' }], true]);
  expect(broughtFrom('Name\tShells\nMoon Wax\t2,50\n').read).toEqual([{ text: '2,50', as: '2.50' }]);
  expect(broughtFrom('id,name,kind,group\nmoon_wax,Moon Wax,durable,sails\n')).toMatchObject({
    named: false,
    unknown: [],
  });
});

test('what new rows need is asked for only where there are new rows', () => {
  expect(broughtFrom('Produkt,Preis\nMoon Wax,3\n').lacks).toEqual(['name', 'kind']);
  expect(broughtFrom('Name\nMoon Wax\n').lacks).toEqual(['kind']);
  expect(broughtFrom('Name\nMoon Wax\n', { kind: 'durable' }).lacks).toEqual([]);
  expect(broughtFrom('Name\nGlide Wax\n').lacks).toEqual([]);
});

test('a second table numbers on, and a row that is named as one that is there changes it', () => {
  const first = brought('items', 'Name,Kind\n🪁,durable\n風,durable\n');
  expect(first.items).toMatchObject({ item_1: { name: '🪁' }, item_2: { name: '風' } });
  const { items } = brought('items', 'Name,Kind\n風,consumable\n海,durable\n', {}, {}, first);
  expect(items).toMatchObject({
    item_1: { name: '🪁' },
    item_2: { name: '風', kind: 'consumable' },
    item_3: { name: '海' },
  });
});

test('a table without rows, and one that is none', () => {
  expect(tableOf('Name\n').rows).toEqual([]);
  expect(tableRead('"a\nb')).toMatchObject({ ok: false });
  expect(tableRead(`a,b\n1,2\n${','.repeat(200_001)}\n`)).toMatchObject({
    ok: false,
    problem: { line: 3, message: expect.stringContaining('200001 characters; 200000 are the most') as string },
  });
});
