/**
 * Months of movements that are in files, and the opening balances that stand in the ledger in their place: whatever
 * moved between two accounts becomes one movement of the same sum, so that every account is worth what it was at every
 * moment in between.
 */
import { MAX_UNITS } from '../../core/amount/index.js';
import { isHolder, worldAccount } from '../../core/ledger/index.js';
import type { Account } from '../../core/ledger/index.js';
import type { Database } from './database.js';

/** A month that is in a file. */
export interface Archived {
  /** `2026-03`, of UTC. */
  month: string;
  file: string;
  /** Of the file, in hexadecimal. */
  sha256: string;
  rows: number;
  /** The last movement in it. */
  lastId: number;
  /** Where the next month begins. */
  untilMs: number;
}

/** A movement as it is stored. */
export interface MovementRecord {
  id: number;
  player: string;
  asset: string;
  units: number;
  from: Account;
  to: Account;
  cause: string;
  release: number;
  atMs: number;
}

/** The columns of a `MovementRecord`. */
export const MOVEMENT_COLUMNS =
  'id, player, asset, units, from_account AS "from", to_account AS "to", cause, release, at_ms AS atMs';

/** How far the movements of players, one after the other, have become opening balances. */
export interface OpeningCursor {
  player: string;
  id: number;
}

export const OPENING_BEGIN: OpeningCursor = { player: '', id: 0 };

const OPENING_ACCOUNT = worldAccount('opening');
const OPENING_CAUSE = 'opening:';

export class ArchiveStore {
  private readonly statements: ReturnType<typeof prepareStatements>;

  constructor(database: Database) {
    this.statements = prepareStatements(database);
  }

  last(): Archived | undefined {
    return this.statements.last.get();
  }

  /** All months, the oldest first. */
  all(): Archived[] {
    return this.statements.all.all();
  }

  /** The month whose movements are in a file and have not all become opening balances. */
  unopened(): Archived | undefined {
    return this.statements.unopened.get();
  }

  /** The first movement that is in no file. */
  firstAfter(id: number): Pick<MovementRecord, 'id' | 'atMs'> | undefined {
    return this.statements.firstAfter.get(id);
  }

  /** Inside the writer only, as are all that follow. */
  add(archived: Archived, madeMs: number): void {
    this.statements.add.run({ ...archived, madeMs });
  }

  opened(month: string, openedMs: number): void {
    this.statements.opened.run(openedMs, month);
  }

  /**
   * Turns about `most` movements after `cursor` into opening balances, player by player; undefined once there are none.
   * What stands for earlier months alone stays as it is.
   */
  open({ month, lastId, untilMs }: Archived, cursor: OpeningCursor, most: number): OpeningCursor | undefined {
    const { ofPlayer, nextPlayer, remove, append } = this.statements;
    const opening = { cause: `${OPENING_CAUSE}${month}`, atMs: untilMs };
    let { player, id } = cursor;
    for (let left = most; left > 0;) {
      const rows = ofPlayer.all(player, id, lastId, left);
      if (rows.some(({ cause }) => !cause.startsWith(OPENING_CAUSE))) {
        for (const row of rows) remove.run(row.id);
        for (const row of openingBalances(rows)) append.run({ ...row, ...opening });
      }
      if (rows.length === left) return { player, id: rows.at(-1)!.id };
      const next = nextPlayer.get(player);
      if (!next) return undefined;
      [player, id] = [next.player, 0];
      // Looking for the next player counts too.
      left -= rows.length + 1;
    }
    return { player, id };
  }
}

/** A sum of movements under one of their ids: as many ids as movements, so that there is one for each part of a large sum. */
interface Sum {
  first: MovementRecord;
  ids: number[];
  units: bigint;
}

/**
 * What movements come to: for each player that caused them, and each two accounts and asset, one movement of what is left
 * when both directions are set against each other. What comes from where things have no end comes from one account.
 */
export function openingBalances(rows: readonly MovementRecord[]): Omit<MovementRecord, 'cause' | 'atMs'>[] {
  const sums = new Map<string, Sum>();
  for (const row of rows) {
    const [from, to] = [row.from, row.to].map((account) => (isHolder(account) ? account : OPENING_ACCOUNT)) as [
      Account,
      Account,
    ];
    if (from === to) continue;
    const isForward = from < to;
    const key = JSON.stringify([row.player, row.asset, ...(isForward ? [from, to] : [to, from])]);
    const units = isForward ? BigInt(row.units) : -BigInt(row.units);
    const sum = sums.get(key);
    if (sum) {
      sum.ids.push(row.id);
      sum.units += units;
    } else {
      const [left, right] = isForward ? [from, to] : [to, from];
      sums.set(key, { first: { ...row, from: left, to: right }, ids: [row.id], units });
    }
  }
  return [...sums.values()].flatMap(({ first, ids, units }) => {
    const { player, asset, release } = first;
    const [from, to] = units > 0n ? [first.from, first.to] : [first.to, first.from];
    const made = [];
    for (let left = units < 0n ? -units : units; left > 0n;) {
      const part = left > MOST ? MOST : left;
      left -= part;
      made.push({ id: ids.pop()!, player, asset, units: Number(part), from, to, release });
    }
    return made;
  });
}

const MOST = BigInt(MAX_UNITS);

function prepareStatements({ raw }: Database) {
  const archived = 'month, file, sha256, rows, last_id AS lastId, until_ms AS untilMs';
  return {
    last: raw.prepare<[], Archived>(`SELECT ${archived} FROM archives ORDER BY month DESC LIMIT 1`),
    all: raw.prepare<[], Archived>(`SELECT ${archived} FROM archives ORDER BY month`),
    unopened: raw.prepare<[], Archived>(
      `SELECT ${archived} FROM archives WHERE opened_ms IS NULL ORDER BY month LIMIT 1`,
    ),
    firstAfter: raw.prepare<[number], Pick<MovementRecord, 'id' | 'atMs'>>(
      'SELECT id, at_ms AS atMs FROM movements WHERE id > ? ORDER BY id LIMIT 1',
    ),
    add: raw.prepare<[Archived & { madeMs: number }]>(
      `INSERT INTO archives (month, file, sha256, rows, last_id, until_ms, made_ms)
       VALUES (@month, @file, @sha256, @rows, @lastId, @untilMs, @madeMs)`,
    ),
    opened: raw.prepare<[openedMs: number, month: string]>('UPDATE archives SET opened_ms = ? WHERE month = ?'),
    ofPlayer: raw.prepare<[player: string, afterId: number, lastId: number, most: number], MovementRecord>(
      `SELECT ${MOVEMENT_COLUMNS} FROM movements WHERE player = ? AND id > ? AND id <= ? ORDER BY id LIMIT ?`,
    ),
    nextPlayer: raw.prepare<[string], { player: string }>(
      'SELECT player FROM movements WHERE player > ? ORDER BY player LIMIT 1',
    ),
    remove: raw.prepare<[number]>('DELETE FROM movements WHERE id = ?'),
    append: raw.prepare<[MovementRecord]>(
      `INSERT INTO movements (id, player, asset, units, from_account, to_account, cause, release, at_ms)
       VALUES (@id, @player, @asset, @units, @from, @to, @cause, @release, @atMs)`,
    ),
  };
}
