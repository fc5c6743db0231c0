/** Backups that come by themselves: each is made and checked by a process of its own, and the oldest go. */
import { mkdirSync, readdirSync, rmSync, statSync } from 'node:fs';
import { basename, extname, join } from 'node:path';
import type { Logger } from 'pino';
import type { Faults } from './faults.js';
import { ownProcess } from './ownProcess.js';
import { StartProblem } from './door.js';
import type { After } from './timers.js';

/** Never asleep for longer, so that a clock that steps is noticed. */
const LONGEST_MS = 60_000;
/** After one that failed, until the next is tried. */
const AGAIN_MS = 600_000;

export interface BackupPlan {
  /** The database, and the folder that they are put in. */
  data: string;
  folder: string;
  everyMs: number;
  /** How many of the newest stay. */
  keep: number;
}

export class Backups {
  private stop: () => void = () => undefined;
  private tried = -Infinity;
  private closed = false;

  constructor(
    private readonly plan: BackupPlan,
    private readonly faults: Faults,
    private readonly log: Logger,
    private readonly now: () => number,
    private readonly after: After,
  ) {
    try {
      mkdirSync(plan.folder, { recursive: true });
      this.made();
    } catch (error) {
      throw new StartProblem(`Backups cannot be kept in ${plan.folder}: ${(error as Error).message}.`);
    }
  }

  /** Waits for the next: one is due as soon as the newest is old enough. */
  arm(): void {
    if (this.closed) return;
    let due = this.tried + AGAIN_MS;
    this.faults.guard('a backup', () => {
      due = Math.max(due, (this.made().at(-1)?.atMs ?? -Infinity) + this.plan.everyMs);
    });
    const delayMs = Math.max(0, Math.min(due - this.now(), LONGEST_MS));
    this.stop = this.after(delayMs, () => {
      void (this.now() < due ? Promise.resolve() : this.make()).then(() => this.arm());
    });
  }

  /** When the newest was made, epoch ms; undefined where there is none. */
  newestMs(): number | undefined {
    return this.made().at(-1)?.atMs;
  }

  close(): void {
    this.closed = true;
    this.stop();
  }

  private async make(): Promise<void> {
    const { data, folder, keep } = this.plan;
    this.tried = this.now();
    const file = join(
      folder,
      `${this.stem}-${new Date(this.tried).toISOString().slice(0, 19).replaceAll(':', '-')}.sqlite`,
    );
    try {
      const start = performance.now();
      await backupProcess(data, file);
      this.log.info(
        { file, bytes: statSync(file).size, ms: Math.round(performance.now() - start) },
        'a backup is made',
      );
      for (const { name } of this.made().slice(0, -keep)) rmSync(join(folder, name));
    } catch (error) {
      this.faults.note('a backup', error);
    }
  }

  private get stem(): string {
    const { data } = this.plan;
    return basename(data, extname(data));
  }

  /** The oldest first; other files of the folder are none of its own. */
  private made(): { name: string; atMs: number }[] {
    const prefix = `${this.stem}-`;
    return readdirSync(this.plan.folder)
      .flatMap((name) => {
        const written = name.startsWith(prefix)
          ? /^(\d{4}-\d\d-\d\dT)(\d\d)-(\d\d)-(\d\d)\.sqlite$/.exec(name.slice(prefix.length))
          : null;
        return written ? [{ name, atMs: Date.parse(`${written[1]}${written.slice(2).join(':')}Z`) }] : [];
      })
      .sort((a, b) => a.atMs - b.atMs);
  }
}

const backupProcess = (data: string, file: string): Promise<string> => ownProcess(['backup', file, '--data', data]);
