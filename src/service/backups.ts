/** Backups that come by themselves: each is made and checked by a process of its own, and the oldest go. */
import { spawn } from 'node:child_process';
import { mkdirSync, readdirSync, rmSync } from 'node:fs';
import { basename, extname, join } from 'node:path';
import { packageRoot } from '../packageRoot.js';
import type { Faults } from './faults.js';
import { StartProblem } from './listen.js';
import type { After } from './timers.js';

/** Never asleep for longer, so that a clock that steps is noticed. */
const LONGEST_MS = 60_000;
/** After one that failed, until the next is tried. */
const AGAIN_MS = 600_000;

const MAIN = join(packageRoot(), 'dist/service/main.js');

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
      await backupProcess(data, file);
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

const backupProcess = (data: string, file: string): Promise<void> => ownProcess(['backup', file, '--data', data]);

/** Looks through the pages of a database, as SQLite does. Fails where that cannot be done, and with `Damaged` where it is. */
export const checkProcess = (data: string): Promise<void> => ownProcess(['verify', '--pages', '--data', data]);

export class Damaged extends Error {}
/** How the process that looks says so. */
export const DAMAGED = 4;

function ownProcess(args: readonly string[]): Promise<void> {
  return new Promise((done, failed) => {
    const child = spawn(process.execPath, [MAIN, ...args], { stdio: ['ignore', 'ignore', 'pipe'] });
    let told = '';
    child.stderr.on('data', (chunk: Buffer) => (told += chunk.toString()));
    child.once('error', failed);
    child.once('close', (code) => {
      const words = told.trim() || `it ended with ${code}`;
      if (code === 0) done();
      else failed(code === DAMAGED ? new Damaged(words) : new Error(words));
    });
  });
}
