/** Checks the records against each other: an operator can run it, and the tests do after every fault. */
import { HOLDERS } from '../../core/ledger/index.js';
import type { MovementRecord } from './archiveStore.js';
import type { Database } from './database.js';
import { databaseProblem } from './databaseProblem.js';
import type { DatabaseProblem } from './databaseProblem.js';

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

const isHolder = (account: string): string =>
  `(${HOLDERS.map((holder) => `substr(${account}, 1, ${holder.length + 1}) = '${holder}:'`).join(' OR ')})`;

/** What `table` says moved, account by account: in is above zero, out below. */
const movedBy = (table: string): string => `
  SELECT to_account AS account, asset, units FROM ${table} WHERE ${isHolder('to_account')}
  UNION ALL SELECT from_account, asset, -units FROM ${table} WHERE ${isHolder('from_account')}`;

/** The bits of the lower of the two parts that a sum is made of, each exact for 2^38 rows of any amount: the whole may need more than 64. */
const LOW_BITS = 24;

const high = (units: string): string => `sum((${units}) >> ${LOW_BITS})`;
const low = (units: string): string => `sum((${units}) & ${2 ** LOW_BITS - 1})`;
/** Whether the parts of a sum come to anything but nothing. */
const isNotZero = (units: string): string =>
  `(${low(units)} & ${2 ** LOW_BITS - 1} <> 0 OR ${high(units)} <> -(${low(units)} >> ${LOW_BITS}))`;

/** An account of which two records do not say the same, with what each says in two parts. */
interface Disagreement {
  account: string;
  asset: string;
  leftHigh: bigint;
  leftLow: bigint;
  rightHigh: bigint;
  rightLow: bigint;
}

/** Where two tables of `account, asset, units` do not come to the same. They are sorted outside of memory, whatever there is. */
function disagreements(
  raw: Database['raw'],
  left: string,
  right: string,
  told: (account: string, asset: string, left: bigint, right: bigint) => string,
): string[] {
  const rows = raw
    .prepare<[], Disagreement>(
      `SELECT account, asset, ${high('l')} AS leftHigh, ${low('l')} AS leftLow, ${high('r')} AS rightHigh, ${low('r')} AS rightLow
       FROM (SELECT account, asset, units AS l, 0 AS r FROM (${left}) UNION ALL SELECT account, asset, 0, units FROM (${right}))
       GROUP BY account, asset HAVING ${isNotZero('l - r')}`,
    )
    .safeIntegers()
    .iterate();
  const faults: string[] = [];
  let more = 0;
  for (const { account, asset, leftHigh, leftLow, rightHigh, rightLow } of rows)
    if (faults.length < MOST_TOLD)
      faults.push(told(account, asset, whole(leftHigh, leftLow), whole(rightHigh, rightLow)));
    else more++;
  return more > 0 ? [...faults, `and ${more} more that do not agree`] : faults;
}

const whole = (highPart: bigint, lowPart: bigint): bigint => (highPart << BigInt(LOW_BITS)) + lowPart;

/** How many faults are told one by one. */
const MOST_TOLD = 100;

/**
 * Balances, stacks, what teams hold, tills and shared stock against their movements, no amount below zero, SQLite's own check, and each
 * purchase in the ledger. `tell` is told what is looked at next.
 */
export function integrityCheck(
  { raw }: Pick<Database, 'raw'>,
  tell: (what: string) => void = () => undefined,
): IntegrityReport {
  const count = (sql: string): number => (raw.prepare(sql).get() as { n: number }).n;
  // One state of it all, whatever is written meanwhile.
  raw.exec('BEGIN');
  try {
    tell('counting');
    const counts = {
      players: count('SELECT count(*) AS n FROM players WHERE erased_ms IS NULL'),
      movements: count('SELECT count(*) AS n FROM movements'),
      purchases: count("SELECT count(*) AS n FROM handled WHERE kind = 'purchase'"),
    };
    tell(`sums of ${counts.movements} movements`);
    const faults = disagreements(
      raw,
      HELD,
      movedBy('movements'),
      (account, asset, held, moved) => `${account} holds ${held} ${asset}; its movements sum to ${moved}`,
    );
    tell(`movements of ${counts.purchases} purchases`);
    for (const [sql, words] of [
      [`SELECT count(*) AS n FROM (${HELD}) WHERE units < 0`, 'amounts are below zero'],
      [UNMOVED, 'purchases have no movement'],
      ['SELECT count(*) AS n FROM stocks WHERE units < 0', 'stocks are below zero'],
    ] as const) {
      const found = count(sql);
      if (found > 0) faults.push(`${found} ${words}`);
    }
    tell('pages and indexes of the file');
    return { ...counts, faults: [...faults, ...sqliteFaults(raw)] };
  } finally {
    raw.exec('COMMIT');
  }
}

/**
 * What files of movements say against what stands in the ledger up to the last of them, opening balances and all. `files`
 * gives the rows of each.
 */
export async function archiveFaults(
  { raw }: Pick<Database, 'raw'>,
  files: AsyncIterable<Pick<MovementRecord, 'asset' | 'units' | 'from' | 'to'>>,
): Promise<string[]> {
  raw.exec('CREATE TEMP TABLE archived (asset TEXT, units INTEGER, from_account TEXT, to_account TEXT)');
  const add = raw.prepare('INSERT INTO temp.archived VALUES (@asset, @units, @from, @to)');
  try {
    raw.exec('BEGIN');
    for await (const row of files) add.run(row);
    raw.exec('COMMIT');
    return disagreements(
      raw,
      movedBy('(SELECT * FROM movements WHERE id <= (SELECT max(last_id) FROM archives))'),
      movedBy('temp.archived'),
      (account, asset, stands, moved) =>
        `${account} begins with ${stands} ${asset}; its movements in the archive sum to ${moved}`,
    );
  } finally {
    raw.exec('DROP TABLE temp.archived');
  }
}

/** Purchases that moved nothing. What moved before the end of the archive is not here to be asked. */
const UNMOVED = `
  SELECT count(*) AS n FROM handled
  WHERE kind = 'purchase' AND at_ms >= (SELECT coalesce(max(until_ms), 0) FROM archives)
    AND (player, at_ms, 'purchase:' || json_extract(request, '$[0]')) NOT IN
      (SELECT player, at_ms, cause FROM movements WHERE cause LIKE 'purchase:%')`;

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

/** So large a file, in bytes, is gone through within a tenth of a second. */
const SMALL_BYTES = 16 * 2 ** 20;

/**
 * What can be seen at once: all pages of a small file; of a larger one its schema and both ends of every table, which a file
 * that was cut short does not have. `isWhole`: nothing is left to look at.
 */
export function damageSeenAtOnce({ raw, path, size }: Pick<Database, 'raw' | 'path' | 'size'>): {
  damage: DatabaseProblem | undefined;
  isWhole: boolean;
} {
  if (size() <= SMALL_BYTES) return { damage: pagesDamage({ raw, path }), isWhole: true };
  try {
    const tables = raw.prepare("SELECT name FROM sqlite_master WHERE type = 'table'").pluck().all() as string[];
    for (const table of tables)
      for (const order of ['ASC', 'DESC'])
        raw.prepare(`SELECT * FROM "${table}" ORDER BY rowid ${order} LIMIT 1`).get();
    return { damage: undefined, isWhole: false };
  } catch (error) {
    return { damage: databaseProblem(path, error), isWhole: false };
  }
}
