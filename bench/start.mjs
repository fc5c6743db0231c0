// How long the command line takes as a process, against a bare Node. Goals: help at most 2.5 times, whoami and check at
// most 4 times.
import { spawn } from 'node:child_process';
import { once } from 'node:events';
import { serviceStart } from '../dist/service/index.js';
import { compare, loadDemo, secondsOf } from './support.mjs';

const { service, url, close } = await serviceStart({ data: ':memory:', port: 0, logLevel: 'silent' });
const prepared = service.draft.prepare(loadDemo().document, 0);
await service.writer.submit(() => service.draft.save(prepared, 'bench', 'bench'));
await service.publish({ note: 'bench', channel: 'live', revision: 1, atMs: undefined }, 'bench');
const env = { ...process.env, DIMESTALL_URL: url, DIMESTALL_TOKEN: service.access.issue('bench', 'admin') };

const run =
  (...args) =>
  async () =>
    1 /
    (await secondsOf(async () => {
      const child = spawn(process.execPath, args, { stdio: 'ignore', env });
      const [code] = await once(child, 'exit');
      if (code !== 0) throw new Error(`${args.join(' ')} ended with ${code}`);
    }));
const main = new URL('../dist/cli/main.js', import.meta.url).pathname;

await compare(
  'Starting the command line (processes per second)',
  'per s',
  {
    'node -e 0': run('-e', '0'),
    'dimestall help (goal: at most 2.5)': run(main, 'help'),
    'dimestall whoami (goal: at most 4)': run(main, 'whoami'),
    'dimestall check (goal: at most 4)': run(main, 'check', 'wax_1', '--holds', 'shells=50'),
  },
  9,
);
await close();
