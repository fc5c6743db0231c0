/** Something that the service does by itself, again and again, until it stops; what fails is noted and tried the next time. */
import type { Faults } from './faults.js';
import type { After } from './timers.js';

const EVERY_MS = 3_600_000;

export class Routine {
  private stop: () => void = () => undefined;
  isClosed = false;

  /** `what` says in the log what failed; `firstMs` is from a start to the first time. After that it is done every hour. */
  constructor(
    private readonly what: string,
    private readonly firstMs: number,
    private readonly faults: Faults,
    private readonly after: After,
    private readonly work: () => Promise<unknown>,
  ) {}

  arm(delayMs = this.firstMs): void {
    if (this.isClosed) return;
    this.stop = this.after(delayMs, () => {
      void this.work()
        .catch((error: unknown) => this.faults.note(this.what, error))
        .then(() => this.arm(EVERY_MS));
    });
  }

  close(): void {
    this.isClosed = true;
    this.stop();
  }
}
