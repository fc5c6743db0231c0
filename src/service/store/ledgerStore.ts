/** The ledger's records: appended, read by player, never changed. */
import { and, asc, eq, gt, or, sql } from 'drizzle-orm';
import { unionAll } from 'drizzle-orm/sqlite-core';
import { MAX_UNITS } from '../../core/amount/index.js';
import { playerAccount, teamAccount } from '../../core/ledger/index.js';
import type { Movement } from '../../core/ledger/index.js';
import type { Database } from './database.js';
import { direct } from './direct.js';
import { movements } from './tables.js';

export class LedgerStore {
  private readonly statements: ReturnType<typeof prepareStatements>;

  constructor(database: Database) {
    this.statements = prepareStatements(database);
  }

  /** Inside the writer only. `player` is the one whose request caused the movements, all at once. */
  append(player: string, release: number, atMs: number, list: readonly Movement[]): void {
    for (const { asset, units, from, to, cause } of list.length > FEW ? together(list) : list)
      this.statements.append.run(player, asset, units, from, to, cause, release, atMs);
  }

  /** What a player paid and received, oldest first, after `cursor`. */
  of(player: string, cursor: number, limit: number) {
    return this.statements.of.all({ player, account: playerAccount(player), cursor, limit });
  }

  /** The same of a team. */
  ofTeam(team: string, cursor: number, limit: number) {
    return this.statements.ofTeam.all({ account: teamAccount(team), cursor, limit });
  }
}

/** Movements that are not worth putting together: a purchase has so many. */
const FEW = 8;

/** What moved the same way for the same cause, as one movement: a thousand crates opened at once are not three thousand rows. */
function together(list: readonly Movement[]): Movement[] {
  const byWay = new Map<string, Movement>();
  const all: Movement[] = [];
  for (const movement of list) {
    const way = JSON.stringify([movement.asset, movement.from, movement.to, movement.cause]);
    const before = byWay.get(way);
    if (before && before.units + movement.units <= MAX_UNITS) before.units += movement.units;
    else {
      const own = { ...movement };
      byWay.set(way, own);
      all.push(own);
    }
  }
  return all;
}

function prepareStatements(database: Database) {
  const { db } = database;
  const at = (name: string) => sql.placeholder(name);
  const teamSide = (side: typeof movements.toAccount | typeof movements.fromAccount) =>
    db
      .select()
      .from(movements)
      .where(and(eq(side, at('account')), sql`${side} LIKE 'team:%'`, gt(movements.id, at('cursor'))));
  return {
    append: direct<
      [
        player: string,
        asset: string,
        units: number,
        from: string,
        to: string,
        cause: string,
        release: number,
        atMs: number,
      ]
    >(
      database,
      ['player', 'asset', 'units', 'from', 'to', 'cause', 'release', 'atMs'],
      db.insert(movements).values({
        player: at('player'),
        asset: at('asset'),
        units: at('units'),
        fromAccount: at('from'),
        toAccount: at('to'),
        cause: at('cause'),
        release: at('release'),
        atMs: at('atMs'),
      }),
    ),
    of: db
      .select()
      .from(movements)
      .where(
        and(
          eq(movements.player, at('player')),
          gt(movements.id, at('cursor')),
          or(eq(movements.fromAccount, at('account')), eq(movements.toAccount, at('account'))),
        ),
      )
      .orderBy(asc(movements.id))
      .limit(at('limit'))
      .prepare(),
    // Each half by its index, which is of such accounts alone.
    ofTeam: unionAll(teamSide(movements.toAccount), teamSide(movements.fromAccount))
      .orderBy(asc(movements.id))
      .limit(at('limit'))
      .prepare(),
  };
}
