/** The one place that waits for a time to come. */
import type { Channels } from './channels/channels.js';
import type { Faults } from './faults.js';
import type { Writer } from './store/writer.js';

/** Calls back after some milliseconds; gives the way to stop. A test passes its own. */
export type After = (delayMs: number, then: () => void) => () => void;

export const afterReal: After = (delayMs, then) => {
  const timer = setTimeout(then, delayMs);
  timer.unref();
  return () => clearTimeout(timer);
};

/** Never asleep for longer, so that a clock that steps is noticed. */
const LONGEST_MS = 60_000;

/** Notes scheduled releases as they come. Nothing depends on it being in time: what is live is read from the clock. */
export class Schedule {
  private stop: () => void = () => undefined;
  private closed = false;

  constructor(
    private readonly channels: Channels,
    /** Makes ready what is to come next. */
    private readonly prepare: (release: number) => Promise<void>,
    private readonly writer: Writer,
    private readonly faults: Faults,
    private readonly now: () => number,
    private readonly after: After,
  ) {}

  /** Waits for the next release that is to come; called again whenever one is scheduled. */
  arm(): void {
    this.stop();
    if (this.closed) return;
    const next = this.channels.nextOfAll();
    if (next) this.prepare(next.release).catch((error: unknown) => this.faults.note('a scheduled release', error));
    const delayMs = next ? Math.max(0, Math.min(next.atMs - this.now(), LONGEST_MS)) : LONGEST_MS;
    this.stop = this.after(delayMs, () => {
      void this.writer
        .submit(() => this.channels.reach())
        .catch((error: unknown) => this.faults.note('a scheduled release', error))
        .then(() => this.arm());
    });
  }

  close(): void {
    this.closed = true;
    this.stop();
  }
}
