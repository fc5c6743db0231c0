/** The command line as a process, the way people and pipelines run it. */
import { spawn } from 'node:child_process';
import { join } from 'node:path';
import { packageRoot } from '../../src/service/index.js';

export const CLI = join(packageRoot(), 'dist/cli/main.js');

export interface Outcome {
  code: number | null;
  out: string;
  err: string;
}

export function runCli(
  args: readonly string[],
  options: { env?: Record<string, string>; cwd?: string } = {},
): Promise<Outcome> {
  return new Promise((resolve) => {
    const child = spawn(process.execPath, [CLI, ...args], {
      env: { PATH: process.env['PATH'] ?? '', DIMESTALL_CHECK_ANSWERS: '1', ...options.env },
      cwd: options.cwd ?? packageRoot(),
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
