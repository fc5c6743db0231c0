/** Cases through the service and the command line: played with every save, which tells who broke what; and before publishing. */
import { readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { demoDocument, demoFiles } from '../support/economy.js';
import { runCli } from '../support/cli.js';
import { problemOf, scratchFolder, startStall } from '../support/stall.js';
import type { Stall } from '../support/stall.js';

let stall: Stall;
const folder = scratchFolder();
beforeEach(async () => {
  stall = await startStall();
});
afterEach(() => stall.stop());
afterAll(() => folder.remove());

const WORTH = '/items/storm_frame/worth/shells';
const CRATES = '/shops/festival_booth/shelves/ribbons/offers/festival_crate/limits/day';
let revision = 1;
beforeEach(() => {
  revision = 1;
});
const save = async (path: string, value: unknown, why?: string) => {
  const saved = await stall.as('design').call('PATCH /draft', {
    body: [{ op: 'add', path, value }],
    revision,
    query: why === undefined ? {} : { why },
  });
  revision = saved.revision;
};
const cases = (source?: string) =>
  stall.as('read').call('GET /cases', { query: source === undefined ? {} : { source } });
const broken = async () => (await cases()).cases.filter(({ state }) => state !== 'holds');

test('a save that breaks a case is found with its words, and with what came of the step before it and now', async () => {
  expect((await cases()).counts).toEqual({ holds: 25, broken: 0, unplayable: 0 });
  await save('/name', 'Saltwind Cove by day');
  await save(CRATES, 3, 'a third crate, to try');
  await save('/name', 'Saltwind Cove by night');
  expect(await broken()).toEqual([
    {
      id: 'two_crates_a_day',
      name: 'Two festival crates a day',
      state: 'broken',
      offers: ['festival_crate'],
      problems: [],
      misses: [
        {
          step: 2,
          words: 'buy Festival Crate at Festival Booth',
          what: 'verdict',
          expected: 'refused for limit-reached',
          found: 'allowed',
        },
        { step: 2, words: 'buy Festival Crate at Festival Booth', what: 'holds Ribbons', expected: '10', found: '0' },
      ],
      since: {
        revision: 3,
        savedBy: 'design',
        savedMs: expect.any(Number) as number,
        why: 'a third crate, to try',
        changes: ['Festival Crate at Festival Booth, limits day: 2 -> 3'],
        more: 0,
        before: expect.stringMatching(/^refused; limit-reached: The limit of 2 per day is reached/) as string,
        now: 'done; -10 Ribbons, +1 Festival Crate',
      },
    },
  ]);
  await save(CRATES, 2);
  expect(await broken()).toEqual([]);
});

test('what nobody remembers is found in the history, and what never held has no save to blame', async () => {
  await save('/cases/never', { name: 'Never', at: '2027-03-01T10:00', expect: { holds: { shells: 61 } } });
  for (let count = 0; count < 4; count++) await save('/name', `Saltwind Cove ${count}`);
  await save(CRATES, 3);
  const culprit = revision;
  for (let count = 0; count < 9; count++) await save('/name', `Saltwind Cove ${count}`);
  await save(WORTH, 1500);
  const told = async () => (await broken()).map(({ id, since }) => [id, since?.revision]);
  const expected = [
    ['storm_frame_one_short', revision],
    ['storm_frame_exactly', revision],
    ['storm_frame_one_over', revision],
    ['storm_frame_once', revision],
    ['storm_frame_level', revision],
    ['two_crates_a_day', culprit],
    ['refusal_in_portuguese', revision],
    ['never', undefined],
  ];
  expect(await told()).toEqual(expected);
  stall.service.caches.forget();
  expect(await told()).toEqual(expected);
});

test('publishing refuses while cases are broken, unless the economy says that it warns', async () => {
  await save('/audit/brokenCases', 'refuse');
  await save(WORTH, 1401);
  const refused = await problemOf(stall.as('publish').call('POST /releases', { body: { note: 'dearer' } }));
  expect(refused).toMatchObject({ kind: 'broken-cases', status: 422 });
  expect(refused.message).toContain('6 cases do not hold: One shell short of the Storm Frame,');
  expect((refused.body['cases'] as { id: string }[]).map(({ id }) => id)).toContain('storm_frame_exactly');
  await save('/audit/brokenCases', 'warn');
  const { number, brokenCases } = await stall.as('publish').call('POST /releases', { body: { note: 'dearer' } });
  expect(brokenCases).toContain('storm_frame_exactly');
  const live = await cases('live');
  expect([live.release, live.revision, live.counts.broken]).toEqual([number, null, brokenCases.length]);
  expect((await cases('1')).counts.broken).toBe(0);
});

test('a case goes with the offer that it names, and one that names what is gone cannot be played', async () => {
  const offer = '/shops/pier_stall/shelves/harbour/offers/flight_lesson';
  const { changes } = await stall.as('design').call('POST /draft/edits', {
    body: { kind: 'remove', pointer: offer, mend: true },
    query: { preview: true },
  });
  expect(changes.map(({ words }) => words)).toContain(
    'case A flight lesson raises the level, and the next one costs more: removed',
  );
  await save(`${offer}/gives`, 'glide_wax');
  await stall.as('design').call('PATCH /draft', { body: [{ op: 'remove', path: offer }], revision });
  const [lesson] = await broken();
  expect(lesson).toMatchObject({
    id: 'lesson_raises',
    state: 'unplayable',
    problems: expect.arrayContaining([
      expect.objectContaining({
        pointer: '/cases/lesson_raises/steps/0',
        message: 'there is no offer "flight_lesson"',
      }),
    ]) as unknown,
    since: { revision: 2 },
  });
});

test('the command line plays a folder or the service, ends with 1 where something is broken, and writes JUnit', async () => {
  for (const { path, text } of demoFiles()) writeFileSync(join(folder.path, path.split('/').at(-1)!), text);
  const fine = await runCli(['cases', folder.path]);
  expect([fine.code, fine.out.trim().split('\n').at(-1)]).toEqual([0, '25 cases: 25 hold.']);
  const file = join(folder.path, 'cases.yaml');
  writeFileSync(file, readFileSync(file, 'utf8').replace('storm_frame: 1 }', 'storm_frame: 2 }'));
  const junit = join(folder.path, 'cases.xml');
  const found = await runCli(['cases', folder.path, '--junit', junit]);
  expect(found.code).toBe(1);
  expect(found.out).toContain('✗ Exactly enough for the Storm Frame');
  expect(found.out).toContain('step 1, buy Storm Frame at Pier Stall: holds Storm Frame: 2 expected, 1 found');
  expect(found.err).toContain('25 cases: 24 hold, 1 broken.');
  expect(readFileSync(junit, 'utf8')).toContain('<testsuites tests="25" failures="1" errors="0">');
  await save(CRATES, 3, 'a third crate');
  const served = await runCli(['cases', '--url', stall.url, '--token', stall.tokens.read]);
  expect(served.code).toBe(1);
  expect(served.out).toContain('since revision 2 by design: a third crate');
  const live = await runCli(['cases', '--source', 'live', '--url', stall.url, '--token', stall.tokens.read, '--json']);
  expect([live.code, (JSON.parse(live.out) as { cases: unknown[] }).cases.length]).toEqual([0, 25]);
  expect(demoDocument().cases).toHaveProperty('two_crates_a_day');
});
