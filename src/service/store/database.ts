/** Opens the database: durable settings, one service at a time, and whatever brings an older one along. */
import { randomInt } from 'node:crypto';
import {
  closeSync,
  existsSync,
  mkdirSync,
  openSync,
  readFileSync,
  readSync,
  rmSync,
  statSync,
  statfsSync,
  writeFileSync,
} from 'node:fs';
import { dirname } from 'node:path';
import Sqlite from 'better-sqlite3';
import { drizzle } from 'drizzle-orm/better-sqlite3';
import type { BetterSQLite3Database } from 'drizzle-orm/better-sqlite3';
import { DatabaseProblem, databaseAdvice, databaseProblem } from './databaseProblem.js';
import { ofTheFolder, ownerOnly } from './files.js';
import { moveMustBeWhole } from './restoreMark.js';
import { isOlder, migrationsPending, upgrade, upgradePlan } from './upgrade.js';
import type { UpgradePlan } from './upgrade.js';

export interface Database {
  db: BetterSQLite3Database;
  raw: Sqlite.Database;
  path: string;
  /** Whether `path` still leads to the file that was opened. */
  isOnDisk(): boolean;
  /** Of the file, in bytes. */
  size(): number;
  /** Has what was answered written into the file itself, and empties the log, as far as nobody reads from it. */
  checkpoint(): void;
  /** What is left of its disk, in bytes. */
  diskFree(): number;
  close(): void;
}

/**
 * Opens it for the one service that writes it, makes it where it is not there, and brings it along. `data` is a file,
 * `:memory:`, or the bytes of a database, which is held in memory then. Throws `DatabaseProblem` with what to do when it
 * cannot be used.
 */
export function databaseOpen(data: string | Buffer): Database {
  const path = typeof data === 'string' ? data : ':memory:';
  const isFile = path !== ':memory:';
  let lock: Sqlite.Database | undefined;
  let raw: Sqlite.Database | undefined;
  try {
    if (isFile) mkdirSync(dirname(path), { recursive: true });
    const existed = isFile && existsSync(path);
    if (isFile) lock = lockTake(path);
    if (isFile) filesMustBelong(path);
    raw = new Sqlite(data);
    if (isFile) ownerOnly(path);
    for (const setting of SETTINGS) raw.pragma(setting);
    // A file that cannot be written is told before anything is done with it.
    raw.pragma(`user_version = ${raw.pragma('user_version', { simple: true }) as number}`);
    upgrade(raw, path, existed);
    if (isFile) identityWrite(raw, path);
    // From here on a lock that another process holds is waited for by the writer, which keeps answering meanwhile.
    raw.pragma('busy_timeout = 0');
    const [opened, held] = [raw, lock];
    return databaseOf(opened, path, () => {
      opened.close();
      held?.close();
    });
  } catch (error) {
    raw?.close();
    lock?.close();
    throw databaseProblem(path, error);
  }
}

// FULL: an answered purchase survives a power cut. The writer commits in groups to afford it.
const SETTINGS = [
  'journal_mode = WAL',
  'synchronous = FULL',
  'foreign_keys = ON',
  'busy_timeout = 2000',
  // What is removed is overwritten: nothing of who was erased stays in the bytes of the file.
  'secure_delete = ON',
];

function databaseOf(raw: Sqlite.Database, path: string, close = () => void raw.close()): Database {
  const opened = path === ':memory:' ? undefined : statSync(path).ino;
  const isOnDisk = () => opened === undefined || statSync(path, { throwIfNoEntry: false })?.ino === opened;
  const diskFree = () => {
    if (opened === undefined) return Infinity;
    const { bavail, bsize } = statfsSync(dirname(path));
    return bavail * bsize;
  };
  const checkpoint = () => void raw.pragma('wal_checkpoint(TRUNCATE)');
  const size = () => statSync(path, { throwIfNoEntry: false })?.size ?? 0;
  return { db: drizzle(raw), raw, path, isOnDisk, size, checkpoint, diskFree, close };
}

/** The lock stands beside the database: what keeps it from being made is the folder. */
const LOCK_ADVICE: Record<string, string> = { SQLITE_CANTOPEN: 'EACCES', SQLITE_READONLY: 'EACCES' };

/**
 * Holds a lock beside the database for as long as the process lives; the system takes it back when that dies, so that
 * one that was left over is no obstacle. SQLite's own locks are used, on a file with nothing in it.
 */
export function lockTake(path: string): Sqlite.Database {
  let lock: Sqlite.Database | undefined;
  try {
    lock = new Sqlite(`${path}.lock`, { timeout: 0 });
    ofTheFolder(`${path}.lock`);
    // Nothing is ever written into it.
    lock.pragma('journal_mode = MEMORY');
    lock.exec('BEGIN EXCLUSIVE');
    return lock;
  } catch (error) {
    lock?.close();
    const { code } = error as { code?: string };
    if (code !== 'SQLITE_BUSY')
      throw new DatabaseProblem(
        databaseAdvice(path, { message: (error as Error).message, code: LOCK_ADVICE[code ?? ''] ?? code }),
      );
    throw new DatabaseProblem(
      `The database ${path} is in use by a service that runs: two would sell the same stock twice. Stop that one first, or name another file with --data.`,
    );
  }
}

/** Whether somebody holds the lock beside a file. */
export function isLocked(path: string): boolean {
  if (!existsSync(`${path}.lock`)) return false;
  try {
    lockTake(path).close();
    return false;
  } catch {
    return true;
  }
}

/** Whether the service that had it before was cut off: what it answered last is still in the log. */
export const wasCutOff = (path: string): boolean => (statSync(`${path}-wal`, { throwIfNoEntry: false })?.size ?? 0) > 0;

/** Removes a database with all that stands beside it, unless a service runs on it. */
export function databaseRemove(path: string): void {
  if (!existsSync(path)) return;
  const lock = lockTake(path);
  try {
    for (const end of ['', '-wal', '-shm', '.run']) rmSync(path + end, { force: true });
  } finally {
    lock.close();
  }
}

/** Which opening of a database the log beside it (`-wal`) was begun in. */
export const runFile = (path: string): string => `${path}.run`;

/** Where SQLite keeps the application's number in the first bytes of a file, and how long those are. */
const IDENTITY_AT = 68;
const HEAD = 100;

/** Gives a database a number that no other has, in its first bytes. */
export function identityRenew(raw: Sqlite.Database): number {
  const identity = randomInt(1, 2 ** 31);
  raw.pragma(`application_id = ${identity}`);
  return identity;
}

/** Each opening has a number of its own, in the file and beside it: a log that goes on after a crash can be told to be of this file. */
function identityWrite(raw: Sqlite.Database, path: string): void {
  const identity = identityRenew(raw);
  raw.pragma('wal_checkpoint(TRUNCATE)');
  writeFileSync(runFile(path), String(identity), { mode: 0o600 });
  ofTheFolder(runFile(path));
}

/**
 * Whoever copies another file over a database leaves the log of the old one beside it, which SQLite would write into the
 * new one. Throws `DatabaseProblem` before it is opened.
 */
function filesMustBelong(path: string): void {
  moveMustBeWhole(path);
  const log = statSync(`${path}-wal`, { throwIfNoEntry: false });
  if (!log || log.size === 0 || !existsSync(path) || !existsSync(runFile(path))) return;
  const head = Buffer.alloc(HEAD);
  const file = openSync(path, 'r');
  readSync(file, head, 0, HEAD, 0);
  closeSync(file);
  if (String(head.readInt32BE(IDENTITY_AT)) === readFileSync(runFile(path), 'utf8').trim()) return;
  throw new DatabaseProblem(
    `Beside ${path} lies ${path}-wal, the log of another database: a file was put in its place by hand. Nothing was opened, since the two together would be damaged. Put a backup in its place with: dimestall restore BACKUP --data ${path}. Where the file is whole as it is, move ${path}-wal and ${path}-shm away first.`,
  );
}

/**
 * Opens one that is there, beside the service that may run on it: to add to it in small, and never to make it or bring
 * it along.
 */
export function databaseBeside(path: string): Database {
  if (!existsSync(path)) throw databaseMissing(path);
  let raw: Sqlite.Database | undefined;
  try {
    filesMustBelong(path);
    raw = new Sqlite(path, { fileMustExist: true });
    for (const setting of SETTINGS) raw.pragma(setting);
    migratedMust(raw, path);
    return databaseOf(raw, path);
  } catch (error) {
    raw?.close();
    throw databaseProblem(path, error);
  }
}

/** The same for looking only. `data` may be the bytes of a database too. `older`: what a newer service has not brought along yet will do. */
export function databaseRead(data: string | Buffer, { older = false } = {}): Database {
  const path = typeof data === 'string' ? data : ':memory:';
  if (path !== ':memory:' && !existsSync(path)) throw databaseMissing(path);
  let raw: Sqlite.Database | undefined;
  try {
    if (path !== ':memory:') filesMustBelong(path);
    raw = new Sqlite(data, { readonly: true });
    if (!(older && isOlder(raw, path))) migratedMust(raw, path);
    return databaseOf(raw, path);
  } catch (error) {
    raw?.close();
    throw databaseProblem(path, error);
  }
}

/** What would be done to it before it could be used. Throws `DatabaseProblem`. */
export function databaseUpgradePlan(path: string): UpgradePlan {
  const { raw, close } = databaseRead(path, { older: true });
  try {
    return upgradePlan(raw, path);
  } finally {
    close();
  }
}

/** Gives its size in bytes; throws where there is none. */
export function databaseMustExist(path: string): number {
  const size = statSync(path, { throwIfNoEntry: false })?.size;
  if (size === undefined) throw databaseMissing(path);
  return size;
}

const databaseMissing = (path: string): DatabaseProblem =>
  new DatabaseProblem(`There is no database ${path}. Name it with --data.`);

function migratedMust(raw: Sqlite.Database, path: string): void {
  if (migrationsPending(raw, path) > 0)
    throw new DatabaseProblem(
      `The database ${path} is of an older version. Start the service on it once, which brings it along, then try again.`,
    );
}
