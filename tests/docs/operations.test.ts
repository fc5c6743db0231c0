/** docs/operations.md, followed literally: a backup of a service that runs, and a restore under it. */
import { spawn } from 'node:child_process';
import { once } from 'node:events';
import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { packageRoot } from '../../src/service/index.js';
import { Served } from '../support/served.js';
import { tourSteps } from '../support/tour.js';

let served: Served;
beforeAll(async () => {
  served = await Served.demo();
});
afterAll(() => served.end());

async function typed(command: string): Promise<string> {
  const env = { ...process.env, PATH: `${join(packageRoot(), 'script')}:${process.env['PATH']}` };
  const child = spawn('bash', ['-c', command], { cwd: served.folder.path, env, stdio: ['ignore', 'pipe', 'inherit'] });
  let said = '';
  child.stdout.on('data', (chunk: Buffer) => (said += chunk.toString()));
  await once(child, 'close');
  return said.trim().replace(/replaced-[\dT-]+/, 'replaced-TIME');
}

test('the drill goes as it is written', async () => {
  const steps = tourSteps(readFileSync(join(packageRoot(), 'docs/operations.md'), 'utf8'));
  expect(steps).toHaveLength(3);
  for (const { command, output } of steps) {
    if (command.startsWith('dimestall restore')) await served.client.call('POST /players', { body: { id: 'late' } });
    expect(`$ ${command}\n${await typed(command)}`).toBe(`$ ${command}\n${output}`);
  }
  while (!(await fetch(`${served.url}/readyz`)).ok) await new Promise((go) => setTimeout(go, 20));
  const players = await served.client.call('GET /players');
  expect(players.items.map(({ id }) => id)).toEqual(['mateo']);
});

test('its table of figures is what the service tells, no more and no less', async () => {
  const written = readFileSync(join(packageRoot(), 'docs/operations.md'), 'utf8');
  const table = written.split('\n').filter((line) => line.startsWith('| `dimestall_'));
  const inDocs = table.flatMap((line) => [...line.split('|')[1]!.matchAll(/`(\w+)`/g)].map(([, name]) => name));
  const metrics = await (await fetch(`${served.url}/metrics`)).text();
  const told = [...metrics.matchAll(/^# TYPE (dimestall_\w+) /gm)].map(([, name]) => name);
  expect(inDocs.sort()).toEqual(told.sort());
});
