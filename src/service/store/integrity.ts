/** Checks the records against each other: an operator can run it, and the tests do after every fault. */
import { holdingsAdd, ledgerVerify } from '../../core/ledger/index.js';
import type { Holdings, LedgerFault, Movement } from '../../core/ledger/index.js';
import { databaseProblem } from './database.js';
import type { Database, DatabaseProblem } from './database.js';

export interface IntegrityReport {
  players: number;
  movements: number;
  purchases: number;
  faults: string[];
}

/** Everything that is on record as held, under the ledger's names. */
const HELD = `
  SELECT 'player:' || player AS account, currency AS asset, units FROM balances
  UNION ALL SELECT 'player:' || player, item, units FROM stacks
  UNION ALL SELECT 'team:' || team, asset, units FROM team_holdings
  UNION ALL SELECT 'till:' || shop, asset, units FROM tills
  UNION ALL SELECT 'stock:' || offer, 'offer:' || offer, units FROM shared_stocks`;

/**
 * Balances, stacks, what teams hold, tills and shared stock against their movements, no amount below zero, SQLite's own check, and each
 * purchase in the ledger.
 */
export function integrityCheck({ raw }: Pick<Database, 'raw'>): IntegrityReport {
  const held: Holdings = new Map();
  for (const row of raw.prepare(HELD).iterate() as Iterable<{ account: string; asset: string; units: number }>)
    holdingsAdd(held, row.account, row.asset, BigInt(row.units));
  const count = (sql: string): number => (raw.prepare(sql).get() as { n: number }).n;
  const faults = ledgerVerify(movementRows(raw), held).map(({ message }: LedgerFault) => message);
  const sqlite = sqliteFaults(raw);
  const unmoved = count(
    `SELECT count(*) AS n FROM handled
     WHERE kind = 'purchase' AND (player, at_ms, 'purchase:' || json_extract(request, '$[0]')) NOT IN
       (SELECT player, at_ms, cause FROM movements WHERE cause LIKE 'purchase:%')`,
  );
  const oversold = count('SELECT count(*) AS n FROM stocks WHERE units < 0');
  if (unmoved > 0) faults.push(`${unmoved} purchases have no movement`);
  if (oversold > 0) faults.push(`${oversold} stocks are below zero`);
  return {
    players: count('SELECT count(*) AS n FROM players WHERE erased_ms IS NULL'),
    movements: count('SELECT count(*) AS n FROM movements'),
    purchases: count("SELECT count(*) AS n FROM handled WHERE kind = 'purchase'"),
    faults: [...faults, ...sqlite],
  };
}

/** What SQLite itself finds wrong with a file. */
export const sqliteFaults = (raw: Database['raw']): string[] =>
  (raw.pragma('integrity_check') as { integrity_check: string }[])
    .map((row) => row.integrity_check)
    .filter((line) => line !== 'ok');

/** The same without the indexes, which takes a fraction of the time; as a sentence, where there is something. */
export function pagesDamage({ raw, path }: Pick<Database, 'raw' | 'path'>): DatabaseProblem | undefined {
  const corrupt = { code: 'SQLITE_CORRUPT' };
  try {
    const [{ quick_check: first }] = raw.pragma('quick_check(1)') as [{ quick_check: string }];
    return first === 'ok' ? undefined : databaseProblem(path, Object.assign(new Error(first), corrupt));
  } catch (error) {
    return databaseProblem(path, error);
  }
}

function movementRows(raw: Database['raw']): Iterable<Movement> {
  return raw
    .prepare('SELECT asset, units, from_account AS "from", to_account AS "to", cause FROM movements')
    .iterate() as Iterable<Movement>;
}
