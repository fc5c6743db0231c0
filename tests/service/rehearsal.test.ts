/** Rehearsals through the service and the command line: any economy, any instant, a copy of a real player; nothing is kept. */
import { readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { packageRoot } from '../../src/packageRoot.js';
import { integrityCheck } from '../../src/service/index.js';
import { DEMO_FOLDER } from '../support/economy.js';
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

const errorsOf = (body: Record<string, unknown>) =>
  body['errors'] as { pointer: string; detail: string; fix: string }[];
const rehearse = (body: object) => stall.as('read').call('POST /rehearsals', { body: body as never });
const STEPS = [
  { buy: 'storm_frame' },
  { give: { shells: 1 } },
  { buy: 'storm_frame' },
  { buy: 'storm_frame' },
  { wait: 'PT1H' },
];

test('a made-up player presses buy one short, with enough, and once more; all reasons in words, also the player’s own', async () => {
  const { release, steps, end } = await rehearse({
    source: 'draft',
    at: '2027-03-01T10:00',
    profile: { holds: { shells: 1399 }, attributes: { level: 3 } },
    language: 'pt',
    steps: STEPS,
  });
  expect(release).toBe(null);
  expect(steps.map(({ words, done, reasons, moved }) => [words, done, reasons.map(({ code }) => code), moved])).toEqual(
    [
      ['buy Storm Frame at Pier Stall', false, ['short-of'], {}],
      ['give 1 Shell', true, [], { shells: 1 }],
      ['buy Storm Frame at Pier Stall', true, [], { shells: -1400, storm_frame: 1, storm_wax: 2 }],
      ['buy Storm Frame at Pier Stall', false, ['short-of', 'carry-full'], {}],
      ['wait 1 h', true, [], expect.objectContaining({ breeze: expect.any(Number) as number })],
    ],
  );
  expect(steps[0]).toMatchObject({
    reasons: [{ sentence: 'Shells: short by 1. It costs 1400 and the player has 1399.' }],
    told: [expect.stringContaining('1.400 conchas')],
  });
  expect(end).toMatchObject({ holds: { shells: 0, storm_frame: 1 }, attributes: { level: 3 } });
});

test('a copy of a real player is taken at that moment; ledger, stock, rankings and the player stay as they are', async () => {
  await stall.as('admin').call('POST /players', { body: { id: 'oda' } });
  const params = { player: 'oda' };
  await stall.as('admin').call('POST /players/{player}/grants', {
    params,
    body: { gives: { ribbons: 500, shells: 900 }, reason: 'test' },
    key: 'g',
  });
  const seen = async () =>
    JSON.stringify([
      await stall.as('read').call('GET /players/{player}', { params }),
      await stall.as('read').call('GET /players/{player}/ledger', { params }),
      await stall.as('read').call('GET /players', {}),
      await stall.as('read').call('GET /purchases', {}),
    ]);
  const before = await seen();
  const asked = {
    source: 'live',
    player: 'oda',
    steps: [{ play: 'harbour_race', times: 2 }, { buy: 'drift_frame' }, { sell: 'drift_frame', shop: 'pier_stall' }],
  };
  const [one, other] = await Promise.all([rehearse(asked), rehearse(asked)]);
  expect(JSON.stringify(one)).toBe(JSON.stringify(other));
  expect(one.steps.map(({ done }) => done)).toEqual([true, true, false]);
  expect(one.end.holds['shells']).toBeGreaterThan(700);
  expect(await seen()).toBe(before);
  // Shared stock is asked, and stays.
  const front = () =>
    stall.as('read').call('GET /shops/{shop}/front', { params: { shop: 'lantern_wagon' }, query: { player: 'oda' } });
  const stock = JSON.stringify((await front()).shelves);
  const [offer] = (await front()).shelves.flatMap(({ offers }) => offers);
  await rehearse({
    source: 'live',
    profile: { holds: { shells: 100_000, pearls: 100 } },
    steps: [{ buy: offer!.id, times: 1 }],
  });
  expect(JSON.stringify((await front()).shelves)).toBe(stock);
  expect(integrityCheck(stall.service.database).faults).toEqual([]);
});

test('steps that cannot be are refused before any is taken, each by its place', async () => {
  const { status, body } = await problemOf(
    rehearse({ source: 'draft', steps: [{ buy: 'strom_frame' }, { wait: 'PT1H', times: 2 }, { buy: 'storm_frame' }] }),
  );
  expect(status).toBe(422);
  expect(errorsOf(body).map(({ pointer, detail, fix }) => `${pointer} ${detail}. ${fix}`)).toEqual([
    '/steps/1 wait has no times. Leave it out.',
  ]);
  const named = await problemOf(rehearse({ source: 'draft', steps: [{ buy: 'strom_frame' }] }));
  expect(errorsOf(named.body)[0]).toMatchObject({ pointer: '/steps/0', fix: 'Did you mean "storm_frame"?' });
  const many = Array.from({ length: 1001 }, () => ({ wait: 'day' }));
  expect((await problemOf(rehearse({ source: 'draft', steps: many }))).status).toBe(422);
  expect((await problemOf(rehearse({ source: 'draft', player: 'nobody', steps: STEPS }))).status).toBe(404);
  expect((await problemOf(rehearse({ source: 'draft', language: 'not a tag', steps: STEPS }))).status).toBe(422);
});

test('the command line does the same with a file, on the service and on a folder', async () => {
  const file = join(folder.path, 'storm.yaml');
  writeFileSync(
    file,
    `at: 2027-03-01T10:00
player: { attributes: { level: 3 }, holds: { shells: 1399, pearls: 2 } }
steps:
  - buy: storm_frame
  - give: { shells: 1 }
  - buy: storm_frame
  - event: race_finished
    fields: { place: 1, difficulty: 2 }
    times: 3
`,
  );
  const env = { DIMESTALL_URL: stall.url, DIMESTALL_TOKEN: stall.tokens.read };
  const service = await runCli(['rehearse', file], { env });
  const files = await runCli(['rehearse', file, '--folder', DEMO_FOLDER]);
  expect([files.code, files.out]).toEqual([0, service.out]);
  expect(files.out).toMatch(/1 +2027-03-01 10:00 WET +buy Storm Frame at Pier Stall +refused/);
  expect(files.out).toMatch(/3 .* done +-1400 Shells, \+1 Storm Frame/);
  expect(files.out).toMatch(/^1 short-of: Shells: short by 1\./m);
  expect(files.out).toMatch(/^4 First race reached: /m);
  expect((await runCli(['rehearse', file, '--language', 'pt'], { env })).out).toContain('1.400 conchas');
  writeFileSync(file, 'steps:\n  - buy: strom_frame\n  - by: wax_1\n');
  const wrong = await runCli(['rehearse', file, '--folder', DEMO_FOLDER]);
  expect([wrong.code, wrong.out]).toEqual([1, expect.stringMatching(/by.*(Did you mean|buy)/)]);
  writeFileSync(file, 'steps: [{buy: strom_frame}]\n');
  expect((await runCli(['rehearse', file, '--folder', DEMO_FOLDER])).out).toContain('Did you mean "storm_frame"?');
  expect((await runCli(['rehearse', join(folder.path, 'none.yaml')], { env })).code).toBe(2);
  // The example of the guide, and its file.
  const guide = readFileSync(join(packageRoot(), 'docs/rehearsals.md'), 'utf8');
  writeFileSync(file, /```yaml\n([\s\S]*?)```/.exec(guide)![1]!);
  for (const example of [file, join(packageRoot(), 'docs/rehearsals/one-short.yaml')])
    expect((await runCli(['rehearse', example, '--folder', DEMO_FOLDER])).out).toMatch(
      /1 .* refused\n2 .* done .*\n3 .* done +-1400 Shells/,
    );
});

test('what others have bought is missing from the shelf, but not where nobody is to have bought anything', async () => {
  const crates = '/shops/festival_booth/shelves/ribbons/offers/festival_frame/stock/units';
  await stall.as('design').call('PATCH /draft', { body: [{ op: 'replace', path: crates, value: 1 }], revision: 1 });
  await stall.as('publish').call('POST /releases', { body: { note: 'one frame' } });
  stall.clock.nowMs = Date.UTC(2027, 3, 27, 12);
  await stall.as('admin').call('POST /players', { body: { id: 'ana' } });
  await stall.as('admin').call('POST /players/{player}/grants', {
    params: { player: 'ana' },
    body: { gives: { ribbons: 60 }, reason: 'test' },
    key: 'ribbons',
  });
  await stall.as('game').call('POST /purchases', { body: { player: 'ana', offer: 'festival_frame' }, key: 'frame' });
  const done = async (untouched: boolean) => {
    const { steps } = await rehearse({
      source: 'draft',
      profile: { holds: { ribbons: 60 } },
      untouched,
      steps: [{ buy: 'festival_frame' }],
    });
    return steps[0]!.reasons.map(({ code }) => code);
  };
  expect([await done(false), await done(true)]).toEqual([['out-of-stock'], []]);
});
