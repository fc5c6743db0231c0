/** Work on the database that would hold up those who play, done by a process of its own. */
import { spawn } from 'node:child_process';
import { join } from 'node:path';
import { packageRoot } from '../packageRoot.js';

const MAIN = join(packageRoot(), 'dist/service/main.js');

/** Looks through the pages of a database, as SQLite does. Fails where that cannot be done, and with `Damaged` where it is. */
export const checkProcess = (data: string, signal?: AbortSignal): Promise<string> =>
  ownProcess(['verify', '--pages', '--data', data], signal);

export class Damaged extends Error {}
/** How the process that looks says so. */
export const DAMAGED = 4;

/** Runs a command of the service, and gives what it printed. Fails with its words. `signal` ends it. */
export function ownProcess(args: readonly string[], signal?: AbortSignal): Promise<string> {
  return new Promise((done, failed) => {
    const child = spawn(process.execPath, [MAIN, ...args], {
      stdio: ['ignore', 'pipe', 'pipe'],
      ...(signal ? { signal } : {}),
    });
    let printed = '';
    let told = '';
    child.stdout.on('data', (chunk: Buffer) => (printed += chunk.toString()));
    child.stderr.on('data', (chunk: Buffer) => (told += chunk.toString()));
    child.once('error', failed);
    child.once('close', (code) => {
      const words = told.trim() || `it ended with ${code}`;
      if (code === 0) done(printed);
      else failed(code === DAMAGED ? new Damaged(words) : new Error(words));
    });
  });
}
