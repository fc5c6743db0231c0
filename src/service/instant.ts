/** Instants as callers write them. */
import { FIRST_MS, LAST_MS, YEARS, instantRead, instantWritten } from '../core/schedule/index.js';
import { Problem } from './problem.js';

/**
 * An instant written in ISO 8601; without an offset it is in `zone`. What clocks jump over or show twice is refused:
 * guessing would be right half of the time.
 */
export function instantOf(written: string | undefined, zone: string, nowMs: number): number {
  if (written === undefined || written === 'now') return nowMs;
  const read = /^\d{4}-/.test(written) ? instantRead(zone, written) : undefined;
  if (!read)
    throw new Problem(
      'bad-request',
      `"${written}" is not an instant. Write it as 2027-03-01T09:00, with an offset such as Z if it is not in ${zone}.`,
    );
  yearsMust(read.ms, `"${written}"`);
  if (read.matches === 0)
    throw new Problem(
      'bad-request',
      `Clocks in ${zone} jump over ${written}. Write another time, such as ${instantWritten(zone, read.ms)}.`,
    );
  if (read.matches === 2)
    throw new Problem(
      'bad-request',
      `Clocks in ${zone} show ${written} twice. Write which you mean: ${instantWritten(zone, read.ms)} or ${instantWritten(zone, read.secondMs!)}.`,
    );
  return read.ms;
}

/** Refuses what lies beyond the years that are taken; `what` names it. */
export function yearsMust(ms: number, what: string): void {
  if (!(ms >= FIRST_MS && ms < LAST_MS))
    throw new Problem('bad-request', `${what} is too far away: only times ${YEARS} can be asked for.`);
}
