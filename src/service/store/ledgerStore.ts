/** The ledger's records: appended, read by player, never changed. */
import { and, asc, eq, gt, or, sql } from 'drizzle-orm';
import { playerAccount } from '../../core/ledger/index.js';
import type { Movement } from '../../core/ledger/index.js';
import type { Database } from './database.js';
import { movements } from './tables.js';

export class LedgerStore {
  private readonly statements: ReturnType<typeof prepareStatements>;

  constructor(database: Database) {
    this.statements = prepareStatements(database);
  }

  /** Inside the writer only. `player` is the one whose request caused the movements. */
  append(player: string, release: number, atMs: number, list: readonly Movement[]): void {
    for (const { asset, units, from, to, cause } of list)
      this.statements.append.run({ player, asset, units, from, to, cause, release, atMs });
  }

  /** What a player paid and received, oldest first, after `cursor`. */
  of(player: string, cursor: number, limit: number) {
    return this.statements.of.all({ player, account: playerAccount(player), cursor, limit });
  }
}

function prepareStatements({ db }: Database) {
  const at = (name: string) => sql.placeholder(name);
  return {
    append: db
      .insert(movements)
      .values({
        player: at('player'),
        asset: at('asset'),
        units: at('units'),
        fromAccount: at('from'),
        toAccount: at('to'),
        cause: at('cause'),
        release: at('release'),
        atMs: at('atMs'),
      })
      .prepare(),
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
  };
}
