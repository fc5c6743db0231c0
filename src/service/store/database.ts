/** Opens the database: durable settings, a backup before any migration, and the migrations themselves. */
import { existsSync, mkdirSync, readFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import Sqlite from 'better-sqlite3';
import { drizzle } from 'drizzle-orm/better-sqlite3';
import type { BetterSQLite3Database } from 'drizzle-orm/better-sqlite3';
import { migrate } from 'drizzle-orm/better-sqlite3/migrator';
import { packageRoot } from '../packageRoot.js';
import { bringAlong } from './bringAlong.js';

export interface Database {
  db: BetterSQLite3Database;
  raw: Sqlite.Database;
  path: string;
  close(): void;
}

/** Something about the database that an operator must mend. */
export class DatabaseProblem extends Error {}

/**
 * `data` is a file, `:memory:`, or the bytes of a database, which is held in memory then. Throws `DatabaseProblem` with
 * what to do when it cannot be used.
 */
export function databaseOpen(data: string | Buffer): Database {
  const path = typeof data === 'string' ? data : ':memory:';
  if (path !== ':memory:') mkdirSync(dirname(path), { recursive: true });
  const existed = path !== ':memory:' && existsSync(path);
  let raw: Sqlite.Database | undefined;
  try {
    raw = new Sqlite(data);
    // FULL: an answered purchase survives a power cut. The writer commits in groups to afford it.
    for (const setting of ['journal_mode = WAL', 'synchronous = FULL', 'foreign_keys = ON', 'busy_timeout = 2000'])
      raw.pragma(setting);
    // A file that cannot be written is told before anything is done with it.
    raw.pragma(`user_version = ${raw.pragma('user_version', { simple: true }) as number}`);
    const folder = join(packageRoot(), 'migrations');
    if (existed && pendingMigrations(raw, folder) > 0)
      raw.exec(`VACUUM INTO '${path.replace(/'/g, "''")}.before-migration-${appliedMigrations(raw)}'`);
    const db = drizzle(raw);
    migrate(db, { migrationsFolder: folder });
    bringAlong(raw);
    const opened = raw;
    return { db, raw: opened, path, close: () => opened.close() };
  } catch (error) {
    raw?.close();
    throw new DatabaseProblem(databaseAdvice(path, error as Error & { code?: string }), { cause: error });
  }
}

/** The same for looking only, beside whoever writes it: nothing is made, brought along or changed. */
export function databaseRead(data: string | Buffer): Database {
  const path = typeof data === 'string' ? data : ':memory:';
  try {
    const raw = new Sqlite(data, { readonly: true, fileMustExist: true });
    raw.pragma('busy_timeout = 2000');
    return { db: drizzle(raw), raw, path, close: () => raw.close() };
  } catch (error) {
    throw new DatabaseProblem(databaseAdvice(path, error as Error & { code?: string }), { cause: error });
  }
}

const ADVICE: Record<string, string> = {
  SQLITE_NOTADB: 'it is not a database. Move it away, or name another with --data.',
  SQLITE_CORRUPT: 'it is damaged. Move it away and put a backup in its place.',
  SQLITE_READONLY: 'it cannot be written. Check the permissions of the file and its folder.',
  SQLITE_CANTOPEN: 'it cannot be opened. Check that the folder exists and can be written.',
  SQLITE_FULL: 'the disk is full. Make room and start again; nothing was lost.',
  SQLITE_BUSY: 'another process is using it. Stop that one first, or name another with --data.',
};

function databaseAdvice(path: string, error: Error & { code?: string }): string {
  return `The database ${path} cannot be used: ${ADVICE[error.code ?? ''] ?? error.message}`;
}

function appliedMigrations(raw: Sqlite.Database): number {
  const table = raw.prepare("SELECT count(*) AS n FROM sqlite_master WHERE name = '__drizzle_migrations'").get() as {
    n: number;
  };
  return table.n === 0 ? 0 : (raw.prepare('SELECT count(*) AS n FROM __drizzle_migrations').get() as { n: number }).n;
}

function pendingMigrations(raw: Sqlite.Database, folder: string): number {
  const journal = JSON.parse(readFileSync(join(folder, 'meta', '_journal.json'), 'utf8')) as { entries: unknown[] };
  return journal.entries.length - appliedMigrations(raw);
}
