/** The command line, the way people and pipelines run it. */
import { spawn } from 'node:child_process';
import { join } from 'node:path';
import { run } from '../../src/cli/run.js';
import { packageRoot } from '../../src/service/index.js';

export const CLI = join(packageRoot(), 'dist/cli/main.js');

export interface Outcome {
  code: number | null;
  out: string;
  err: string;
}

interface Surroundings {
  env?: Record<string, string>;
  cwd?: string;
}

/** As a process of its own: where that is the point, or where the command is one of the service. */
export function runProcess(args: readonly string[], { env, cwd = packageRoot() }: Surroundings = {}): Promise<Outcome> {
  return new Promise((resolve) => {
    const child = spawn(process.execPath, [...process.execArgv, CLI, ...args], {
      env: { PATH: process.env['PATH'] ?? '', DIMESTALL_CHECK_ANSWERS: '1', ...env },
      cwd,
      stdio: ['ignore', 'pipe', 'pipe'],
    });
    const text = { out: '', err: '' };
    child.stdout.on('data', (chunk: Buffer) => {
      text.out += chunk.toString();
    });
    child.stderr.on('data', (chunk: Buffer) => {
      text.err += chunk.toString();
    });
    child.on('close', (code) => resolve({ code, ...text }));
  });
}

let last: Promise<unknown> = Promise.resolve();

/** The same from its sources and in this process: one after the other, since they share its streams and environment. */
export function runCli(args: readonly string[], surroundings: Surroundings = {}): Promise<Outcome> {
  const outcome = last.then(() => runHere(args, surroundings));
  last = outcome;
  return outcome;
}

async function runHere(args: readonly string[], { env = {}, cwd = packageRoot() }: Surroundings): Promise<Outcome> {
  const text = { out: '', err: '' };
  const [before, folder] = [process.env, process.cwd()];
  const [out, err] = [process.stdout.write.bind(process.stdout), process.stderr.write.bind(process.stderr)];
  const into = (stream: 'out' | 'err') => (chunk: string | Uint8Array) => {
    text[stream] += chunk.toString();
    return true;
  };
  process.stdout.write = into('out');
  process.stderr.write = into('err');
  const plain = Object.entries(before).filter(([name]) => !name.startsWith('DIMESTALL_'));
  process.env = { ...Object.fromEntries(plain), ...env };
  process.chdir(cwd);
  try {
    return { code: await run(args), ...text };
  } finally {
    process.chdir(folder);
    process.env = before;
    process.stdout.write = out;
    process.stderr.write = err;
  }
}
