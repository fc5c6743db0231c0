/**
 * Movements of months that were closed long ago leave the database: first they are written to a file, by a process of
 * its own, then they become opening balances, in small portions. Whenever it is cut off, it goes on where it was.
 */
import { mkdirSync } from 'node:fs';
import { basename, extname } from 'node:path';
import { DAY_MS } from '../../core/schedule/index.js';
import { StartProblem } from '../door.js';
import { Routine } from '../routine.js';
import type { Service } from '../service.js';
import { ArchiveStore, OPENING_BEGIN } from '../store/archiveStore.js';
import type { Archived, OpeningCursor } from '../store/archiveStore.js';
import type { After } from '../timers.js';

/** From a start to the first look. */
const FIRST_MS = 120_000;

/** What a file is asked to hold. */
export interface MonthAsked {
  file: string;
  month: string;
  afterId: number;
  untilMs: number;
}

/** Writes a file of the folder; undefined where nothing moved. */
type Write = (folder: string, asked: MonthAsked) => Promise<Archived | undefined>;

export class Archive {
  private readonly store: ArchiveStore;
  private readonly routine: Routine;

  /** `data` is the database, whose name the files begin with. Throws a `StartProblem` where the folder cannot be used. */
  constructor(
    private readonly folder: string,
    private readonly data: string,
    private readonly service: Pick<Service, 'database' | 'retention' | 'writer' | 'faults' | 'log' | 'now'>,
    after: After,
    private readonly write: Write,
  ) {
    this.store = new ArchiveStore(service.database);
    this.routine = new Routine('the archive of movements', FIRST_MS, service.faults, after, () => this.archive());
    try {
      mkdirSync(folder, { recursive: true });
    } catch (error) {
      throw new StartProblem(`Movements cannot be archived in ${folder}: ${(error as Error).message}.`);
    }
  }

  arm(): void {
    this.routine.arm();
  }

  close(): void {
    this.routine.close();
  }

  /** Archives every month that is due, the oldest first. Gives those that it wrote. */
  async archive(): Promise<Archived[]> {
    const { store } = this;
    const { retention, writer, log, now } = this.service;
    const made: Archived[] = [];
    const begun = store.unopened();
    if (begun) await this.open(begun);
    while (!this.routine.isClosed) {
      const due = this.due(now() - retention.days.movements * DAY_MS);
      if (!due) break;
      const archived = await this.write(this.folder, due);
      if (!archived || this.routine.isClosed) break;
      await writer.submit(() => store.add(archived, now()));
      log.info(archived, 'movements are archived');
      await this.open(archived);
      made.push(archived);
    }
    return made;
  }

  /** The oldest month with movements that are in no file, where all of it is from before an instant (epoch ms). */
  private due(beforeMs: number): MonthAsked | undefined {
    const last = this.store.last();
    const afterId = last?.lastId ?? 0;
    const first = this.store.firstAfter(afterId);
    if (!first) return undefined;
    // A clock that was set back may have written of a month that is in a file: it goes into the next.
    const startMs = Math.max(monthStart(first.atMs, 0), last?.untilMs ?? 0);
    const untilMs = monthStart(startMs, 1);
    if (untilMs > beforeMs) return undefined;
    const month = new Date(startMs).toISOString().slice(0, 7);
    const file = `${basename(this.data, extname(this.data))}-movements-${month}.csv.gz`;
    return { file, month, afterId, untilMs };
  }

  private async open(archived: Archived): Promise<void> {
    const { store } = this;
    const { retention, writer, now } = this.service;
    let cursor: OpeningCursor | undefined = OPENING_BEGIN;
    while (cursor && !this.routine.isClosed) {
      const from: OpeningCursor = cursor;
      cursor = await retention.portion((most) => store.open(archived, from, most));
    }
    if (cursor) return;
    await writer.submit(() => store.opened(archived.month, now()));
    retention.removed.movements += archived.rows;
  }
}

/** Where the month of UTC, or the one so many after it, begins; epoch ms. */
function monthStart(atMs: number, months: number): number {
  const at = new Date(atMs);
  return Date.UTC(at.getUTCFullYear(), at.getUTCMonth() + months, 1);
}
