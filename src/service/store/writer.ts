/**
 * The one writer. Work that arrives while the last group was being written is carried out together in one
 * transaction, and every caller is answered after that commit: one wait for the disk serves them all.
 */
import type { Database } from './database.js';

/** What one commit holds at most, so that no caller waits for an endless group. */
export const GROUP_LIMIT = 256;

/** Storage failed (a full disk, say): nothing of the group was kept. */
export class StorageFailure extends Error {}

interface Task {
  work: () => unknown;
  resolve: (value: never) => void;
  reject: (error: unknown) => void;
}

export interface WriterOptions {
  /** Called when a transaction is undone: what is held in memory must be read again. */
  onRollback: () => void;
  /** Called after a commit, before the callers are answered. */
  onCommit?: () => void;
  /** True for a refusal that `work` threw before it wrote anything: it goes to its caller, and the group goes on. */
  isRefusal: (error: unknown) => boolean;
  /** Runs `task` soon, after requests that are already waiting have been read. */
  defer?: (task: () => void) => void;
}

export class Writer {
  private queue: Task[] = [];
  private scheduled = false;
  /** How many groups and tasks were committed, for metrics and for the benchmark. */
  readonly committed = { groups: 0, tasks: 0 };

  constructor(
    private readonly database: Database,
    private readonly options: WriterOptions,
  ) {}

  /** Resolves with what `work` gave, once it is on disk. `work` runs synchronously inside the group's transaction and may be run again. */
  submit<T>(work: () => T): Promise<T> {
    return new Promise<T>((resolve, reject) => {
      this.queue.push({ work, resolve: resolve as (value: never) => void, reject });
      if (!this.scheduled) {
        this.scheduled = true;
        (this.options.defer ?? setImmediate)(() => this.flush());
      }
    });
  }

  private flush(): void {
    const group = this.queue.splice(0, GROUP_LIMIT);
    this.scheduled = this.queue.length > 0;
    if (this.scheduled) (this.options.defer ?? setImmediate)(() => this.flush());
    if (group.length > 0) this.commit(group);
  }

  private commit(group: Task[]): void {
    const done: { task: Task; value: unknown }[] = [];
    const refused: { task: Task; error: unknown }[] = [];
    const { raw } = this.database;
    try {
      raw.exec('BEGIN IMMEDIATE');
      for (const task of group) {
        try {
          done.push({ task, value: task.work() });
        } catch (error) {
          if (!this.options.isRefusal(error)) throw error;
          refused.push({ task, error });
        }
      }
      raw.exec('COMMIT');
    } catch (error) {
      this.undo();
      if (group.length === 1) group[0]!.reject(asFailure(error));
      // One of the group failed in a way that no rule foresaw: the others must not feel it.
      else for (const task of group) this.commit([task]);
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

function asFailure(error: unknown): unknown {
  const code = (error as { code?: string }).code ?? '';
  return code.startsWith('SQLITE_') && !code.startsWith('SQLITE_CONSTRAINT')
    ? new StorageFailure(`storage failed: ${(error as Error).message}`, { cause: error })
    : error;
}
