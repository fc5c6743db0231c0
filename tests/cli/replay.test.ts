/** replay: a log of purchases against a folder and the service's draft. */
import { readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { parse } from 'csv-parse/sync';
import type { ReplayResult } from '../../src/core/replay/index.js';
import { runCli } from '../support/cli.js';
import { DEMO_FOLDER } from '../support/economy.js';
import { scratchFolder, startStall } from '../support/stall.js';
import type { Stall } from '../support/stall.js';

let stall: Stall;
let folder: ReturnType<typeof scratchFolder>;
beforeEach(async () => {
  stall = await startStall();
  folder = scratchFolder();
});
afterEach(async () => {
  await stall.stop();
  folder.remove();
});

const LOG = [
  'player,at,offer,times,pay,paid.shells,attribute.level',
  'oda,2027-03-01T10:00,drift_frame,,,150,2',
  'oda,2027-03-03T10:00,storm_frame,,,1400,4',
  'mateo,2027-03-03T11:00,wax_1,2,,30,1',
  '',
].join('\n');

const written = (name: string, text: string): string => {
  const file = join(folder.path, name);
  writeFileSync(file, text);
  return file;
};

test('on the same prices all goes through; on the draft it is told what is refused, and what changes in sum', async () => {
  const log = written('log.csv', LOG);
  const same = await runCli(['replay', log, '--folder', DEMO_FOLDER]);
  expect([same.code, same.err]).toEqual([0, '']);
  expect(same.out).toMatch(/^3 purchases by 2 players: 3 would go through, 0 would be refused\.\n/);
  expect(same.out).toMatch(/Storm Frame +1 +1400 Shells +1400 Shells +0 +0 +1/);
  const design = stall.as('design');
  const { revision } = await design.call('GET /draft');
  const edit = {
    kind: 'adjust',
    set: { '/items/storm_frame/worth/shells': 1600, '/shops/pier_stall/shelves/care/offers/wax_1/price/shells': 14 },
  } as const;
  await design.call('POST /draft/edits', { body: edit, revision });
  await design.call('POST /draft/edits', {
    body: { kind: 'set', pointer: '/shops/pier_stall/shelves/frames/offers/drift_frame/when', value: '=level >= 3' },
    revision: revision + 1,
  });
  const env = { DIMESTALL_URL: stall.url, DIMESTALL_TOKEN: stall.tokens.read };
  const csv = join(folder.path, 'each.csv');
  const draft = await runCli(['replay', log, '--by', 'level', '--csv', csv], { env });
  expect([draft.code, draft.err]).toEqual([1, expect.stringMatching(/^1 of 3 purchases would be refused now\.$/m)]);
  expect(draft.out).toMatch(/Drift Frame +1 +1 requirement-unmet/);
  expect(draft.out).toMatch(/Storm Frame +1 +1400 Shells +1600 Shells +1 +0 +0/);
  expect(draft.out).toMatch(/For example:\nline 2, oda, Drift Frame: .*level/);
  expect(parse(readFileSync(csv), { columns: true })).toMatchObject([
    { line: '2', player: 'oda', outcome: 'refused', reasons: 'requirement-unmet' },
    { line: '3', outcome: 'bought', paid: '1400 shells', cost: '1600 shells' },
    { line: '4', outcome: 'bought', paid: '30 shells', cost: '28 shells' },
  ]);
  const json = JSON.parse((await runCli(['replay', log, '--json'], { env })).out) as ReplayResult;
  expect(json).toMatchObject({ purchases: 3, refused: 1, groups: [] });
});

test('broken lines are told by file and line, and left out only when that is asked for', async () => {
  const log = written('log.csv', LOG.replace('2027-03-03T10:00', 'yesterday').replace(',2,,30', ',two,,30'));
  const refused = await runCli(['replay', log, '--folder', DEMO_FOLDER]);
  expect([refused.code, refused.err]).toEqual([1, expect.stringMatching(/2 lines of .* nothing was done/)]);
  expect(refused.out).toMatch(/log\.csv:3.*"yesterday" is no instant[\s\S]*log\.csv:4.*no number of times/);
  const left = await runCli(['replay', log, '--folder', DEMO_FOLDER, '--skip-broken']);
  const headless = written('headless.csv', LOG.replace('player', 'who'));
  for (const more of [[], ['--skip-broken']]) {
    const { code, out, err } = await runCli(['replay', headless, '--folder', DEMO_FOLDER, ...more]);
    expect([code, out]).toEqual([1, expect.stringMatching(/headless\.csv:1.*there is no column "player"/)]);
    expect(err).toMatch(/^Nothing of .*headless\.csv can be read; nothing was done\.\n$/);
  }
  expect(left.out).toMatch(/^1 purchase by 1 player: 1 would go through, 0 would be refused; 2 lines left out\./);
});

test('a log of another game, an empty one and none', async () => {
  const other = written('events.ndjson', '{"player":"oda","at":1,"event":"race_finished"}\n');
  expect((await runCli(['replay', other, '--folder', DEMO_FOLDER])).err).toMatch(
    /holds no purchase: 1 line without an offer/,
  );
  const unknown = written('other.ndjson', '{"player":"oda","at":1,"offer":"turnip"}\n');
  expect((await runCli(['replay', unknown, '--folder', DEMO_FOLDER])).out).toMatch(/1 unknown-offer/);
  expect((await runCli(['replay', join(folder.path, 'none.csv'), '--folder', DEMO_FOLDER])).code).toBe(2);
});

test('without a log it is the purchases that the service keeps, each by its number', async () => {
  const env = { DIMESTALL_URL: stall.url, DIMESTALL_TOKEN: stall.tokens.read };
  const nothing = await runCli(['replay'], { env });
  expect([nothing.code, nothing.err]).toEqual([
    1,
    expect.stringContaining('Nothing was bought from this service yet.'),
  ]);
  const game = stall.as('game');
  await game.call('POST /players', { body: { id: 'oda', name: 'Oda', attributes: { level: 2 } } });
  const buy = { player: 'oda', offer: 'wax_1', times: 2 };
  await stall.as('support').call('POST /players/{player}/grants', {
    params: { player: 'oda' },
    body: { gives: { shells: 100 }, reason: 'to buy' },
    key: 'grant',
  });
  await game.call('POST /purchases', { body: buy, key: 'one' });
  await game.call('POST /purchases', { body: buy, key: 'one' });
  const design = stall.as('design');
  const { revision } = await design.call('GET /draft');
  const value = '=level >= 3';
  const pointer = '/shops/pier_stall/shelves/care/offers/wax_1/when';
  await design.call('POST /draft/edits', { body: { kind: 'set', pointer, value }, revision });
  const live = await runCli(['replay', '--source', 'live', '--json'], { env });
  const { purchases, offers } = JSON.parse(live.out) as ReplayResult;
  expect([live.code, purchases, offers[0]!.same]).toEqual([0, 1, 1]);
  const draft = await runCli(['replay'], { env });
  expect(draft.code).toBe(1);
  expect(draft.out).toContain('1 purchase by 1 player: 0 would go through, 1 would be refused.');
  expect(draft.out).toContain('purchase 1, oda, Glide Wax: It needs level >= 3');
});
