import { demoDocument, demoFiles } from '../../../tests/support/economy.js';
import { MAX_FILE_LENGTH, folderRead, folderWrite } from './index.js';
import type { EconomyDocument } from '../document/index.js';
import { economyLoad } from '../economy/index.js';

const file = (path: string, text: string) => ({ path, text });
const base = file('economy.yaml', '# The cove.\nname: Cove\ntimeZone: UTC\n');

test('the files of a folder are merged by id', () => {
  const { document, issues } = economyLoad([
    base,
    file('a.yaml', 'items: {kite: {name: Kite, kind: durable}}'),
    file('b.json', '{"items": {"tail": {"name": "Tail", "kind": "durable"}}}'),
  ]);
  expect(issues).toEqual([]);
  expect(Object.keys(document!.items!)).toEqual(['kite', 'tail']);
});

test('an id in two files is told with both places', () => {
  const { issues } = folderRead([
    base,
    file('a.yaml', 'items:\n  kite: {name: Kite, kind: durable}\n'),
    file('b.yaml', 'items:\n  tail: {name: T, kind: durable}\n  kite: {name: K, kind: durable}\n'),
  ]);
  expect(issues).toEqual([
    expect.objectContaining({
      code: 'duplicate-id',
      message: '"kite" is already defined in a.yaml, line 2',
      place: { file: 'b.yaml', line: 3, column: 3 },
    }),
  ]);
});

test('an id twice in one file is told where it stands again', () => {
  const { issues } = folderRead([
    file('a.yaml', 'items:\n  kite: {name: A, kind: durable}\n  kite: {name: B, kind: durable}\n'),
  ]);
  expect(issues).toEqual([
    expect.objectContaining({
      code: 'duplicate-id',
      message: '"kite" stands twice in one group',
      place: { file: 'a.yaml', line: 3, column: 3 },
    }),
  ]);
});

test('truncated YAML is a clear error with its place, in every file that has one', () => {
  const { issues, raw } = folderRead([base, file('a.yaml', 'items:\n  kite: {name: "Ki'), file('b.yaml', 'shops: [')]);
  expect(raw).toEqual({});
  expect(new Set(issues.map(({ place }) => place!.file))).toEqual(new Set(['a.yaml', 'b.yaml']));
  expect(issues.every(({ code }) => code === 'yaml-syntax')).toBe(true);
});

test('every prefix of a real file is read or refused, never a crash', () => {
  const { text } = demoFiles().find(({ path }) => path === 'shops.yaml')!;
  for (let end = 0; end < text.length; end += 37)
    expect(() => economyLoad([base, file('shops.yaml', text.slice(0, end))])).not.toThrow();
});

test('aliases that would grow without end, and files past the limit, are refused', () => {
  const bomb = [
    'a: &a [x, x, x, x, x, x, x, x, x]',
    ...'bcdefghi'
      .split('')
      .map((name, index) => `${name}: &${name} [${Array(9).fill(`*${'abcdefgh'[index]}`).join(', ')}]`),
  ].join('\n');
  expect(folderRead([file('bomb.yaml', bomb)]).issues[0]).toMatchObject({ code: 'yaml-syntax' });
  expect(folderRead([file('big.yaml', 'x'.repeat(MAX_FILE_LENGTH + 1))]).issues[0]).toMatchObject({
    code: 'file-too-large',
  });
});

test('a file that holds a list or a text says what belongs there', () => {
  expect(folderRead([file('a.yaml', '- kite')]).issues[0]).toMatchObject({
    code: 'wrong-type',
    fix: expect.stringContaining('items') as string,
  });
});

test('a document written to an empty folder is read back the same, order included', () => {
  const document = demoDocument();
  const written = folderWrite([], document);
  expect(written.map(({ path }) => path).sort()).toEqual([
    'balance.yaml',
    'cases.yaml',
    'currencies.yaml',
    'earning.yaml',
    'economy.yaml',
    'goals.yaml',
    'items.yaml',
    'loot.yaml',
    'players.yaml',
    'sales.yaml',
    'shops.yaml',
    'texts.yaml',
  ]);
  const again = economyLoad(written);
  expect(again.issues).toEqual([]);
  expect(again.document).toEqual(document);
  expect(Object.keys(again.document!.items!)).toEqual(Object.keys(document.items!));
});

test('files may say for editors what they look like, which is no part of the economy and stays when they are written', () => {
  const comment = '# yaml-language-server: $schema=../economy-file.json\n';
  const files = [
    { path: 'economy.yaml', text: `${comment}name: Cove\ntimeZone: UTC\n$schema: ../economy-file.json\n` },
    {
      path: 'items.json',
      text: '{ "$schema": "../economy-file.json", "items": { "wax": { "name": "Wax", "kind": "durable" } } }\n',
    },
  ];
  const { raw, issues } = folderRead(files);
  expect([raw, issues]).toEqual([
    { name: 'Cove', timeZone: 'UTC', items: { wax: { name: 'Wax', kind: 'durable' } } },
    [],
  ]);
  const wanted = { ...raw, name: 'Saltwind Cove' } as unknown as EconomyDocument;
  wanted.items!['wax']!.name = 'Kite wax';
  const [economy, items] = folderWrite(files, wanted);
  expect(economy!.text).toBe(files[0]!.text.replace('Cove', 'Saltwind Cove'));
  expect(items!.text).toBe(files[1]!.text.replace('Wax', 'Kite wax'));
});

test('bringing a folder to a changed document keeps comments and touches only what changed', () => {
  const document = demoDocument();
  document.items!['storm_frame']!.worth = { shells: 1250 };
  delete document.items!['pennant'];
  delete document.shops!['pier_stall']!.shelves['care']!.offers['pennant'];
  document.items!['dusk_charm'] = { name: 'Dusk Charm', kind: 'consumable', worth: { shells: 30 } };
  const before = demoFiles();
  const after = folderWrite(before, document);
  expect(economyLoad(after).document).toEqual(document);
  expect(after.find(({ path }) => path === 'shops.yaml')!.text).toContain(
    '# Each chime costs more than the one before.',
  );
  expect(after.find(({ path }) => path === 'items.yaml')!.text).toContain('shells: 1250');
  expect(after.map(({ path }) => path)).toEqual(before.map(({ path }) => path));
});

test('an unchanged document leaves every file as it was, to the byte', () => {
  expect(folderWrite(demoFiles(), demoDocument())).toEqual(demoFiles());
});
