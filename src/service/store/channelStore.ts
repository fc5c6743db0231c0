/** The moves of channels: only ever added, marked as reached, and taken back. */
import { and, asc, desc, eq, isNull } from 'drizzle-orm';
import type { Database } from './database.js';
import { channelMoves } from './tables.js';

export type Move = typeof channelMoves.$inferSelect;

export class ChannelStore {
  constructor(private readonly database: Database) {}

  /** Moves that stand, in the order in which they take effect. */
  standing(): Move[] {
    return this.database.db
      .select()
      .from(channelMoves)
      .where(isNull(channelMoves.endedMs))
      .orderBy(asc(channelMoves.atMs), asc(channelMoves.id))
      .all();
  }

  /** Every move of a channel, newest first, those that were taken back too. */
  history(channel: string): Move[] {
    return this.database.db
      .select()
      .from(channelMoves)
      .where(eq(channelMoves.channel, channel))
      .orderBy(desc(channelMoves.id))
      .all();
  }

  /** Inside the writer only, as are all that follow. */
  add(move: Omit<Move, 'id' | 'endedMs' | 'endedBy'>): Move {
    return this.database.db.insert(channelMoves).values(move).returning().get();
  }

  reached(id: number, reachedMs: number): void {
    this.database.db.update(channelMoves).set({ reachedMs }).where(eq(channelMoves.id, id)).run();
  }

  end(id: number, ended: { endedMs: number; endedBy: string }): void {
    this.endWhere(eq(channelMoves.id, id), ended);
  }

  endAll(channel: string, ended: { endedMs: number; endedBy: string }): void {
    this.endWhere(eq(channelMoves.channel, channel), ended);
  }

  private endWhere(which: ReturnType<typeof eq>, ended: { endedMs: number; endedBy: string }): void {
    this.database.db
      .update(channelMoves)
      .set(ended)
      .where(and(which, isNull(channelMoves.endedMs)))
      .run();
  }
}
