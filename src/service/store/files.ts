/** Files of which it matters who reads them, and when they are on the disk. */
import { chmodSync, chownSync, closeSync, existsSync, fsyncSync, openSync, renameSync, statSync } from 'node:fs';
import { dirname } from 'node:path';

/** The rights of everybody but the owner. */
const OTHERS = 0o077;

/** Takes away what others were given, whatever was there before: it names players and holds the hashes of tokens. */
export function ownerOnly(path: string): void {
  for (const file of ['', '-wal', '-shm', '.lock', '.run'].map((end) => path + end)) {
    ofTheFolder(file);
    const mode = statSync(file, { throwIfNoEntry: false })?.mode;
    try {
      if (mode !== undefined && (mode & OTHERS) !== 0) chmodSync(file, mode & ~OTHERS);
    } catch (error) {
      // Somebody else's file, which only they can close.
      if ((error as { code?: string }).code !== 'EPERM') throw error;
    }
  }
}

/** What an administrator makes belongs to whom the folder belongs to: the service, which could not open it otherwise. */
export function ofTheFolder(file: string): void {
  if (process.getuid?.() !== 0 || !existsSync(file)) return;
  const { uid, gid } = statSync(dirname(file));
  if (statSync(file).uid !== uid) chownSync(file, uid, gid);
}

/** Gives a file its name once it is whole: both the file and its name are on the disk before it counts. */
export function moveInto(partial: string, to: string): void {
  onDisk(partial);
  renameSync(partial, to);
  onDisk(dirname(to));
}

function onDisk(path: string): void {
  const file = openSync(path, 'r');
  fsyncSync(file);
  closeSync(file);
}

/** The same name, with a number after it where there is such a file. */
export function freeName(path: string): string {
  if (!existsSync(path)) return path;
  let number = 2;
  while (existsSync(`${path}-${number}`)) number++;
  return `${path}-${number}`;
}
