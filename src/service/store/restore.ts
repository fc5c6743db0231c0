/** The way back: a backup, or the copy of before an upgrade, takes the place of a database. */
import { existsSync, readdirSync, renameSync, rmSync, statSync } from 'node:fs';
import { basename, dirname, join } from 'node:path';
import { setTimeout as delay } from 'node:timers/promises';
import type Sqlite from 'better-sqlite3';
import { countText } from '../../core/issue/index.js';
import { copyChecked } from './backup.js';
import type { Copied } from './backup.js';
import { databaseMustExist, databaseRead, isLocked, lockTake, runFile } from './database.js';
import { DatabaseProblem } from './databaseProblem.js';
import { freeName, moveInto } from './files.js';
import { markRemove, markWrite, moveCutOff } from './restoreMark.js';
import { appliedMigrations, copyPrefix } from './upgrade.js';

export interface Restored extends Copied {
  /** Under which name what was there is kept; null where nothing was. */
  replaced: string | null;
}

/** How long a service has to step aside, and how often it is looked whether it has. */
const STEP_ASIDE_MS = 60_000;
const LOOK_MS = 50;

/** Held by whoever restores, for as long as that lives. */
export const restoreLock = (path: string): string => `${path}.restoring`;

/**
 * Puts a backup in the place of the database at `path`. It is checked before anything is touched; a service that runs on
 * it steps aside for the exchange, and goes on with what was restored. What was there is kept whole,
 * under the name that is given back. Throws `DatabaseProblem`.
 */
export async function databaseRestore(backup: string, path: string, nowMs: number): Promise<Restored> {
  // Two at once would write the same copy.
  if (isLocked(restoreLock(path))) throw new DatabaseProblem(`Another restore to ${path} is at it. Wait for that one.`);
  const own = lockTake(restoreLock(path));
  try {
    const partial = restoreLock(path);
    const copied = await copyChecked(backup, path, partial);
    if (copied.faults.length > 0) {
      rmSync(partial);
      throw new DatabaseProblem(
        `What is in ${backup} does not agree, so nothing was restored: ${copied.faults.slice(0, 3).join('; ')}. Take another backup.`,
      );
    }
    const cutOff = moveCutOff(path);
    const lock = await steppedAside(path);
    try {
      return { ...copied, replaced: exchange(partial, path, cutOff, nowMs) };
    } catch (error) {
      throw new DatabaseProblem(
        `The files could not be exchanged: ${(error as Error).message}. Mend that, then do it again: dimestall restore ${backup} --data ${path}. What was there is whole, in part under another name.`,
        { cause: error },
      );
    } finally {
      lock.close();
    }
  } finally {
    own.close();
    rmSync(`${restoreLock(path)}.lock`, { force: true });
  }
}

/** Takes the lock of the database, once the service has let go of it. */
async function steppedAside(path: string): Promise<Sqlite.Database> {
  const untilMs = performance.now() + STEP_ASIDE_MS;
  for (;;) {
    try {
      return lockTake(path);
    } catch (error) {
      if (performance.now() > untilMs) {
        if (moveCutOff(path) === undefined) markRemove(path);
        throw new DatabaseProblem(
          `The service that runs on ${path} has not stepped aside for a minute, so nothing was restored. Stop it, then try again.`,
          { cause: error },
        );
      }
      if (moveCutOff(path) === undefined) markWrite(path, { replaced: null });
      await delay(LOOK_MS);
    }
  }
}

/** Moves the files, by a mark that goes once all are moved. Gives the name of what was there. */
function exchange(partial: string, path: string, cutOff: string | undefined, nowMs: number): string | null {
  // Whoever was cut off before the database itself was moved had begun with what lies beside it: that belongs together.
  const isGoingOn = cutOff !== undefined && !existsSync(cutOff);
  const replaced = isGoingOn
    ? cutOff
    : freeName(`${path}.replaced-${new Date(nowMs).toISOString().slice(0, 19).replaceAll(':', '-')}`);
  const isThere = existsSync(path);
  markWrite(path, { replaced });
  for (const end of ['-wal', '-shm', ''])
    if (existsSync(path + end) && !existsSync(replaced + end)) renameSync(path + end, replaced + end);
  rmSync(runFile(path), { force: true });
  moveInto(partial, path);
  markRemove(path);
  return isThere ? replaced : null;
}

export interface RolledBack extends Restored {
  /** The copy that is in its place now. */
  copy: string;
}

/**
 * Goes back to the copy that the last upgrade made. Throws `DatabaseProblem` where there is none, where a service runs,
 * and, unless `anyway`, where something was written since, saying what.
 */
export async function databaseRollback(path: string, nowMs: number, anyway: boolean): Promise<RolledBack> {
  databaseMustExist(path);
  // A service of this version would bring it along again at once.
  lockTake(path).close();
  const copy = newestCopy(path);
  if (copy === undefined)
    throw new DatabaseProblem(
      `There is no copy of ${path} of before an upgrade (${copyPrefix(path)}N). Put a backup in its place: dimestall restore BACKUP --data ${path}.`,
    );
  const lost = writtenSince(copy, path);
  if (lost.length > 0 && !anyway)
    throw new DatabaseProblem(
      `Since ${copy} was made, more was written into ${path}, which would be lost: ${lost.join(', ')}. To go back nevertheless: dimestall rollback --anyway --data ${path}.`,
    );
  return { ...(await databaseRestore(copy, path, nowMs)), copy };
}

function newestCopy(path: string): string | undefined {
  const prefix = basename(copyPrefix(path));
  const made = readdirSync(dirname(path))
    .filter((name) => name.startsWith(prefix) && /^\d+(-\d+)?$/.test(name.slice(prefix.length)))
    .map((name) => join(dirname(path), name));
  return made.sort((a, b) => statSync(a).mtimeMs - statSync(b).mtimeMs).at(-1);
}

/** Of each table that both have: how many rows, and the highest number of one. */
const COUNTED = (table: string): string => `SELECT count(*) AS rows, coalesce(max(rowid), 0) AS last FROM "${table}"`;

/** What a database has that its copy of before has not, in words. Sessions of the console are nothing to miss. */
function writtenSince(copy: string, path: string): string[] {
  const [before, after] = [databaseRead(copy, { older: true }), databaseRead(path, { older: true })];
  try {
    if (appliedMigrations(before.raw) >= appliedMigrations(after.raw))
      throw new DatabaseProblem(`${path} is not of a newer version than ${copy}: there is nothing to go back from.`);
    return tablesOf(before.raw)
      .filter((table) => tablesOf(after.raw).includes(table) && !NOT_MISSED.has(table))
      .flatMap((table) => {
        const [then, now] = [before, after].map(({ raw }) => raw.prepare(COUNTED(table)).get()) as [Counted, Counted];
        const more = Math.max(now.rows - then.rows, now.last > then.last ? 1 : 0);
        return more > 0 ? [`${countText(more, 'row')} in ${table}`] : [];
      });
  } finally {
    before.close();
    after.close();
  }
}

interface Counted {
  rows: number;
  last: number;
}

/** What migrations themselves are noted in; tokens, among which are sessions. */
const NOT_MISSED = new Set(['__drizzle_migrations', 'tokens']);

const tablesOf = (raw: Sqlite.Database): string[] =>
  raw
    .prepare("SELECT name FROM sqlite_master WHERE type = 'table' AND name NOT LIKE 'sqlite_%'")
    .pluck()
    .all() as string[];
