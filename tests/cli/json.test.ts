/** `--json` answers in JSON whatever happens, problems included. */
import { cpSync, mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { DEMO_FOLDER } from '../support/economy.js';
import { runCli } from '../support/cli.js';
import { scratchFolder } from '../support/stall.js';

const folder = scratchFolder();
afterAll(() => folder.remove());

const broken = join(folder.path, 'broken');
cpSync(DEMO_FOLDER, broken, { recursive: true });
const items = join(broken, 'items.yaml');
writeFileSync(items, readFileSync(items, 'utf8').replace('worth:', 'wroth:'));
const notJson = join(folder.path, 'result.json');
writeFileSync(notJson, 'day, shells');
const csv = join(folder.path, 'items.csv');
writeFileSync(csv, 'id,stack\ndrift_frame,many\n');
const odd = join(folder.path, 'odd');
mkdirSync(join(odd, 'economy.yaml'), { recursive: true });

const asked = async (...args: string[]) => {
  // No service listens there: what needs none never asks it.
  const { code, out, err } = await runCli([...args, '--json', '--url', 'http://127.0.0.1:9']);
  return {
    code,
    err,
    ...(JSON.parse(out) as { problem: { title: string; detail: string } & Record<string, unknown> }),
  };
};

test.each([
  ['audit', broken],
  ['diff', broken, broken],
  ['push', broken],
  ['check', 'storm_frame', '--folder', broken],
  ['odds', 'drift_finds', '--folder', broken],
  ['calendar', '--folder', broken],
  ['simulate', 'season', '--folder', broken],
  ['where', 'asset', 'shells', '--folder', broken],
  ['csv', 'export', 'items', '--folder', broken],
  ['edit', 'reprice', '10', '--group', 'sails', '--folder', broken],
])('%s on a folder that cannot be read tells file, line and column', async (...args) => {
  const { code, err, problem } = await asked(...args);
  expect(code).toBe(1);
  expect(err).toMatch(/^1 problem in /);
  expect(problem).toMatchObject({
    title: 'Refused',
    findings: [{ code: 'unknown-field', place: { file: items, line: 12, column: expect.any(Number) as number } }],
  });
});

test.each<[number, string, RegExp, ...string[]]>([
  [2, 'Wrong use', /There is no folder ".*nowhere"/, 'audit', join(folder.path, 'nowhere')],
  [2, 'Wrong use', /economy\.yaml" is a folder, and a file is wanted/, 'audit', odd],
  [2, 'Wrong use', /result\.json" is no JSON/, 'compare', notJson, notJson],
  [2, 'Wrong use', /none\.csv" is not there/, 'csv', 'import', 'items', 'none.csv', '--folder', DEMO_FOLDER],
  [2, 'Wrong use', /unknown option '--persent'/, 'edit', 'reprice', '--persent', '5'],
  [3, 'Service unreachable', /No answer from/, 'whoami'],
])('exit code %d, %s: %s', async (exit, title, detail, ...args) => {
  const { code, err, problem } = await asked(...args);
  expect(code).toBe(exit);
  expect(problem.title).toBe(title);
  expect(problem.detail).toMatch(detail);
  // A person reads the same on stderr.
  expect(err).toMatch(detail);
});

test('cells of a CSV file that cannot be read are listed', async () => {
  const { code, problem } = await asked('csv', 'import', 'items', csv, '--folder', DEMO_FOLDER, '--preview');
  expect(code).toBe(1);
  expect(problem['cells']).toEqual([expect.objectContaining({ line: 2, column: 'stack' })]);
});
