/** Copies of a database that hold together. */
import { existsSync, renameSync, rmSync, statSync } from 'node:fs';
import Sqlite from 'better-sqlite3';
import { databaseRead, identityRenew } from './database.js';
import { DatabaseProblem, databaseProblem } from './databaseProblem.js';
import { moveInto, ownerOnly } from './files.js';
import { isOlder } from './upgrade.js';
import { integrityCheck, sqliteFaults } from './integrity.js';
import type { IntegrityReport } from './integrity.js';

export interface Copied extends IntegrityReport {
  bytes: number;
  /** It is of an older version: SQLite alone has looked at it, and nothing in it was counted. */
  older: boolean;
}

/** Pages that are copied between two looks at what else is to be done. */
const PAGES = 2000;

/**
 * Copies the database at `path`, which a service may be writing, to a new file: one state of it, without what is written
 * meanwhile. It counts once everything in it agrees, as `verify` says; a file of that name is never written over. Throws
 * `DatabaseProblem`.
 */
export async function databaseBackup(path: string, to: string): Promise<Copied> {
  if (existsSync(to)) throw new DatabaseProblem(`There is a file ${to} already. Name another: a backup replaces none.`);
  const copied = await copyChecked(path, to, `${to}.partial`);
  if (copied.faults.length > 0) {
    renameSync(`${to}.partial`, `${to}.faulty`);
    throw new DatabaseProblem(
      `What is in ${path} does not agree, so this is no backup: ${copied.faults.slice(0, 3).join('; ')}. The copy is kept as ${to}.faulty. Find what is wrong with: dimestall verify --data ${to}.faulty`,
    );
  }
  moveInto(`${to}.partial`, to);
  return copied;
}

/** Copies `from` to `partial` and checks the copy; `to` is what it is meant for, in words. */
export async function copyChecked(from: string, to: string, partial: string): Promise<Copied> {
  for (const end of ['', '-journal', '-wal', '-shm']) rmSync(partial + end, { force: true });
  const source = databaseRead(from, { older: true });
  try {
    // A transaction that reads holds on to one state: a writer would have the copy begin anew each time.
    source.raw.exec('BEGIN');
    source.raw.prepare('SELECT count(*) FROM sqlite_master').get();
    await source.raw.backup(partial, { progress: () => PAGES });
    ownerOnly(partial);
  } catch (error) {
    for (const end of ['', '-journal']) rmSync(partial + end, { force: true });
    throw databaseProblem(error instanceof Error && 'code' in error && error.code === 'SQLITE_FULL' ? to : from, error);
  } finally {
    source.close();
  }
  const raw = new Sqlite(partial);
  try {
    // One file, with nothing beside it.
    raw.pragma('journal_mode = DELETE');
    // What lies beside the file that was copied does not belong to this one.
    identityRenew(raw);
    const older = isOlder(raw, from);
    const report = older ? { ...UNCOUNTED, faults: sqliteFaults(raw) } : integrityCheck({ raw });
    return { ...report, bytes: statSync(partial).size, older };
  } catch (error) {
    throw databaseProblem(from, error);
  } finally {
    raw.close();
  }
}

const UNCOUNTED = { players: 0, movements: 0, purchases: 0 };
