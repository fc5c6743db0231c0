/** A cut of the power, as a process feels it: what it had not yet had put on disk is gone. */
import { execFileSync } from 'node:child_process';
import { closeSync, existsSync, ftruncateSync, openSync, readFileSync, readdirSync, rmSync, writeSync } from 'node:fs';
import { join } from 'node:path';
import { packageRoot } from '../../src/service/index.js';

/** Compiles what remembers it into a folder, and gives the environment of a process that is to be cut off. */
export function powerCutEnvironment(folder: string): Record<string, string> {
  const library = join(folder, 'powerCut.so');
  const source = join(packageRoot(), 'tests/support/powerCut.c');
  execFileSync('cc', ['-shared', '-fPIC', '-O1', '-w', '-o', library, source, '-ldl', '-lpthread']);
  return { LD_PRELOAD: library };
}

const HEAD_BYTES = 24;

/** Undoes in all files of a folder what was not on disk, once the process is dead. Gives how many writes it undid. */
export function powerCut(folder: string): number {
  let undone = 0;
  for (const name of readdirSync(folder).filter((one) => one.endsWith('.past'))) {
    const past = readFileSync(join(folder, name));
    const writes: { at: number; size: number; bytes: Buffer }[] = [];
    for (let from = 0; from + HEAD_BYTES <= past.length;) {
      const [at, count, size] = [0, 8, 16].map((place) => Number(past.readBigInt64LE(from + place))) as [
        number,
        number,
        number,
      ];
      writes.push({ at, size, bytes: past.subarray(from + HEAD_BYTES, from + HEAD_BYTES + count) });
      from += HEAD_BYTES + count;
    }
    const path = join(folder, name.slice(0, -'.past'.length));
    if (writes.length > 0 && existsSync(path)) {
      const file = openSync(path, 'r+');
      for (const { at, size, bytes } of writes.reverse()) {
        if (bytes.length > 0) writeSync(file, bytes, 0, bytes.length, at);
        ftruncateSync(file, size);
      }
      closeSync(file);
      undone += writes.length;
    }
    rmSync(join(folder, name));
  }
  // It lies in memory that all processes share, and is gone with the power.
  for (const name of readdirSync(folder).filter((one) => one.endsWith('.sqlite-shm'))) rmSync(join(folder, name));
  return undone;
}
