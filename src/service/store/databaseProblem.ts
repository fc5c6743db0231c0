/** What can be wrong with a database, in sentences with the way out. */

/** Something about the database that an operator must mend. */
export class DatabaseProblem extends Error {}

/** What is wrong with it, as a sentence with the way out. */
export const databaseProblem = (path: string, error: unknown): DatabaseProblem =>
  error instanceof DatabaseProblem
    ? error
    : new DatabaseProblem(databaseAdvice(path, error as Error & { code?: string }), { cause: error });

const ADVICE: Record<string, string> = {
  EACCES: 'its folder cannot be written. Check the permissions of the folder and of what is in it.',
  EROFS: 'it is on something that cannot be written. Name another with --data.',
  SQLITE_NOTADB: 'it is not a database. Move it away, or name another with --data.',
  SQLITE_CORRUPT: 'it is damaged. Put a backup in its place: dimestall restore BACKUP.',
  SQLITE_READONLY: 'it cannot be written. Check the permissions of the file and its folder.',
  SQLITE_CANTOPEN: 'it cannot be opened. Check that the folder exists and can be written.',
  SQLITE_FULL: 'the disk is full. Make room and start again; nothing was lost.',
  SQLITE_BUSY: 'another process is using it. Stop that one first, or name another with --data.',
};

/** The same of an error that may be none of SQLite's. */
export function databaseAdvice(path: string, error: { message: string; code?: string | undefined }): string {
  return `The database ${path} cannot be used: ${ADVICE[error.code ?? ''] ?? error.message}`;
}
