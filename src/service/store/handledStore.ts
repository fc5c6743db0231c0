/** What was handled, each once for its key: how a repeat is known, and what it is answered with. */
import { and, asc, eq, gt, sql } from 'drizzle-orm';
import type { Database } from './database.js';
import { direct } from './direct.js';
import { handled, players } from './tables.js';

/** Keys of one kind have nothing to do with those of another. */
export const HANDLED_KINDS = ['purchase', 'act', 'event', 'grant'] as const;
export type HandledKind = (typeof HANDLED_KINDS)[number];

type Row = typeof handled.$inferSelect;

/** Where keys are kept; `player` is whoever a key belongs to. */
export interface KeyStore {
  find(kind: HandledKind, player: string, key: string): Pick<Row, 'number' | 'request' | 'answer'> | undefined;
  /** Inside the writer only. Returns the number that it got within its kind. */
  add(kind: HandledKind, row: Omit<Row, 'kind' | 'number'>): number;
}

export class HandledStore implements KeyStore {
  private readonly statements: ReturnType<typeof prepareStatements>;

  constructor(database: Database) {
    this.statements = prepareStatements(database);
  }

  find(kind: HandledKind, player: string, key: string): Pick<Row, 'number' | 'request' | 'answer'> | undefined {
    return this.statements.find.get(player, kind, key);
  }

  /** Purchases of all players with what those are now, oldest first, after the one of number `cursor`. */
  purchases(cursor: number, limit: number) {
    return this.statements.purchases.all({ cursor, limit });
  }

  /** Inside the writer only. Returns the number that it got within its kind. */
  add(kind: HandledKind, { player, key, request, atMs, answer }: Omit<Row, 'kind' | 'number'>): number {
    return this.statements.add.get(kind, kind, player, key, request, atMs, answer)!.number;
  }
}

function prepareStatements(database: Database) {
  const { db } = database;
  const at = (name: string) => sql.placeholder(name);
  return {
    find: direct<[player: string, kind: string, key: string], Pick<Row, 'number' | 'request' | 'answer'>>(
      database,
      ['player', 'kind', 'key'],
      db
        .select({ number: handled.number, request: handled.request, answer: handled.answer })
        .from(handled)
        .where(and(eq(handled.player, at('player')), eq(handled.kind, at('kind')), eq(handled.key, at('key')))),
    ),
    purchases: db
      .select({
        number: handled.number,
        player: handled.player,
        atMs: handled.atMs,
        answer: handled.answer,
        attributes: players.attributes,
      })
      .from(handled)
      .innerJoin(players, eq(players.id, handled.player))
      .where(and(eq(handled.kind, 'purchase'), gt(handled.number, at('cursor'))))
      .orderBy(asc(handled.number))
      .limit(at('limit'))
      .prepare(),
    add: direct<
      [kind: string, ofKind: string, player: string, key: string, request: string, atMs: number, answer: string],
      { number: number }
    >(
      database,
      ['kind', 'kind', 'player', 'key', 'request', 'atMs', 'answer'],
      db
        .insert(handled)
        .values({
          kind: at('kind'),
          number: sql`(SELECT coalesce(max(${handled.number}), 0) + 1 FROM ${handled} WHERE ${handled.kind} = ${at('kind')})`,
          player: at('player'),
          key: at('key'),
          request: at('request'),
          atMs: at('atMs'),
          answer: at('answer'),
        })
        .returning({ number: handled.number }),
    ),
  };
}
