/** Removes what was kept long enough, the oldest first and never more than a few rows at once. */
import { DAY_MS } from '../../core/schedule/index.js';
import type { Aged } from '../retention/policy.js';
import type { Database } from './database.js';
import type { DraftStore } from './draftStore.js';
import { HANDLED_KINDS } from './handledStore.js';
import type { ReleaseStore } from './releaseStore.js';

/** States of the draft that stay however old they are. */
const REVISIONS_LEFT = 100;

/** How long the periods of sums are at most, by the last word of a sum: those of a life never end. */
const PERIOD_DAYS: Readonly<Record<string, number>> = { day: 1, week: 7, month: 31 };
/** Of rows that may be long no more go at once. */
const LONG_ROWS = 10;

/** Removes up to `most` rows from before `beforeMs` (epoch ms), and says how many. */
type Remove = (beforeMs: number, most: number) => number;

export class RetentionStore {
  private readonly removers: Record<Aged, Remove>;
  private readonly statements: ReturnType<typeof prepareStatements>;

  constructor(
    database: Database,
    /** What is known of pictures is read again. */
    private readonly picturesChanged: () => void,
  ) {
    const statements = (this.statements = prepareStatements(database));
    const oldest =
      (statement: { run(beforeMs: number, most: number): { changes: number } }): Remove =>
      (beforeMs, most) =>
        statement.run(most, beforeMs).changes;
    this.removers = {
      answers: (beforeMs, most) => {
        for (const kind of HANDLED_KINDS) {
          const { changes } = statements.answers.run({ kind, beforeMs, most });
          if (changes > 0) return changes;
        }
        return statements.teamAnswers.run(most, beforeMs).changes;
      },
      sums: (beforeMs, most) => {
        for (const sum of statements.sums.all()) {
          const days = PERIOD_DAYS[sum.split(' ').at(-1)!];
          const changes = days === undefined ? 0 : statements.sum.run(sum, beforeMs - days * DAY_MS, most).changes;
          if (changes > 0) return changes;
        }
        return 0;
      },
      trail: oldest(statements.trail),
      runs: (beforeMs, most) => statements.runs.run(Math.min(most, LONG_ROWS), beforeMs).changes,
      revisions: (beforeMs, most) => {
        const { first } = statements.firstKept.get(REVISIONS_LEFT, beforeMs)!;
        // What is kept must be readable: from a whole one on.
        return first === null ? 0 : statements.revisions.run(first, Math.min(most, LONG_ROWS)).changes;
      },
      pictures: (beforeMs, most) => {
        const { changes } = statements.pictures.run(beforeMs, Math.min(most, LONG_ROWS));
        if (changes > 0) this.picturesChanged();
        return changes;
      },
    };
  }

  /** Inside the writer only. Removes up to `most` of what is from before `beforeMs` (epoch ms); gives how many rows have gone. */
  remove(kind: Aged, beforeMs: number, most: number): number {
    return this.removers[kind](beforeMs, most);
  }

  /** Inside the writer only: what is kept of requests of a player is to go. */
  eraseBegin(player: string): void {
    this.statements.erasure.run(player);
  }

  /** Players of whom something is left that is to go. */
  erased(): string[] {
    return this.statements.erasures.all().map(({ player }) => player);
  }

  /**
   * Inside the writer only. Removes reasons of what was granted to a player, and what was asked and answered: of purchases
   * what moved stays. Gives how many rows of up to `most` it changed; once there are none, the player is done with.
   */
  erase(player: string, most: number): number {
    for (const statement of this.statements.erase) {
      const { changes } = statement.run({ player, most });
      if (changes > 0) return changes;
    }
    this.statements.erasureDone.run(player);
    return 0;
  }

  hasPictures(): boolean {
    return this.statements.hasPictures.get() !== undefined;
  }

  /** Inside the writer only. Notes from when on nothing names a picture; one that is named again begins anew. */
  markPictures(named: ReadonlySet<string>, nowMs: number): void {
    for (const { name, unnamedMs } of this.statements.marked.all()) {
      const isNamed = named.has(name);
      if (isNamed !== (unnamedMs === null)) this.statements.mark.run(isNamed ? null : nowMs, name);
    }
  }
}

/** Begins the key of a purchase whose key is gone: none of a request does. */
const KEYLESS = '\u232b';

/** The files of pictures that a document names, wherever it does. */
const PICTURE_FILE = /"pictures\/([^"]+)"/g;

/** The names of all pictures in the draft and in every release. */
export function picturesNamed(draft: DraftStore, releases: ReleaseStore): Set<string> {
  const named = new Set<string>();
  const read = (text: string): void => {
    for (const [, name] of text.matchAll(PICTURE_FILE)) named.add(name!);
  };
  read(draft.latest()?.document ?? '');
  for (const text of releases.texts()) read(text);
  return named;
}

function prepareStatements({ raw }: Database) {
  /** The `most` oldest rows, of which those go that are from before: two bounds, so that never more are looked at. */
  const oldest = (table: string, key: string, atMs: string) =>
    raw.prepare<[most: number, beforeMs: number]>(
      `DELETE FROM ${table} WHERE ${key} IN (SELECT ${key} FROM ${table} ORDER BY ${key} LIMIT ?) AND ${atMs} < ?`,
    );
  return {
    // The last of a kind stays: the next number comes after it.
    answers: raw.prepare<[{ kind: string; beforeMs: number; most: number }]>(
      `DELETE FROM handled WHERE kind = @kind
         AND number IN (SELECT number FROM handled WHERE kind = @kind ORDER BY number LIMIT @most)
         AND at_ms < @beforeMs AND number < (SELECT max(number) FROM handled WHERE kind = @kind)`,
    ),
    teamAnswers: oldest('team_handled', 'number', 'at_ms'),
    trail: oldest('trail', 'id', 'at_ms'),
    runs: raw.prepare<[most: number, beforeMs: number]>(
      `DELETE FROM runs WHERE id IN (SELECT id FROM runs ORDER BY id LIMIT ?)
         AND created_ms < ? AND status NOT IN ('waiting', 'running')`,
    ),
    // From one to the next by the index, without looking at what is between.
    sums: raw
      .prepare<[], string>(
        `WITH RECURSIVE each(sum) AS (
           SELECT min(sum) FROM earnings
           UNION ALL SELECT (SELECT min(sum) FROM earnings WHERE sum > each.sum) FROM each WHERE each.sum IS NOT NULL)
         SELECT sum FROM each WHERE sum IS NOT NULL`,
      )
      .pluck() as unknown as { all(): string[] },
    sum: raw.prepare<[sum: string, beforeMs: number, most: number]>(
      `DELETE FROM earnings WHERE rowid IN (SELECT rowid FROM earnings WHERE sum = ? AND start_ms < ? LIMIT ?)`,
    ),
    firstKept: raw.prepare<[left: number, beforeMs: number], { first: number | null }>(
      `SELECT max(revision) AS first FROM draft_revisions WHERE splice_at IS NULL AND revision <= (
         SELECT max(revision) + 1 FROM draft_revisions
         WHERE revision <= (SELECT max(revision) FROM draft_revisions) - ? AND saved_ms < ?)`,
    ),
    revisions: raw.prepare<[first: number, most: number]>(
      'DELETE FROM draft_revisions WHERE revision IN (SELECT revision FROM draft_revisions WHERE revision < ? ORDER BY revision LIMIT ?)',
    ),
    erasure: raw.prepare<[player: string]>('INSERT OR IGNORE INTO erasures (player) VALUES (?)'),
    erasures: raw.prepare<[], { player: string }>('SELECT player FROM erasures ORDER BY player'),
    erasureDone: raw.prepare<[player: string]>('DELETE FROM erasures WHERE player = ?'),
    erase: [
      `UPDATE trail SET why = '' WHERE id IN (
         SELECT id FROM trail WHERE action = 'player.grant' AND subject = @player AND why <> '' LIMIT @most)`,
      // The last of a kind stays as a row: the next number comes after it.
      `DELETE FROM handled WHERE rowid IN (
         SELECT rowid FROM handled AS one WHERE player = @player AND kind <> 'purchase'
           AND number < (SELECT max(number) FROM handled WHERE kind = one.kind) LIMIT @most)`,
      `UPDATE handled SET key = '${KEYLESS}' || number, request = '[]', answer = '{}' WHERE rowid IN (
         SELECT rowid FROM handled WHERE player = @player AND kind <> 'purchase' AND request <> '[]' LIMIT @most)`,
      // What was bought, and what its price was worked out from, stays: purchases are replayed by it.
      `UPDATE handled SET key = '${KEYLESS}' || number WHERE rowid IN (
         SELECT rowid FROM handled WHERE player = @player AND kind = 'purchase' AND key < '${KEYLESS}' LIMIT @most)`,
    ].map((statement) => raw.prepare<[{ player: string; most: number }]>(statement)),
    hasPictures: raw.prepare('SELECT 1 FROM pictures LIMIT 1'),
    marked: raw.prepare<[], { name: string; unnamedMs: number | null }>(
      'SELECT name, unnamed_ms AS unnamedMs FROM pictures',
    ),
    mark: raw.prepare<[unnamedMs: number | null, name: string]>('UPDATE pictures SET unnamed_ms = ? WHERE name = ?'),
    pictures: raw.prepare<[beforeMs: number, most: number]>(
      'DELETE FROM pictures WHERE name IN (SELECT name FROM pictures WHERE unnamed_ms < ? LIMIT ?)',
    ),
  };
}
