/** The service as a process of its own. */
import { spawn } from 'node:child_process';
import type { ChildProcess } from 'node:child_process';
import { join } from 'node:path';
import { packageRoot } from '../packageRoot.js';

const SERVICE_MAIN = join(packageRoot(), 'dist/service/main.js');

/** Starts it; what stops this process stops it too. */
export function serviceProcess(args: string[], stdio: 'inherit' | ['inherit', 'pipe', 'inherit']): ChildProcess {
  const child = spawn(process.execPath, [SERVICE_MAIN, ...args], { stdio });
  for (const signal of ['SIGINT', 'SIGTERM'] as const) process.on(signal, () => child.kill(signal));
  return child;
}

/** Resolves with its exit code. */
export const exitOf = (child: ChildProcess): Promise<number> =>
  new Promise((done) => {
    child.on('exit', (code) => done(code ?? 0));
  });
