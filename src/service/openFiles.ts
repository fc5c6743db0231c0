/** How many files and connections the process may have open at once, and how many of them are for callers. */
import { readFileSync } from 'node:fs';

/** What the database, threads, processes of its own and what they load may need. */
const OWN = 192;
/** With fewer there is nothing left for callers. */
const LEAST = 256;

/** Connections that may be open; without an end where the system sets none. `problem`: a sentence where it cannot be served. */
export function connectionsAllowed(): { most: number; problem?: string } {
  const limit = openFilesLimit();
  return limit < LEAST
    ? {
        most: 0,
        problem: `Only ${limit} files and connections may be open at once, and the service needs at least ${LEAST}. Raise that, with ulimit -n 4096 for one.`,
      }
    : { most: limit - OWN };
}

/** Node raises the one of the two limits that counts to the other when it starts. */
function openFilesLimit(): number {
  if (process.platform !== 'linux') return Infinity;
  const limit = /^Max open files\s+(\S+)/m.exec(readFileSync('/proc/self/limits', 'utf8'))?.[1];
  return limit === undefined || limit === 'unlimited' ? Infinity : Number(limit);
}
