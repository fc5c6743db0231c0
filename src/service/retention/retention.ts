/**
 * What was kept long enough goes: every hour, in small portions with pauses between them, so that nobody who plays feels
 * it. Movements are no part of this: they leave by the archive alone.
 */
import type { Logger } from 'pino';
import { DAY_MS } from '../../core/schedule/index.js';
import type { Faults } from '../faults.js';
import { Routine } from '../routine.js';
import type { RetentionStore } from '../store/retentionStore.js';
import type { Writer } from '../store/writer.js';
import type { After } from '../timers.js';
import { KEPT } from './policy.js';
import type { Kept, KeptDays } from './policy.js';

/** From a start to the first look. */
const FIRST_MS = 60_000;
/** Rows of a portion: some 5 ms. After each the thread of players is left alone for a while. */
const PORTION = 200;
const PAUSE_MS = 20;

export class Retention {
  /** Since the start, for metrics. */
  readonly removed = Object.fromEntries(KEPT.map((kind) => [kind, 0])) as Record<Kept, number>;
  private readonly routine: Routine;
  /** The day on which pictures were last looked for in the draft and the releases. */
  private pictureDay = -1;

  constructor(
    readonly days: KeptDays,
    private readonly store: RetentionStore,
    private readonly writer: Writer,
    private readonly faults: Faults,
    private readonly log: Logger,
    private readonly now: () => number,
    private readonly after: After,
    /** Empties the log that the database is written by. */
    private readonly checkpoint: () => void,
    /** The names of pictures that the draft and the releases show: read beside the thread of players. */
    private readonly picturesNamed: () => Promise<ReadonlySet<string>>,
  ) {
    this.routine = new Routine('what was kept long enough', FIRST_MS, faults, after, () => this.sweep());
  }

  arm(): void {
    this.routine.arm();
  }

  close(): void {
    this.routine.close();
  }

  /**
   * Removes what is kept of requests of a player who was erased, down to the bytes of the file. Where that fails, it is
   * tried again at the next look: the player is erased already.
   */
  async erase(player: string): Promise<void> {
    try {
      for (let count = 1; count > 0;) count = await this.writer.submit(() => this.store.erase(player, PORTION));
      this.checkpoint();
    } catch (error) {
      this.faults.note('what is kept of a player who was erased', error);
    }
  }

  /** Removes all that is due. Gives how many rows of each kind have gone. */
  async sweep(): Promise<Partial<Record<Kept, number>>> {
    const gone: Partial<Record<Kept, number>> = {};
    // Of erasures that were cut off.
    for (const player of this.store.erased()) await this.erase(player);
    await this.markPictures();
    for (const kind of KEPT) {
      const beforeMs = this.now() - this.days[kind] * DAY_MS;
      if (kind === 'movements' || beforeMs <= 0) continue;
      for (let count = 1; count > 0 && !this.routine.isClosed;) {
        count = await this.portion((most) => this.store.remove(kind, beforeMs, most));
        if (count > 0) gone[kind] = (gone[kind] ?? 0) + count;
        this.removed[kind] += count;
      }
    }
    if (Object.keys(gone).length > 0) this.log.info({ removed: gone }, 'what was kept long enough has gone');
    return gone;
  }

  /** Writes one portion of up to `most` rows, and pauses. `work` may be run again, and then finds everything as before. */
  async portion<T>(work: (most: number) => T): Promise<T> {
    const done = await this.writer.submit(() => work(PORTION));
    await new Promise<void>((resolve) => this.after(PAUSE_MS, resolve));
    return done;
  }

  /** Once a day: from when on a picture is not named by anything. */
  private async markPictures(): Promise<void> {
    const day = Math.floor(this.now() / DAY_MS);
    if (day === this.pictureDay || !this.store.hasPictures()) return;
    const named = await this.picturesNamed();
    if (this.routine.isClosed) return;
    await this.writer.submit(() => this.store.markPictures(named, this.now()));
    this.pictureDay = day;
  }
}
