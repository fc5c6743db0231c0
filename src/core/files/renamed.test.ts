import { demoDocument, demoFiles } from '../../../tests/support/economy.js';
import { documentRenamed } from '../document/index.js';
import { economyLoad } from '../economy/index.js';
import { folderRead, folderRename, folderWrite } from './index.js';

/** The demo as from before `picks` had its name, with a comment there and places that name it. */
const files = demoFiles().map(({ path, text }) => ({
  path,
  text: text
    .replaceAll('picks:', 'rolls:')
    .replace('rolls: 2', 'rolls: 2 # two at once')
    .replace('\n    seed: 7', '\n    seed: 7\n    set: { /loot/drift_finds/rolls: 3 }'),
}));
const textOf = (all: typeof files, name: string) => all.find(({ path }) => path.endsWith(name))!.text;

test('a field under an old name is told with its new one and its place', () => {
  const { issues } = economyLoad(files);
  expect(issues).toHaveLength(demoFiles().flatMap(({ text }) => text.match(/picks:/g) ?? []).length);
  expect(issues[0]).toMatchObject({
    code: 'unknown-field',
    message: '"rolls" is called "picks" now',
    fix: 'Write picks:.',
    place: { line: 5, column: 5 },
  });
});

test('it is renamed where it stands, with what names it', () => {
  const { document, renamings } = documentRenamed(folderRead(files).raw)!;
  expect(renamings[0]).toEqual({ pointer: '/loot/drift_finds/rolls', name: 'picks' });
  expect(document.loot).toEqual(demoDocument().loot);
  expect(JSON.stringify(document.loot)).toBe(JSON.stringify(demoDocument().loot));
  const after = folderWrite(folderRename(files, renamings), document);
  expect(textOf(after, 'loot.yaml')).toBe(textOf(files, 'loot.yaml').replaceAll('rolls:', 'picks:'));
  expect(textOf(after, 'players.yaml')).toContain('/loot/drift_finds/picks: 3');
  expect(economyLoad(after)).toMatchObject({ document, issues: [] });
});

test('a field that is called like something of every object is unknown, and nothing else', () => {
  const odd = { ...demoDocument(), loot: { finds: { name: 'Finds', entries: {}, constructor: 2, toString: 3 } } };
  const { issues } = economyLoad([{ path: 'economy.json', text: JSON.stringify(odd) }]);
  expect(issues.filter(({ pointer }) => pointer.startsWith('/loot/finds/')).map(({ message }) => message)).toEqual([
    'unknown field "constructor"',
    'unknown field "toString"',
  ]);
  expect(documentRenamed(odd)!.renamings).toEqual([]);
});

test('nothing is renamed while the folder cannot be read for other reasons', () => {
  const worse = files.map(({ path, text }) => ({ path, text: text.replace('weight:', 'wieght:') }));
  expect(documentRenamed(folderRead(worse).raw)).toBeUndefined();
});
