/** What each holder's work costs the thread that serves players, and whose turn it is there. */
import { FairQueue } from './fairQueue.js';

/** What is done for a holder, and what it has cost so far, in ms of the thread. */
export interface Bill {
  readonly holder: string;
  ms: number;
  /** The request that it is done for, by id and by operation, for the log. */
  readonly request?: string;
  readonly what?: string;
  /** What it waited for and what was done, where requests are traced. */
  readonly parts?: Part[];
}

/** A stretch of time, by the clock of `performance`, in ms. */
export interface Part {
  name: string;
  startMs: number;
  endMs: number;
}

/** How long work is begun before whoever has knocked meanwhile is heard, in ms. */
const SLICE_MS = 10;
/** One piece of work that takes longer is told: others feel it. */
const LONG_MS = 50;

export class WorkMeter {
  /** On whose bill the work goes that is being done. What nobody has asked for is the service's own. */
  current: Bill = { holder: '', ms: 0 };
  private readonly waiting = new FairQueue<() => void>();
  /** What was used of this turn of the event loop, in ms. */
  private used = 0;
  private isTicking = false;

  constructor(private readonly onLong: (bill: Bill, ms: number) => void = () => undefined) {}

  /** Does `work` now, and puts on the bill what it takes until it returns; what it then waits for is not counted. */
  run<T>(bill: Bill, work: () => T): T {
    const before = this.current;
    this.current = bill;
    const start = performance.now();
    try {
      return work();
    } finally {
      this.current = before;
      this.charge(bill, performance.now() - start);
    }
  }

  /** Puts on the bill what was done for it, in ms. */
  charge(bill: Bill, ms: number): void {
    this.tick();
    this.used += ms;
    bill.ms += ms;
    if (ms >= LONG_MS) this.onLong(bill, ms);
  }

  /**
   * Does `work` when it is the holder's turn: at once, unless this turn of the event loop is used up or others wait.
   * Between turns whoever has knocked is heard.
   */
  turn<T>(bill: Bill, work: () => T | Promise<T>): T | Promise<T> {
    if (this.used < SLICE_MS && this.waiting.size === 0) return this.run(bill, work);
    this.tick();
    const startMs = performance.now();
    return new Promise((resolve, reject) => {
      this.waiting.push(bill.holder, () => {
        bill.parts?.push({ name: 'wait for a turn', startMs, endMs: performance.now() });
        try {
          resolve(this.run(bill, work));
        } catch (error) {
          reject(error as Error);
        }
      });
    });
  }

  private tick(): void {
    if (this.isTicking) return;
    this.isTicking = true;
    setImmediate(() => {
      this.isTicking = false;
      this.used = 0;
      while (this.used < SLICE_MS) {
        const next = this.waiting.shift();
        if (!next) return;
        next();
      }
      this.tick();
    });
  }
}
