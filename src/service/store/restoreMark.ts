/**
 * A mark beside a database of which another is to take the place: whoever restores asks with it for the service to step
 * aside, and notes in it how far the exchange of files has come, so that one that is cut off is seen and done again.
 */
import { existsSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { DatabaseProblem } from './databaseProblem.js';
import { moveInto, ofTheFolder } from './files.js';

/** `null` where nothing is moved yet; else what was there moves to this name. */
interface Mark {
  replaced: string | null;
}

const markOf = (path: string): string => `${path}.restore`;

/** Whether somebody waits for the service to step aside, or is at it. */
export const isRestoreAsked = (path: string): boolean => existsSync(markOf(path));

export function markWrite(path: string, mark: Mark): void {
  writeFileSync(`${markOf(path)}.partial`, JSON.stringify(mark), { mode: 0o600 });
  ofTheFolder(`${markOf(path)}.partial`);
  moveInto(`${markOf(path)}.partial`, markOf(path));
}

export const markRemove = (path: string): void => rmSync(markOf(path), { force: true });

/** Under which name the files were being moved when that was cut off; undefined where they were not. */
export function moveCutOff(path: string): string | undefined {
  if (!isRestoreAsked(path)) return undefined;
  return (JSON.parse(readFileSync(markOf(path), 'utf8')) as Mark).replaced ?? undefined;
}

/** Throws `DatabaseProblem` where some of its files were moved and others were not. */
export function moveMustBeWhole(path: string): void {
  const replaced = moveCutOff(path);
  if (replaced === undefined) return;
  throw new DatabaseProblem(
    `A backup is being put in the place of ${path}, or that was cut off. Where nobody is at it any more, do it again: dimestall restore BACKUP --data ${path}. What was there is kept as ${replaced}.`,
  );
}
