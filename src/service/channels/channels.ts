/**
 * Where channels point, now and from set times. Moves are only ever added and taken back, so what was live at any
 * instant can be told.
 */
import type { ChannelView, MoveView } from '../../contract/index.js';
import type { Caches, Held } from '../held.js';
import { Problem } from '../problem.js';
import type { ChannelStore, Move } from '../store/channelStore.js';
import type { Stream } from '../stream.js';
import type { Trail } from '../store/trail.js';

/** A channel that was read this recently is in use. */
const IN_USE_MS = 24 * 3_600_000;

/** What each points at is held compiled, so that players never wait for it. */
export const MOST_CHANNELS = 16;

export class Channels {
  /** Moves that stand, by channel, in the order in which they take effect. */
  private readonly standing: Held<Map<string, Move[]>>;
  private readonly used = new Map<string, number>();

  constructor(
    caches: Caches,
    private readonly store: ChannelStore,
    private readonly trail: Trail,
    private readonly stream: Stream,
    private readonly now: () => number,
  ) {
    this.standing = caches.held(() => byChannel(store.standing()));
  }

  private moves(): ReadonlyMap<string, Move[]> {
    return this.standing.get();
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
    return this.store.history(channel).map(moveView);
  }

  /** The moves of a channel up to one of them, oldest first. */
  upTo(move: Move): readonly Move[] {
    const all = this.moves().get(move.channel) ?? [];
    return all.slice(0, all.findIndex(({ id }) => id === move.id) + 1);
  }

  /** Throws where it would be a channel too many, or a set time is not ahead: asked before anything is written. */
  mayMove(channel: string, atMs: number | undefined): void {
    if (!this.exists(channel) && this.moves().size >= MOST_CHANNELS)
      throw new Problem(
        'bad-request',
        `There are ${MOST_CHANNELS} channels, which is the most. Delete one that nobody reads, then name "${channel}" again.`,
      );
    const nowMs = this.now();
    if (atMs !== undefined && atMs <= nowMs)
      throw new Problem(
        'bad-request',
        `The time ${iso(atMs)} is past: it is ${iso(nowMs)}. Leave the time out to do it now, or name a later one.`,
      );
  }

  /** Inside the writer only. `atMs` schedules it; without, it holds at once. */
  move(channel: string, release: number, who: string, note: string, atMs?: number): Move {
    this.mayMove(channel, atMs);
    const nowMs = this.now();
    const last = this.current(channel);
    const move = this.store.add({
      channel,
      release,
      // Never before the move that it follows, should the clock have stepped back.
      atMs: atMs ?? Math.max(nowMs, last?.atMs ?? 0),
      scheduled: atMs !== undefined,
      reachedMs: atMs === undefined ? nowMs : null,
      note,
      madeMs: nowMs,
      madeBy: who,
    });
    this.trail.add(
      who,
      atMs === undefined ? 'channel.point' : 'channel.schedule',
      channel,
      `release ${release}${atMs === undefined ? '' : ` from ${iso(atMs)}`}`,
    );
    this.stream.tell(atMs === undefined ? 'channel.moved' : 'channel.scheduled', channel, { ...moveView(move), who });
    this.standing.drop();
    return move;
  }

  /** Inside the writer only. Takes back a move that has not come yet. */
  cancel(channel: string, id: number, who: string): MoveView {
    const move = this.coming(channel).find((one) => one.id === id);
    if (!move) throw new Problem('not-found', `Nothing with the number ${id} is scheduled on "${channel}".`);
    this.store.end(id, { endedMs: this.now(), endedBy: who });
    this.standing.drop();
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
    this.store.endAll(channel, { endedMs: this.now(), endedBy: who });
    this.standing.drop();
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
          this.store.reached(move.id, nowMs);
          this.trail.add(move.madeBy, 'channel.reach', channel, `release ${move.release}`);
          this.stream.tell('channel.moved', channel, { ...moveView(move), who: move.madeBy });
          this.standing.drop();
        }
  }
}

function byChannel(moves: readonly Move[]): Map<string, Move[]> {
  const channels = new Map<string, Move[]>();
  for (const move of moves) channels.set(move.channel, [...(channels.get(move.channel) ?? []), move]);
  return channels;
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
