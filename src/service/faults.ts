/**
 * What is thrown where nobody waits for an answer: in timers, streams, threads and listeners. It is logged and counted
 * here, and never ends the process, which guards money for everybody else.
 */
import type { Logger } from 'pino';

export class Faults {
  /** Since the start, for metrics. */
  count = 0;

  constructor(private readonly log: Logger) {}

  /** `where` says what was being done. */
  note(where: string, error: unknown): void {
    this.count++;
    this.log.error({ err: error, where }, 'something failed while nobody waited for it');
  }

  /** Does `work`, and notes what it throws. */
  guard(where: string, work: () => void): void {
    try {
      work();
    } catch (error) {
      this.note(where, error);
    }
  }
}
