/**
 * Where channels point, now and from set times, and what is recorded of rotations. Moves are only ever added and taken
 * back, so what was live at any instant can be told, and what is on show does not jump when a release comes.
 */
import { and, asc, eq, isNull } from 'drizzle-orm';
import { documentRotations } from '../core/economy/index.js';
import type { Economy, PeriodRecord, Rotation, RotationRecord } from '../core/economy/index.js';
import type { EconomyDocument } from '../core/document/index.js';
import { beatPeriod } from '../core/schedule/index.js';
import type { ChannelView, MoveView, RotationRecordView } from '../contract/index.js';
import { Problem } from './problem.js';
import type { Database } from './store/database.js';
import { channelMoves, rotationRecords } from './store/tables.js';
import type { Stream } from './stream.js';
import type { Trail } from './trail.js';

export type Move = typeof channelMoves.$inferSelect;

/** How many moves back the rotations of earlier releases are remembered. */
const MOST_EARLIER = 30;
/** A channel that was read this recently is in use. */
const IN_USE_MS = 24 * 3_600_000;

export class ChannelStore {
  private held: Map<string, Move[]> | undefined;
  private recordsHeld: Map<string, Map<number, PeriodRecord>> | undefined;
  private readonly rotations = new Map<number, Map<string, Rotation>>();
  private readonly combined = new Map<string, ReadonlyMap<string, RotationRecord>>();
  private readonly used = new Map<string, number>();

  constructor(
    private readonly database: Database,
    private readonly trail: Trail,
    private readonly stream: Stream,
    private readonly documentOf: (release: number) => EconomyDocument,
    private readonly now: () => number,
  ) {}

  forget(): void {
    this.held = undefined;
    this.recordsHeld = undefined;
    this.combined.clear();
    this.rotations.clear();
  }

  /** Moves that stand, by channel, in the order in which they take effect. */
  private moves(): Map<string, Move[]> {
    if (this.held) return this.held;
    const rows = this.database.db
      .select()
      .from(channelMoves)
      .where(isNull(channelMoves.endedMs))
      .orderBy(asc(channelMoves.atMs), asc(channelMoves.id))
      .all();
    const byChannel = new Map<string, Move[]>();
    for (const row of rows) byChannel.set(row.channel, [...(byChannel.get(row.channel) ?? []), row]);
    return (this.held = byChannel);
  }

  /**
   * How many moves of a channel are in force. What was done at once holds whatever the clock says, and what was reached
   * stays reached: a clock that steps back takes no release away.
   */
  private inForce(moves: readonly Move[], nowMs: number): number {
    let count = 0;
    moves.forEach((move, index) => {
      if (!move.scheduled || move.reachedMs !== null || move.atMs <= nowMs) count = index + 1;
    });
    return count;
  }

  /** The move in force now, or at any other instant; undefined where the channel pointed nowhere then. */
  current(channel: string, atMs?: number): Move | undefined {
    const moves = this.moves().get(channel) ?? [];
    if (atMs === undefined) return moves[this.inForce(moves, this.now()) - 1];
    return moves.findLast((move) => move.atMs <= atMs);
  }

  /** Notes that a game or a person reads the channel now. */
  read(channel: string): void {
    this.used.set(channel, this.now());
  }

  /** What is scheduled and has not come yet. */
  private coming(channel: string): Move[] {
    const moves = this.moves().get(channel) ?? [];
    return moves.slice(this.inForce(moves, this.now()));
  }

  /** When a scheduled release comes next on a channel, epoch ms. */
  nextMs(channel: string): number | undefined {
    return this.coming(channel)[0]?.atMs;
  }

  /** The first scheduled move of all that has not come yet. */
  nextOfAll(): Move | undefined {
    return [...this.moves().keys()].flatMap((channel) => this.coming(channel)).sort((a, b) => a.atMs - b.atMs)[0];
  }

  exists(channel: string): boolean {
    return this.moves().has(channel);
  }

  views(): ChannelView[] {
    return [...this.moves().keys()].sort().map((name) => {
      const moves = this.moves().get(name)!;
      const now = moves[this.inForce(moves, this.now()) - 1];
      return {
        name,
        release: now?.release ?? null,
        changedMs: now?.atMs ?? null,
        changedBy: now?.madeBy ?? null,
        coming: this.coming(name).map(moveView),
      };
    });
  }

  /** Every move of a channel that took effect, newest first, the deleted ones too. */
  history(channel: string): MoveView[] {
    return this.database.db
      .select()
      .from(channelMoves)
      .where(eq(channelMoves.channel, channel))
      .orderBy(asc(channelMoves.id))
      .all()
      .reverse()
      .map(moveView);
  }

  /** Throws when a set time is not ahead: asked before anything is written. */
  timeAhead(atMs: number | undefined): void {
    const nowMs = this.now();
    if (atMs !== undefined && atMs <= nowMs)
      throw new Problem(
        'bad-request',
        `The time ${iso(atMs)} is past: it is ${iso(nowMs)}. Leave the time out to do it now, or name a later one.`,
      );
  }

  /** Inside the writer only. `atMs` schedules it; without, it holds at once. */
  move(channel: string, release: number, who: string, note: string, atMs?: number): Move {
    this.timeAhead(atMs);
    const nowMs = this.now();
    const last = this.current(channel);
    const move = this.database.db
      .insert(channelMoves)
      .values({
        channel,
        release,
        // Never before the move that it follows, should the clock have stepped back.
        atMs: atMs ?? Math.max(nowMs, last?.atMs ?? 0),
        scheduled: atMs !== undefined,
        reachedMs: atMs === undefined ? nowMs : null,
        note,
        madeMs: nowMs,
        madeBy: who,
      })
      .returning()
      .get();
    this.trail.add(
      who,
      atMs === undefined ? 'channel.point' : 'channel.schedule',
      channel,
      `release ${release}${atMs === undefined ? '' : ` from ${iso(atMs)}`}`,
    );
    this.stream.tell(atMs === undefined ? 'channel.moved' : 'channel.scheduled', channel, { ...moveView(move), who });
    this.changed();
    return move;
  }

  /** Inside the writer only. Takes back a move that has not come yet. */
  cancel(channel: string, id: number, who: string): MoveView {
    const move = this.coming(channel).find((one) => one.id === id);
    if (!move) throw new Problem('not-found', `Nothing with the number ${id} is scheduled on "${channel}".`);
    this.end(eq(channelMoves.id, id), who);
    this.trail.add(who, 'channel.cancel', channel, `release ${move.release} at ${iso(move.atMs)}`);
    this.stream.tell('channel.cancelled', channel, { ...moveView(move), who });
    return moveView(move);
  }

  /** Inside the writer only. */
  remove(channel: string, who: string, anyway: boolean): void {
    if (!this.exists(channel)) throw new Problem('not-found', `There is no channel "${channel}".`);
    if (channel === 'live')
      throw new Problem(
        'channel-in-use',
        'The channel "live" is what players meet, so it stays. Point it at another release instead.',
      );
    const usedMs = this.used.get(channel);
    const [next] = this.coming(channel);
    const why = next
      ? `release ${next.release} is to come on it at ${iso(next.atMs)}`
      : usedMs !== undefined && this.now() - usedMs < IN_USE_MS
        ? `it was last read at ${iso(usedMs)}`
        : undefined;
    if (why && !anyway)
      throw new Problem(
        'channel-in-use',
        `The channel "${channel}" is in use: ${why}. Whoever reads it would get an error. Send anyway=true to delete it all the same.`,
      );
    this.end(eq(channelMoves.channel, channel), who);
    this.used.delete(channel);
    this.trail.add(who, 'channel.delete', channel, why ?? '');
    this.stream.tell('channel.deleted', channel, { who });
  }

  /** Inside the writer only. Marks what has come by the clock, and tells of it. */
  reach(): void {
    const nowMs = this.now();
    for (const [channel, moves] of this.moves())
      for (const move of moves)
        if (move.scheduled && move.reachedMs === null && move.atMs <= nowMs) {
          this.database.db.update(channelMoves).set({ reachedMs: nowMs }).where(eq(channelMoves.id, move.id)).run();
          this.trail.add(move.madeBy, 'channel.reach', channel, `release ${move.release}`);
          this.stream.tell('channel.moved', channel, { ...moveView(move), who: move.madeBy });
          this.held = undefined;
        }
  }

  private end(which: ReturnType<typeof eq>, who: string): void {
    this.database.db
      .update(channelMoves)
      .set({ endedMs: this.now(), endedBy: who })
      .where(and(which, isNull(channelMoves.endedMs)))
      .run();
    this.changed();
  }

  private changed(): void {
    this.held = undefined;
    this.combined.clear();
  }

  // --- rotations

  private rotationsOf(release: number): Map<string, Rotation> {
    const known = this.rotations.get(release) ?? documentRotations(this.documentOf(release));
    if (this.rotations.size > 60) this.rotations.clear();
    this.rotations.set(release, known);
    return known;
  }

  /** What is recorded of rotations, for a channel at the move in force, or for the draft and single releases. */
  rotationRecords(move?: Move): ReadonlyMap<string, RotationRecord> {
    const key = move ? `${move.channel} ${move.id}` : '';
    const known = this.combined.get(key);
    if (known) return known;
    const made = new Map<string, RotationRecord>();
    for (const [shelf, periods] of this.records()) made.set(shelf, { periods, earlier: [] });
    if (move)
      for (const [shelf, earlier] of this.earlierOf(move))
        made.set(shelf, { periods: made.get(shelf)?.periods ?? new Map(), earlier });
    this.combined.set(key, made);
    return made;
  }

  /** By shelf, the rules of the releases before, each until the period in which it was replaced ends. */
  private earlierOf(move: Move): Map<string, { untilMs: number; rotation: Rotation }[]> {
    const all = this.moves().get(move.channel) ?? [];
    const moves = all.slice(0, all.findIndex(({ id }) => id === move.id) + 1).slice(-MOST_EARLIER);
    const earlier = new Map<string, { untilMs: number; rotation: Rotation }[]>();
    for (let index = 1; index < moves.length; index++) {
      if (moves[index]!.release === moves[index - 1]!.release) continue;
      const next = this.rotationsOf(moves[index]!.release);
      for (const [shelf, rotation] of this.rotationsOf(moves[index - 1]!.release)) {
        if (JSON.stringify(next.get(shelf)) === JSON.stringify(rotation)) continue;
        const { endMs } = beatPeriod(rotation.beat, moves[index]!.atMs);
        earlier.set(shelf, [...(earlier.get(shelf) ?? []), { untilMs: endMs, rotation }]);
      }
    }
    return earlier;
  }

  private records(): Map<string, Map<number, PeriodRecord>> {
    if (this.recordsHeld) return this.recordsHeld;
    const made = new Map<string, Map<number, PeriodRecord>>();
    for (const { shelf, period, kind, offer } of this.recordRows()) {
      const periods = made.get(shelf) ?? new Map<number, PeriodRecord>();
      const { pinned, without } = periods.get(period) ?? { pinned: [], without: [] };
      periods.set(
        period,
        kind === 'pin' ? { pinned: [...pinned, offer], without } : { pinned, without: [...without, offer] },
      );
      made.set(shelf, periods);
    }
    return (this.recordsHeld = made);
  }

  recordRows(): RotationRecordView[] {
    return this.database.db
      .select()
      .from(rotationRecords)
      .where(isNull(rotationRecords.endedMs))
      .orderBy(asc(rotationRecords.id))
      .all()
      .map(({ id, shelf, period, kind, offer, why, madeMs, madeBy }) => ({
        id,
        shelf,
        period,
        kind: kind as 'pin' | 'without',
        offer,
        why,
        madeMs,
        madeBy,
      }));
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
    const { db } = this.database;
    for (const offer of offers) {
      const same = and(
        eq(rotationRecords.shelf, shelf),
        eq(rotationRecords.period, period),
        eq(rotationRecords.offer, offer),
      );
      db.update(rotationRecords)
        .set({ endedMs: this.now(), endedBy: who })
        .where(and(same, isNull(rotationRecords.endedMs)))
        .run();
      db.insert(rotationRecords).values({ shelf, period, kind, offer, why, madeMs: this.now(), madeBy: who }).run();
      this.trail.add(who, `rotation.${kind}`, `${shelf} period ${period}`, `${offer}: ${why}`);
    }
    this.stream.tell('rotation.recorded', shelf, { period, kind, offers, who });
    this.recordsChanged();
  }

  /** Inside the writer only. */
  recordEnd(id: number, who: string): void {
    const { changes } = this.database.db
      .update(rotationRecords)
      .set({ endedMs: this.now(), endedBy: who })
      .where(and(eq(rotationRecords.id, id), isNull(rotationRecords.endedMs)))
      .run();
    if (changes === 0) throw new Problem('not-found', `There is no record ${id} of a rotation.`);
    this.trail.add(who, 'rotation.undo', `record ${id}`);
    this.stream.tell('rotation.recorded', `record ${id}`, { who });
    this.recordsChanged();
  }

  private recordsChanged(): void {
    this.recordsHeld = undefined;
    this.combined.clear();
  }
}

const iso = (ms: number): string => new Date(ms).toISOString();

const moveView = ({ id, release, atMs, scheduled, note, madeMs, madeBy, endedMs, endedBy }: Move): MoveView => ({
  move: id,
  release,
  atMs,
  scheduled,
  note,
  madeMs,
  madeBy,
  endedMs,
  endedBy,
});

/** The economy with what is recorded of its rotations. */
export const economyRecorded = (economy: Economy, records: ReadonlyMap<string, RotationRecord>): Economy =>
  records.size === 0 ? economy : { ...economy, rotationRecords: records };
