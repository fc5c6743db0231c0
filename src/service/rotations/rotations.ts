/**
 * What is recorded of rotations: offers pinned into periods or taken out of them, and the rules of earlier releases, so
 * that what is on show does not jump when a release comes.
 */
import { LRUCache } from 'lru-cache';
import type { RotationRecordView } from '../../contract/index.js';
import type { PeriodRecord, RotationRecord, ShelfRule } from '../../core/economy/index.js';
import { beatPeriod } from '../../core/schedule/index.js';
import type { BeatPeriod } from '../../core/schedule/index.js';
import type { Channels } from '../channels/channels.js';
import type { Caches, Held } from '../held.js';
import { Problem } from '../problem.js';
import type { Move } from '../store/channelStore.js';
import type { RotationStore } from '../store/rotationStore.js';
import type { Stream } from '../stream.js';
import type { Trail } from '../store/trail.js';

/** How many moves back the rotations of earlier releases are remembered. */
const MOST_EARLIER = 30;

type Records = ReadonlyMap<string, RotationRecord>;

export class Rotations {
  private readonly periods: Held<Map<string, PeriodRecord[]>>;
  /** By move: the same object until anything of it changes, which is how others see that it did. */
  private readonly combined = new LRUCache<string, Records>({ max: 200 });

  constructor(
    caches: Caches,
    private readonly store: RotationStore,
    private readonly channels: Channels,
    private readonly rulesOf: (release: number) => ReadonlyMap<string, ShelfRule>,
    private readonly trail: Trail,
    private readonly stream: Stream,
    private readonly now: () => number,
  ) {
    this.periods = caches.held(() => periodsOf(store.standing()));
    caches.onForget(() => this.combined.clear());
  }

  /** What is recorded, for a channel at the move in force, or for the draft and single releases. */
  records(move?: Move): Records {
    // Moves before it may have been taken back or added since.
    const key = move
      ? this.channels
          .upTo(move)
          .map(({ id }) => id)
          .join()
      : '';
    const known = this.combined.get(key);
    if (known) return known;
    const made = new Map<string, RotationRecord>();
    for (const [shelf, periods] of this.periods.get()) made.set(shelf, { periods, earlier: [] });
    if (move)
      for (const [shelf, earlier] of this.earlierOf(move))
        made.set(shelf, { periods: made.get(shelf)?.periods ?? [], earlier });
    this.combined.set(key, made);
    return made;
  }

  /** By shelf, the rules of the releases before, each until what was on show when it was replaced is over. */
  private earlierOf(move: Move): Map<string, RotationRecord['earlier']> {
    const moves = this.channels.upTo(move).slice(-MOST_EARLIER);
    const earlier = new Map<string, { untilMs: number; rule: ShelfRule }[]>();
    for (const [index, { release, atMs }] of moves.entries()) {
      const before = moves[index - 1];
      if (!before || before.release === release) continue;
      const next = this.rulesOf(release);
      for (const [shelf, rule] of this.rulesOf(before.release)) {
        const now = next.get(shelf);
        if (!now || JSON.stringify(now) === JSON.stringify(rule)) continue;
        const kept = earlier.get(shelf) ?? [];
        // Replaced before it took hold: what is on show is that of one before it still.
        if (kept.some(({ untilMs }) => atMs < untilMs)) continue;
        // What showed everything goes on until the first period of the rotation that follows it begins.
        const ends = rule.kind === 'drawn' ? rule : now;
        if (ends.kind === 'drawn')
          earlier.set(shelf, [...kept, { untilMs: beatPeriod(ends.rotation.beat, atMs).endMs, rule }]);
      }
    }
    return earlier;
  }

  standing(): RotationRecordView[] {
    return this.store.standing();
  }

  /** Inside the writer only. What was said of the same offer and period before is taken back. */
  record(
    shelf: string,
    { index: period, startMs, endMs }: BeatPeriod,
    offers: readonly string[],
    kind: 'pin' | 'without',
    why: string,
    who: string,
  ): void {
    for (const offer of offers) {
      this.store.add({ shelf, period, startMs, endMs, kind, offer, why, madeMs: this.now(), madeBy: who });
      this.trail.add(who, `rotation.${kind}`, `${shelf} period ${period}`, `${offer}: ${why}`);
    }
    this.stream.tell('rotation.recorded', shelf, { period, kind, offers, who });
    this.changed();
  }

  /** Inside the writer only. */
  end(id: number, who: string): void {
    if (!this.store.end(id, { endedMs: this.now(), endedBy: who }))
      throw new Problem('not-found', `There is no record ${id} of a rotation.`);
    this.trail.add(who, 'rotation.undo', `record ${id}`);
    this.stream.tell('rotation.recorded', `record ${id}`, { who });
    this.changed();
  }

  private changed(): void {
    this.periods.drop();
    this.combined.clear();
  }
}

function periodsOf(rows: readonly RotationRecordView[]): Map<string, PeriodRecord[]> {
  const made = new Map<string, PeriodRecord[]>();
  for (const { shelf, startMs, endMs, kind, offer } of rows) {
    const periods = made.get(shelf) ?? [];
    made.set(shelf, periods);
    periods.push({
      startMs,
      endMs,
      pinned: kind === 'pin' ? [offer] : [],
      without: kind === 'without' ? [offer] : [],
    });
  }
  return made;
}
