import { join } from 'node:path';
import { demoDocument, demoFiles } from '../support/economy.js';
import { problemOf, scratchFolder, startStall } from '../support/stall.js';
import type { Stall } from '../support/stall.js';

let stall: Stall;
beforeEach(async () => {
  stall = await startStall();
});
afterEach(() => stall.stop());

const PRICE = '/items/storm_frame/worth/shells';
const reprice = (value: unknown, path = PRICE) => [{ op: 'replace', path, value }];

test('a new service has an empty draft of revision 0, and nothing live', async () => {
  const empty = await startStall({ publish: false });
  expect(await empty.as('read').call('GET /draft')).toMatchObject({ revision: 0 });
  expect(
    await problemOf(
      empty.as('read').call('GET /shops/{shop}/front', { params: { shop: 'pier_stall' }, query: { player: 'x' } }),
    ),
  ).toMatchObject({
    kind: 'nothing-published',
    status: 409,
  });
  expect(await problemOf(empty.as('publish').call('POST /releases', { body: { note: 'nothing' } }))).toMatchObject({
    kind: 'nothing-published',
  });
  await empty.stop();
});

test('a patch changes the draft and says what the audit finds', async () => {
  const saved = await stall
    .as('design')
    .call('PATCH /draft', { body: reprice(1250), revision: 1, query: { why: 'cheaper' } });
  expect(saved).toMatchObject({ revision: 2, savedBy: 'design', findings: { error: 0, warning: 0, hint: 0 } });
  const { document } = await stall.as('read').call('GET /draft');
  expect(document.items!['storm_frame']!.worth).toEqual({ shells: 1250 });
  expect((await stall.as('read').call('GET /draft/revisions')).items).toMatchObject([
    { revision: 2, savedBy: 'design', why: 'cheaper' },
    { revision: 1 },
  ]);
});

test('the second of two saves from one revision is refused, with what changed', async () => {
  await stall.as('design').call('PATCH /draft', { body: reprice(1250), revision: 1 });
  const refused = await problemOf(stall.as('admin').call('PATCH /draft', { body: reprice(1300), revision: 1 }));
  expect(refused).toMatchObject({
    kind: 'stale',
    status: 412,
    body: { revision: 2, savedBy: 'design', changes: [{ words: 'Storm Frame, worth in Shells: 1400 -> 1250' }] },
  });
  expect((await stall.as('read').call('GET /draft')).document.items!['storm_frame']!.worth).toEqual({ shells: 1250 });
});

test('many small saves take little, and each state can be read as it was saved, also after a restart', async () => {
  const folder = scratchFolder();
  const data = join(folder.path, 'stall.sqlite');
  const first = await startStall({ data });
  const saved = [first.service.draft.current.working.text];
  const save = async (operations: object[]) => {
    await first.as('design').call('PATCH /draft', { body: operations, revision: saved.length });
    saved.push(first.service.draft.current.working.text);
  };
  for (let n = 1; n <= 70; n++) await save(reprice(1000 + n));
  // One that changes a thing at each end, and one at which nothing is left as it was.
  await save([...reprice('Cove 🪁', '/name'), ...reprice(900)]);
  await save([
    { op: 'remove', path: '/shops' },
    { op: 'remove', path: '/texts' },
  ]);
  await save(reprice('Cove 🪂', '/name'));
  const { raw } = first.service.database;
  const kept = raw.prepare('SELECT length(document) FROM draft_revisions ORDER BY revision').pluck().all() as number[];
  // The first is whole, and one after 32 changes.
  expect(
    kept
      .slice(0, 71)
      .map((length, index) => [index + 1, length])
      .filter(([, length]) => length! > 10),
  ).toEqual([1, 34, 67].map((revision) => [revision, [...saved[revision - 1]!].length]));
  const states = ({ service }: Stall) =>
    // Not in their order: what is read is told by what was read before.
    saved
      .map((_, index) => (index * 29) % saved.length)
      .map((index) => [index, JSON.stringify(service.draft.revision(index + 1).document)]);
  const expected = saved.map((_, index) => (index * 29) % saved.length).map((index) => [index, saved[index]]);
  expect(states(first)).toEqual(expected);
  await first.stop();
  const second = await startStall({ data, publish: false });
  expect(second.service.draft.current.working.text).toBe(saved.at(-1));
  expect(states(second)).toEqual(expected);
  await second.stop();
  folder.remove();
});

test('two saves at the same moment: one is kept, the other refused', async () => {
  const results = await Promise.allSettled(
    [1, 2, 3, 4, 5].map((value) =>
      stall.as('design').call('PATCH /draft', { body: reprice(1000 + value), revision: 1 }),
    ),
  );
  expect(results.filter(({ status }) => status === 'fulfilled')).toHaveLength(1);
  expect(await stall.as('read').call('GET /draft')).toMatchObject({ revision: 2 });
});

test('a save must say where it started', async () => {
  const response = await stall.raw('PUT', '/draft', { body: demoDocument() });
  expect([response.status, ((await response.json()) as { type: string }).type]).toEqual([
    428,
    'urn:dimestall:revision-needed',
  ]);
});

/** What cannot be read is refused with its pointer, and the draft stays as it was. */
test.each([
  [
    'an unknown field',
    [{ op: 'add', path: '/items/storm_frame/colour', value: 'red' }],
    'unknown-field',
    '/items/storm_frame/colour',
  ],
  ['a wrong type', reprice('many', '/items/storm_frame/carry'), 'wrong-type', '/items/storm_frame/carry'],
  ['a negative amount', reprice(-1), 'bad-amount', PRICE],
  ['a fraction of a whole currency', reprice(1.5), 'bad-amount', PRICE],
  ['an amount past 2^53 - 1', reprice(2 ** 53), 'bad-amount', PRICE],
  [
    'a formula with an unknown name',
    reprice('=10 * levle', '/shops/pier_stall/shelves/care/offers/wax_1/price/shells'),
    'bad-formula',
    '/shops/pier_stall/shelves/care/offers/wax_1/price/shells',
  ],
  [
    'a formula that breaks off',
    reprice('=10 *', '/shops/pier_stall/shelves/care/offers/wax_1/price/shells'),
    'bad-formula',
    '/shops/pier_stall/shelves/care/offers/wax_1/price/shells',
  ],
  [
    'a malformed id',
    [{ op: 'add', path: '/items/Storm Frame', value: { name: 'S', kind: 'durable' } }],
    'malformed-id',
    '/items/Storm Frame',
  ],
  [
    'an operation that leads nowhere',
    [{ op: 'replace', path: '/items/nothing/worth', value: {} }],
    'wrong-value',
    '/0',
  ],
  ['an operation that is none', [{ op: 'burn', path: '/items' }], 'wrong-value', '/0/op'],
  ['an attack on objects', [{ op: 'add', path: '/__proto__/polluted', value: true }], 'wrong-value', '/0'],
])('%s is refused', async (_, operations, code, pointer) => {
  const refused = await problemOf(stall.as('design').call('PATCH /draft', { body: operations, revision: 1 }));
  expect(refused).toMatchObject({
    kind: 'invalid',
    status: 422,
    body: { errors: [expect.objectContaining({ code, pointer })] },
  });
  expect(await stall.as('read').call('GET /draft')).toMatchObject({ revision: 1, document: demoDocument() });
  expect(({} as { polluted?: boolean }).polluted).toBeUndefined();
});

test('a reference to nothing may wait in the draft, is found by the audit, and blocks publishing', async () => {
  const saved = await stall.as('design').call('PATCH /draft', {
    body: reprice('storm_fram', '/shops/pier_stall/shelves/frames/offers/storm_frame/gives'),
    revision: 1,
  });
  expect(saved.findings.error).toBeGreaterThan(0);
  const { findings } = await stall.as('read').call('GET /draft/audit');
  expect(findings[0]).toMatchObject({
    code: 'dangling-reference',
    severity: 'error',
    pointer: '/shops/pier_stall/shelves/frames/offers/storm_frame/gives',
    fix: 'Did you mean "storm_frame"?',
  });
  const refused = await problemOf(stall.as('publish').call('POST /releases', { body: { note: 'broken' } }));
  expect(refused).toMatchObject({ kind: 'audit-errors', status: 422 });
  expect((refused.body['findings'] as unknown[]).length).toBe(saved.findings.error);
});

test('a whole document is put, exported as files and imported again', async () => {
  const document = demoDocument();
  document.name = 'Saltwind Cove by night';
  await stall.as('design').call('PUT /draft', { body: document, revision: 1 });
  const { files } = await stall.as('read').call('GET /draft/export');
  await stall.as('design').call('POST /draft/import', { body: { files: demoFiles() }, revision: 2 });
  expect((await stall.as('read').call('GET /draft')).document).toEqual(demoDocument());
  await stall.as('design').call('POST /draft/import', { body: { files }, revision: 3 });
  expect((await stall.as('read').call('GET /draft')).document).toEqual(document);
});

test('files that cannot be read are refused with file, line and column', async () => {
  const refused = await problemOf(
    stall.as('design').call('POST /draft/import', {
      body: { files: [{ path: 'items.yaml', text: 'items:\n  kite: {name: "Ki' }] },
      revision: 1,
    }),
  );
  expect(refused.body['errors']).toEqual(
    expect.arrayContaining([
      expect.objectContaining({
        code: 'yaml-syntax',
        place: expect.objectContaining({ file: 'items.yaml', line: 2 }) as object,
      }),
    ]),
  );
});

test('publishing makes a numbered release, live at once, and the old one can be live again', async () => {
  const admin = stall.as('admin');
  await admin.call('POST /players', { body: { id: 'mateo', attributes: { level: 3 } } });
  const price = async () =>
    (
      await admin.call('GET /shops/{shop}/front', { params: { shop: 'pier_stall' }, query: { player: 'mateo' } })
    ).shelves[0]!.offers.find(({ id }) => id === 'storm_frame')!.choices[0]!.total;
  await stall.as('design').call('PATCH /draft', { body: reprice(1250), revision: 1 });
  expect((await stall.as('read').call('GET /draft/changes')).changes.map(({ words }) => words)).toEqual([
    'Storm Frame, worth in Shells: 1400 -> 1250',
  ]);
  expect(await price()).toEqual({ shells: 1400 });
  expect(await stall.as('publish').call('POST /releases', { body: { note: 'cheaper', revision: 2 } })).toMatchObject({
    number: 2,
    channel: 'live',
  });
  expect(await price()).toEqual({ shells: 1250 });
  expect((await stall.as('read').call('GET /draft/changes')).changes).toEqual([]);
  expect(await stall.as('read').call('GET /releases/{release}', { params: { release: 2 } })).toMatchObject({
    number: 2,
    note: 'cheaper',
    publishedBy: 'publish',
    changes: [{ pointer: PRICE, before: 1400, after: 1250 }],
  });
  await stall.as('publish').call('PUT /channels/{channel}', { params: { channel: 'live' }, body: { release: 1 } });
  expect(await price()).toEqual({ shells: 1400 });
  expect((await stall.as('read').call('GET /releases')).items.map(({ number }) => number)).toEqual([2, 1]);
});

test('publishing a draft that someone has changed since is refused', async () => {
  await stall.as('design').call('PATCH /draft', { body: reprice(1250), revision: 1 });
  expect(
    await problemOf(stall.as('publish').call('POST /releases', { body: { note: 'what I saw', revision: 1 } })),
  ).toMatchObject({ kind: 'stale' });
});

test('another channel can be looked at without touching live', async () => {
  const admin = stall.as('admin');
  await admin.call('PATCH /draft', { body: reprice(1), revision: 1 });
  await admin.call('POST /releases', { body: { note: 'for testers', channel: 'test' } });
  expect((await admin.call('GET /channels')).items.map(({ name, release }) => [name, release])).toEqual([
    ['live', 1],
    ['test', 2],
  ]);
  const price = async (source?: string) =>
    (
      await admin.call('POST /checks', {
        body: { checks: [{ offer: 'storm_frame', profile: { attributes: { level: 3 } } }], source },
      })
    ).verdicts[0]!.price!.total;
  expect([await price(), await price('test'), await price('draft'), await price('1')]).toEqual([
    { shells: 1400 },
    { shells: 1 },
    { shells: 1 },
    { shells: 1400 },
  ]);
});
