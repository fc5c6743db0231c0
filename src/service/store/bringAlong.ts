/**
 * What a later version makes of records that an earlier one wrote, where SQL alone cannot say it. Each step runs once,
 * after the migrations and in one transaction; how many have run is the database's `user_version`.
 */
import { gzipSync } from 'node:zlib';
import type Sqlite from 'better-sqlite3';
import { documentRenamed } from '../../core/document/index.js';
import type { EconomyDocument } from '../../core/document/index.js';
import { documentShelfRules } from '../../core/economy/index.js';
import { beatStart } from '../../core/schedule/index.js';
import { keptAsChange, spliceBetween } from './splice.js';

const STEPS: readonly ((raw: Sqlite.Database) => void)[] = [
  periodsHaveTimes,
  fieldsRenamed,
  dissolvedTeamsGone,
  revisionsAreChanges,
  releasesArePacked,
];

const stepsDone = (raw: Sqlite.Database): number => raw.pragma('user_version', { simple: true }) as number;

export const stepsPending = (raw: Sqlite.Database): number => Math.max(0, STEPS.length - stepsDone(raw));

/** Throws what SQLite throws, and then nothing is changed. */
export function bringAlong(raw: Sqlite.Database): void {
  const done = stepsDone(raw);
  if (done >= STEPS.length) return;
  raw.transaction(() => {
    for (const step of STEPS.slice(done)) step(raw);
    raw.pragma(`user_version = ${STEPS.length}`);
  })();
}

/** Pins had the number of their period only, by the beat of what was live when they were made. */
function periodsHaveTimes(raw: Sqlite.Database): void {
  const rows = raw
    .prepare(
      `SELECT id, shelf, period, (
         SELECT document FROM releases WHERE number = (
           SELECT release FROM channel_moves WHERE channel = 'live' AND at_ms <= rotation_records.made_ms ORDER BY at_ms DESC, id DESC LIMIT 1)
       ) AS document
       FROM rotation_records`,
    )
    .all() as { id: number; shelf: string; period: number; document: string | null }[];
  const fill = raw.prepare('UPDATE rotation_records SET start_ms = ?, end_ms = ? WHERE id = ?');
  for (const { id, shelf, period, document } of rows) {
    const rule = document && documentShelfRules(JSON.parse(document) as EconomyDocument).get(shelf);
    if (!rule || rule.kind === 'all') continue;
    const { beat } = rule.rotation;
    fill.run(beatStart(beat, period), beatStart(beat, period + 1), id);
  }
}

/** Drafts and releases are read as they were written, so fields that were renamed get their names of today. */
function fieldsRenamed(raw: Sqlite.Database): void {
  for (const [table, key] of [
    ['draft_revisions', 'revision'],
    ['releases', 'number'],
  ] as const) {
    const write = raw.prepare(`UPDATE ${table} SET document = ? WHERE ${key} = ?`);
    const keys = raw.prepare(`SELECT ${key} FROM ${table}`).pluck().all() as number[];
    const read = raw.prepare(`SELECT document FROM ${table} WHERE ${key} = ?`).pluck();
    for (const one of keys) {
      const renamed = documentRenamed(JSON.parse(read.get(one) as string));
      if (renamed && renamed.renamings.length > 0) write.run(JSON.stringify(renamed.document), one);
    }
  }
}

/** What a team had earned together stayed when it was dissolved, and would have gone to the next team of its id. */
function dissolvedTeamsGone(raw: Sqlite.Database): void {
  raw.exec("DELETE FROM earnings WHERE sum LIKE 'team %' AND who NOT IN (SELECT id FROM teams)");
}

/** Every revision was kept whole. */
function revisionsAreChanges(raw: Sqlite.Database): void {
  const write = raw.prepare(
    'UPDATE draft_revisions SET document = ?, splice_at = ?, splice_removed = ? WHERE revision = ?',
  );
  const read = raw.prepare('SELECT document FROM draft_revisions WHERE revision = ?').pluck();
  const revisions = raw.prepare('SELECT revision FROM draft_revisions ORDER BY revision').pluck().all() as number[];
  let before: string | undefined;
  let changes = { count: 0, length: 0 };
  for (const revision of revisions) {
    const text = read.get(revision) as string;
    const splice = before === undefined ? undefined : spliceBetween(before, text);
    before = text;
    if (splice && keptAsChange(changes, splice, text.length)) {
      write.run(splice.inserted, splice.at, splice.removed, revision);
      changes = { count: changes.count + 1, length: changes.length + splice.inserted.length };
    } else changes = { count: 0, length: 0 };
  }
}

/** Releases were kept as text. */
function releasesArePacked(raw: Sqlite.Database): void {
  const write = raw.prepare("UPDATE releases SET document = '', document_gzip = ? WHERE number = ?");
  const read = raw.prepare('SELECT document FROM releases WHERE number = ?').pluck();
  for (const number of raw.prepare('SELECT number FROM releases').pluck().all() as number[])
    write.run(gzipSync(read.get(number) as string), number);
}
