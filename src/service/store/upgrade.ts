/**
 * A database of an older version is brought along: copied first, then its tables are changed, then what SQL alone cannot
 * say. The copy is the way back.
 */
import { constants, copyFileSync, readFileSync, rmSync, statSync, statfsSync } from 'node:fs';
import { dirname, join } from 'node:path';
import Sqlite from 'better-sqlite3';
import { drizzle } from 'drizzle-orm/better-sqlite3';
import { migrate } from 'drizzle-orm/better-sqlite3/migrator';
import { packageRoot } from '../../packageRoot.js';
import { bringAlong, stepsPending } from './bringAlong.js';
import { DatabaseProblem } from './databaseProblem.js';
import { freeName, moveInto, ownerOnly } from './files.js';

const MIGRATIONS = join(packageRoot(), 'migrations');

/** Copying and changing went at 600 MB/s on the disk that it was measured on: less is told, since disks differ. */
const BYTES_PER_S = 100e6;

export interface UpgradePlan {
  /** Changes of its tables and of what is in them that are still to be made; none where it is up to date. */
  changes: number;
  /** Of the file. */
  bytes: number;
  /** About how long it takes. */
  seconds: number;
  /** What the copy of before will be called, and what is left of its disk, in bytes. */
  copy: string;
  freeBytes: number;
}

/** What is to be done to a database before it can be used. Throws `DatabaseProblem` where it is of a newer version. */
export function upgradePlan(raw: Sqlite.Database, path: string): UpgradePlan {
  const changes = migrationsPending(raw, path) + stepsPending(raw);
  const bytes = statSync(path).size;
  const { bavail, bsize } = statfsSync(dirname(path));
  return {
    changes,
    bytes,
    seconds: changes === 0 ? 0 : Math.ceil(bytes / BYTES_PER_S),
    copy: copyName(raw, path),
    freeBytes: bavail * bsize,
  };
}

/** Held by a process that brings a database along for a service: it may outlive the one that asked for it. */
export const upgradeLock = (path: string): string => `${path}.upgrading`;

/** What a copy of before an upgrade is called, without the number of changes that it has. */
export const copyPrefix = (path: string): string => `${path}.before-migration-`;

const copyName = (raw: Sqlite.Database, path: string): string => freeName(copyPrefix(path) + appliedMigrations(raw));

/** Inside of whoever alone writes it. `existed`: there is something in it to go back to. */
export function upgrade(raw: Sqlite.Database, path: string, existed: boolean): void {
  const pending = migrationsPending(raw, path) + stepsPending(raw);
  if (pending === 0) return;
  if (existed && appliedMigrations(raw) === 0 && hasTables(raw)) throw isForeign(path);
  if (existed && appliedMigrations(raw) > 0) copyBefore(raw, path);
  migrate(drizzle(raw), { migrationsFolder: MIGRATIONS });
  bringAlong(raw);
}

/** One that was cut off counts for nothing; one that is whole may be all that there is of a database, and stays. */
function copyBefore(raw: Sqlite.Database, path: string): void {
  const copy = copyName(raw, path);
  const partial = `${copyPrefix(path)}partial`;
  rmSync(partial, { force: true });
  const [log] = raw.pragma('wal_checkpoint(TRUNCATE)') as [{ busy: number }];
  if (log.busy !== 0)
    throw new DatabaseProblem(
      `Another process reads ${path}, which is to be copied and brought along. End that first.`,
    );
  // Nobody else writes either, a token for one: the file is all there is.
  raw.exec('BEGIN IMMEDIATE');
  try {
    copyFileSync(path, partial, constants.COPYFILE_FICLONE);
    ownerOnly(partial);
    asOneFile(partial);
    moveInto(partial, copy);
  } catch (error) {
    rmSync(partial, { force: true });
    if ((error as { code?: string }).code !== 'ENOSPC') throw error;
    throw new DatabaseProblem(
      `There is no room for a copy of ${path}, which is made before it is brought along: ${Math.ceil(statSync(path).size / 1e6)} MB are needed. Make room, then start again; nothing was changed.`,
    );
  } finally {
    raw.exec('COMMIT');
  }
}

/** Whoever looks into it leaves nothing beside it. */
function asOneFile(path: string): void {
  const raw = new Sqlite(path);
  raw.pragma('journal_mode = DELETE');
  raw.close();
}

/** Whether it is to be brought along. Throws where it is of a newer version, or no database of Dime Stall at all. */
export function isOlder(raw: Sqlite.Database, path: string): boolean {
  if (appliedMigrations(raw) === 0) throw isForeign(path);
  return migrationsPending(raw, path) > 0;
}

const isForeign = (path: string): DatabaseProblem =>
  new DatabaseProblem(`The database ${path} is none of Dime Stall. Name another.`);

const tableCount = (raw: Sqlite.Database, where: string): number =>
  raw.prepare(`SELECT count(*) FROM sqlite_master WHERE ${where}`).pluck().get() as number;
/** Whether there is anything in it; a list of migrations is begun before the first. */
const hasTables = (raw: Sqlite.Database): boolean => tableCount(raw, "name <> '__drizzle_migrations'") > 0;

export function appliedMigrations(raw: Sqlite.Database): number {
  if (tableCount(raw, "name = '__drizzle_migrations'") === 0) return 0;
  return raw.prepare('SELECT count(*) FROM __drizzle_migrations').pluck().get() as number;
}

/** How many are still to be done. Throws where more were done than are known here. */
export function migrationsPending(raw: Sqlite.Database, path: string): number {
  const journal = JSON.parse(readFileSync(join(MIGRATIONS, 'meta', '_journal.json'), 'utf8')) as { entries: unknown[] };
  const pending = journal.entries.length - appliedMigrations(raw);
  if (pending < 0)
    throw new DatabaseProblem(
      `The database ${path} is of a newer version of Dime Stall. Use that version, or go back with it: dimestall rollback --data ${path}. Or put a backup from before it in its place: dimestall restore BACKUP.`,
    );
  return pending;
}
