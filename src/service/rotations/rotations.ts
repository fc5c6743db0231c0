/**
 * What is recorded of rotations: offers pinned into periods or taken out of them, and the rules of earlier releases, so
 * that what is on show does not jump when a release comes.
 */
import { LRUCache } from 'lru-cache';
import type { RotationRecordView } from '../../contract/index.js';
import type { EconomyDocument } from '../../core/document/index.js';
import { documentRotations } from '../../core/economy/index.js';
import type { PeriodRecord, Rotation, RotationRecord } from '../../core/economy/index.js';
import { beatPeriod } from '../../core/schedule/index.js';
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
  private readonly periods: Held<Map<string, Map<number, PeriodRecord>>>;
  private readonly rules = new LRUCache<number, Map<string, Rotation>>({ max: 2 * MOST_EARLIER });
  /** By move: the same object until anything of it changes, which is how others see that it did. */
  private readonly combined = new LRUCache<string, Records>({ max: 200 });

  constructor(
    caches: Caches,
    private readonly store: RotationStore,
    private readonly channels: Channels,
    private readonly documentOf: (release: number) => EconomyDocument,
    private readonly trail: Trail,
    private readonly stream: Stream,
    private readonly now: () => number,
  ) {
    this.periods = caches.held(() => periodsOf(store.standing()));
    caches.onForget(() => {
      this.combined.clear();
      this.rules.clear();
    });
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
        made.set(shelf, { periods: made.get(shelf)?.periods ?? new Map(), earlier });
    this.combined.set(key, made);
    return made;
  }

  private rulesOf(release: number): Map<string, Rotation> {
    const known = this.rules.get(release) ?? documentRotations(this.documentOf(release));
    this.rules.set(release, known);
    return known;
  }

  /** By shelf, the rules of the releases before, each until the period in which it was replaced ends. */
  private earlierOf(move: Move): Map<string, { untilMs: number; rotation: Rotation }[]> {
    const moves = this.channels.upTo(move).slice(-MOST_EARLIER);
    const earlier = new Map<string, { untilMs: number; rotation: Rotation }[]>();
    for (let index = 1; index < moves.length; index++) {
      if (moves[index]!.release === moves[index - 1]!.release) continue;
      const next = this.rulesOf(moves[index]!.release);
      for (const [shelf, rotation] of this.rulesOf(moves[index - 1]!.release)) {
        if (JSON.stringify(next.get(shelf)) === JSON.stringify(rotation)) continue;
        const { endMs } = beatPeriod(rotation.beat, moves[index]!.atMs);
        earlier.set(shelf, [...(earlier.get(shelf) ?? []), { untilMs: endMs, rotation }]);
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
    period: number,
    offers: readonly string[],
    kind: 'pin' | 'without',
    why: string,
    who: string,
  ): void {
    for (const offer of offers) {
      this.store.add({ shelf, period, kind, offer, why, madeMs: this.now(), madeBy: who });
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

function periodsOf(rows: readonly RotationRecordView[]): Map<string, Map<number, PeriodRecord>> {
  const made = new Map<string, Map<number, PeriodRecord>>();
  for (const { shelf, period, kind, offer } of rows) {
    const periods = made.get(shelf) ?? new Map<number, PeriodRecord>();
    const { pinned, without } = periods.get(period) ?? { pinned: [], without: [] };
    periods.set(
      period,
      kind === 'pin' ? { pinned: [...pinned, offer], without } : { pinned, without: [...without, offer] },
    );
    made.set(shelf, periods);
  }
  return made;
}
