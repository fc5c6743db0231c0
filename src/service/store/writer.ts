/**
 * The one writer. Work that arrives while the last group was being written is carried out together in one
 * transaction, and every caller is answered after that commit: one wait for the disk serves them all.
 */
import { FairQueue } from '../fairQueue.js';
import { WorkMeter } from '../workMeter.js';
import type { Bill } from '../workMeter.js';
import type { Database } from './database.js';

/** What one commit holds at most: pieces of work, and ms after which none is begun, so that nobody waits for an endless group. */
export const GROUP_LIMIT = 256;
const GROUP_MS = 20;
/** So much of one caller's list is done before others have their turn: about 8 ms. */
const PORTION = 32;

/** How long a database that another process has locked is waited for, in ms, and how often it is tried. */
const LOCKED_MS = 2000;
const TRY_AGAIN_MS = 50;

/** Storage failed (a full disk, say): nothing of the group was kept. */
export class StorageFailure extends Error {}

interface Task {
  bill: Bill;
  /** Since when it waits, where that is traced. */
  sinceMs: number;
  work: () => unknown;
  resolve: (value: never) => void;
  reject: (error: unknown) => void;
}

export interface WriterOptions {
  /** Called when a transaction is undone: what is held in memory must be read again. */
  onRollback: () => void;
  /** Called after a commit, before the callers are answered. */
  onCommit?: () => void;
  /** Called when storage could not be written. */
  onFailure?: () => void;
  /** True for a refusal that `work` threw: it goes to its caller, what it wrote is undone, and the group goes on. */
  isRefusal: (error: unknown) => boolean;
  /** False when the file that is written into is not the one that will be opened next time. */
  isOnDisk?: () => boolean;
  /** Runs `task` soon, after requests that are already waiting have been read. */
  defer?: (task: () => void) => void;
}

export class Writer {
  private readonly queue = new FairQueue<Task>();
  /** Of a group that failed as a whole: each has a transaction to itself, so that what is wrong with one harms no other. */
  private readonly alone: Task[] = [];
  private scheduled = false;
  /** Since when the database has been locked, by the clock of the process. */
  private lockedSince: number | undefined;
  /** How many groups and tasks were committed, for metrics and for the benchmark. */
  readonly committed = { groups: 0, tasks: 0 };
  private readonly changes: () => number;

  constructor(
    private readonly database: Database,
    private readonly options: WriterOptions,
    private readonly meter = new WorkMeter(),
  ) {
    const total = database.raw.prepare('SELECT total_changes()').pluck();
    this.changes = () => total.get() as number;
  }

  /** Resolves with what `work` gave, once it is on disk. `work` runs synchronously inside the group's transaction and may be run again. */
  submit<T>(work: () => T): Promise<T> {
    const bill = this.meter.current;
    return new Promise<T>((resolve, reject) => {
      this.queue.push(bill.holder, {
        bill,
        sinceMs: bill.parts ? performance.now() : 0,
        work,
        resolve: resolve as (value: never) => void,
        reject,
      });
      if (!this.scheduled) this.soon();
    });
  }

  /**
   * Does `work` with each of a list, in order, in portions of 32 between which others have their turn. Each portion is on
   * disk before the next is begun: where one fails, those before it stay done, and `PortionFailure` says how many.
   */
  async submitEach<T, R>(list: readonly T[], work: (one: T) => R): Promise<R[]> {
    const bill = this.meter.current;
    const done: R[] = [];
    while (done.length < list.length) {
      const from = done.length;
      const portion = (): R[] => list.slice(from, from + PORTION).map(work);
      try {
        done.push(...(await this.meter.run(bill, () => this.submit(portion))));
      } catch (error) {
        throw from === 0 ? error : new PortionFailure(error, from);
      }
    }
    return done;
  }

  /** How much waits to be written. */
  get waiting(): number {
    return this.queue.size + this.alone.length;
  }

  private soon(): void {
    this.scheduled = true;
    (this.options.defer ?? setImmediate)(() => this.flush());
  }

  private flush(): void {
    this.scheduled = false;
    if (this.queue.size + this.alone.length === 0) return;
    if (!this.begin()) return;
    const one = this.alone.shift();
    this.commit(one ? [one] : this.queue, one ? 1 : GROUP_LIMIT);
    if (this.queue.size + this.alone.length > 0 && !this.scheduled) this.soon();
  }

  /** Begins a transaction. Where another process holds the database, it is tried again without holding anybody up. */
  private begin(): boolean {
    try {
      this.database.raw.exec('BEGIN IMMEDIATE');
      this.lockedSince = undefined;
      return true;
    } catch (error) {
      const isLocked = (error as { code?: string }).code?.startsWith('SQLITE_BUSY');
      this.lockedSince ??= performance.now();
      if (isLocked && performance.now() - this.lockedSince < LOCKED_MS) {
        this.scheduled = true;
        setTimeout(() => this.flush(), TRY_AGAIN_MS);
        return false;
      }
      // All that waits fails at once, and is told: nobody waits for the others to fail.
      this.lockedSince = undefined;
      this.options.onFailure?.();
      for (const { reject } of [...this.alone.splice(0), ...this.queue.clear()]) reject(asFailure(error));
      return false;
    }
  }

  /** Inside a transaction that has begun: up to `most` of what waits, for as long as a group may take. */
  private commit(waiting: { shift(): Task | undefined }, most: number): void {
    const group: Task[] = [];
    const done: { task: Task; value: unknown }[] = [];
    const refused: { task: Task; error: unknown }[] = [];
    let atMs = performance.now();
    const untilMs = atMs + GROUP_MS;
    try {
      while (group.length < most && atMs < untilMs) {
        const task = waiting.shift();
        if (!task) break;
        group.push(task);
        const before = this.changes();
        try {
          done.push({ task, value: task.work() });
        } catch (error) {
          if (!this.options.isRefusal(error)) throw error;
          // Refusals come before the first write; one that does not would leave half of its work in the group.
          if (this.changes() !== before) throw new HalfDone(error);
          refused.push({ task, error });
        }
        const endMs = performance.now();
        this.meter.charge(task.bill, endMs - atMs);
        task.bill.parts?.push(
          { name: 'wait for the writer', startMs: task.sinceMs, endMs: atMs },
          { name: 'write', startMs: atMs, endMs },
        );
        atMs = endMs;
      }
      this.database.raw.exec('COMMIT');
      for (const { bill } of group) bill.parts?.push({ name: 'commit', startMs: atMs, endMs: performance.now() });
    } catch (error) {
      this.undo();
      if (asFailure(error) instanceof StorageFailure) this.options.onFailure?.();
      if (group.length === 1) group[0]!.reject(error instanceof HalfDone ? error.refusal : asFailure(error));
      // One of the group failed in a way that no rule foresaw: the others must not feel it.
      else this.alone.push(...group);
      return;
    }
    if (this.options.isOnDisk?.() === false) {
      this.options.onRollback();
      const failure = new StorageFailure('the database file is not where it was');
      for (const { reject } of group) reject(failure);
      return;
    }
    this.options.onCommit?.();
    this.committed.groups++;
    this.committed.tasks += group.length;
    for (const { task, value } of done) task.resolve(value as never);
    for (const { task, error } of refused) task.reject(error);
  }

  private undo(): void {
    if (this.database.raw.inTransaction) this.database.raw.exec('ROLLBACK');
    this.options.onRollback();
  }
}

/** A part of a list failed after `done` of it were on disk. */
export class PortionFailure extends Error {
  constructor(
    readonly failure: unknown,
    readonly done: number,
  ) {
    super((failure as Error).message, { cause: failure });
  }
}

/** A refusal that came after its work had begun to write. */
class HalfDone extends Error {
  constructor(readonly refusal: unknown) {
    super('refused after it was begun');
  }
}

function asFailure(error: unknown): unknown {
  const code = (error as { code?: string }).code ?? '';
  return code.startsWith('SQLITE_') && !code.startsWith('SQLITE_CONSTRAINT')
    ? new StorageFailure(`storage failed: ${(error as Error).message}`, { cause: error })
    : error;
}
