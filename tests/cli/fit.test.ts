/** fit: personas from a log, for a folder and for the service's draft. */
import { cpSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { gunzipSync, gzipSync } from 'node:zlib';
import type { FitResult } from '../../src/core/fit/index.js';
import { packageRoot } from '../../src/service/index.js';
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

const cli = (...args: string[]) =>
  runCli(args, { env: { DIMESTALL_URL: stall.url, DIMESTALL_TOKEN: stall.tokens.admin } });

/** The lines of some of the players of the demo's log. */
const lines = gunzipSync(readFileSync(join(packageRoot(), 'demo/log/saltwind-cove.ndjson.gz')))
  .toString()
  .split('\n')
  .filter((line) => /"p[0-9]?[0-9]?[05]"/.test(line) && /"2027-02-(0|1[0-4])/.test(line));
const written = (name: string, text: string | Buffer): string => {
  const file = join(folder.path, name);
  writeFileSync(file, text);
  return file;
};

test('a packed log becomes personas of a folder, which run there', async () => {
  const own = join(folder.path, 'cove');
  cpSync(DEMO_FOLDER, own, { recursive: true });
  const log = written('log.ndjson.gz', gzipSync(lines.join('\n')));
  const out = join(folder.path, 'fit.json');
  const told = await runCli(['fit', log, '--folder', own, '--by', 'platform', '--take', '--out', out]);
  expect([told.code, told.err]).toEqual([0, '']);
  expect(told.out).toMatch(/^100 players, .* events and .* purchases in 14 days\.\n2 groups\.\n/);
  expect(told.out).toMatch(/phone \(fitted_phone\)\nFitted to \d+ players of a log: \d.* sessions a day/);
  expect(told.out).toMatch(/Against \d+ players held out: \d+ of \d+ within 95 %\./);
  expect(told.out).toMatch(/place +Harbour race +\d.* 1: \d.* %, 2: /);
  expect(told.out).toMatch(/persona phone: added\nscenario As in the log: added\n/);
  const { personas } = JSON.parse(readFileSync(out, 'utf8')) as FitResult;
  expect(Object.keys(personas)).toEqual(['fitted_phone', 'fitted_desktop']);
  expect((await runCli(['audit', own])).code).toBe(0);
  const run = await runCli(['simulate', 'fitted', '--folder', own, '--json']);
  expect(JSON.parse(run.out)).toMatchObject({ days: 14, personas: [{ id: 'fitted_phone' }, { id: 'fitted_desktop' }] });
});

test('on the service it becomes one revision of the draft, with its note', async () => {
  const log = written('log.ndjson', lines.slice(0, 3000).join('\n'));
  const { saved } = JSON.parse((await cli('fit', log, '--groups', '1', '--take', '--json')).out) as {
    saved: { revision: number };
  };
  expect(saved).toMatchObject({ revision: 2 });
  const { items } = await stall.as('read').call('GET /draft/revisions', { query: {} });
  expect(items[0]).toMatchObject({ why: `fitted to ${log}` });
  const { document } = await stall.as('read').call('GET /draft');
  expect(document.scenarios!['fitted']).toMatchObject({ days: expect.any(Number) as number, mix: { fitted_1: 99 } });
});

test('broken lines are told by their number, and left out when asked', async () => {
  const log = written('log.ndjson', [...lines.slice(0, 400), '{"player":"p001"'].join('\n'));
  const refused = await runCli(['fit', log, '--folder', DEMO_FOLDER]);
  expect([refused.code, refused.out]).toEqual([1, expect.stringMatching(/log\.ndjson:401.*it is no JSON object/)]);
  const fitted = await runCli(['fit', log, '--folder', DEMO_FOLDER, '--groups', '1', '--skip-broken']);
  expect([fitted.code, fitted.out]).toEqual([0, expect.stringMatching(/1 line left out.*Nothing was saved/s)]);
});

test.each([
  [['--by', 'platfrom'], 2, /no attribute "platfrom"\. Attributes: /],
  [['--by', 'platform', '--groups', '2'], 2, /leave --by or --groups out/],
  [['--source', 'live', '--take'], 2, /Only the draft can be changed/],
])('%j is refused', async (more, code, words) => {
  const log = written('log.ndjson', lines.slice(0, 50).join('\n'));
  const folderOrNot = more.includes('--source') ? [] : ['--folder', DEMO_FOLDER];
  const { code: exit, err } = await runCli(['fit', log, ...folderOrNot, ...more]);
  expect([exit, err]).toEqual([code, expect.stringMatching(words)]);
});

test('a log of another game, and what only looks packed, are refused with a sentence', async () => {
  const other = written('log.csv', 'player,at,event\noda,2027-03-01,dive\n');
  expect((await runCli(['fit', other, '--folder', DEMO_FOLDER])).err).toMatch(
    /may be of another game\. In the log: dive/,
  );
  const torn = written('log.gz', gzipSync(lines.join('\n')).subarray(0, 4000));
  expect((await runCli(['fit', torn, '--folder', DEMO_FOLDER])).err).toMatch(/log\.gz cannot be unpacked: /);
});
