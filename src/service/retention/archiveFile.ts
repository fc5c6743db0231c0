/** Files of movements: CSV (RFC 4180) under gzip, one for each month of UTC. */
import { createHash } from 'node:crypto';
import { closeSync, createReadStream, createWriteStream, existsSync, fsyncSync, openSync, renameSync } from 'node:fs';
import { join } from 'node:path';
import { Readable, Transform } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import { createGunzip, createGzip } from 'node:zlib';
import { parse } from 'csv-parse';
import { csvText, unguard } from '../../core/csv/index.js';
import type { Account } from '../../core/ledger/index.js';
import { ArchiveStore, MOVEMENT_COLUMNS } from '../store/archiveStore.js';
import type { Archived, MovementRecord } from '../store/archiveStore.js';
import type { MonthAsked } from './archive.js';
import type { Database } from '../store/database.js';
import { archiveFaults } from '../store/integrity.js';

const HEAD = ['id', 'at', 'player', 'asset', 'units', 'from', 'to', 'cause', 'release'];
const LINES = 1000;

/** What sums are made of. */
type ArchiveRow = Pick<MovementRecord, 'asset' | 'units' | 'from' | 'to'>;

/**
 * Writes the movements after `afterId` that were made before `untilMs` to a file of `folder`, and puts it in place once
 * it is on disk. Undefined where there are none.
 */
export async function archiveWrite(
  { raw }: Pick<Database, 'raw'>,
  folder: string,
  { file, month, afterId, untilMs }: MonthAsked,
): Promise<Archived | undefined> {
  const partial = join(folder, `${file}.partial`);
  const hash = createHash('sha256');
  let rows = 0;
  let lastId = afterId;
  function* texts(): Generator<string> {
    yield csvText([HEAD]);
    const movements = raw
      .prepare<[number], MovementRecord>(`SELECT ${MOVEMENT_COLUMNS} FROM movements WHERE id > ? ORDER BY id`)
      .iterate(afterId);
    let lines: (string | number)[][] = [];
    for (const { id, player, asset, units, from, to, cause, release, atMs } of movements) {
      if (atMs >= untilMs) break;
      lines.push([id, new Date(atMs).toISOString(), player, asset, units, from, to, cause, release]);
      lastId = id;
      if (++rows % LINES === 0) {
        yield csvText(lines);
        lines = [];
      }
    }
    if (lines.length > 0) yield csvText(lines);
  }
  const hashed = new Transform({
    transform(chunk: Buffer, _encoding, done) {
      hash.update(chunk);
      done(null, chunk);
    },
  });
  await pipeline(Readable.from(texts()), createGzip(), hashed, createWriteStream(partial, { mode: 0o600 }));
  if (rows === 0) return undefined;
  toDisk(partial);
  const sha256 = hash.digest('hex');
  const placed = await freeName(folder, file, sha256);
  renameSync(partial, join(folder, placed));
  toDisk(folder);
  return { month, file: placed, sha256, rows, lastId, untilMs };
}

function toDisk(path: string): void {
  const open = openSync(path, 'r');
  fsyncSync(open);
  closeSync(open);
}

/** Its own name, unless a file of other movements has it: that belongs to a database that was replaced by a backup. */
async function freeName(folder: string, file: string, sha256: string): Promise<string> {
  for (let number = 1; ; number++) {
    const name = number === 1 ? file : file.replace(/\.csv\.gz$/, `-${number}.csv.gz`);
    const path = join(folder, name);
    if (!existsSync(path) || (await archiveHash(path)) === sha256) return name;
  }
}

/** The hash of a file, as it is now. Throws what reading throws. */
async function archiveHash(path: string): Promise<string> {
  const hash = createHash('sha256');
  await pipeline(createReadStream(path), hash);
  return hash.digest('hex');
}

/** What a file says moved, row by row. Throws what reading throws, and where it is no such file. */
export async function* archiveRows(
  path: string,
): AsyncGenerator<Pick<MovementRecord, 'asset' | 'units' | 'from' | 'to'>> {
  const rows = createReadStream(path)
    .pipe(createGunzip())
    .pipe(parse({ columns: true }));
  for await (const row of rows as AsyncIterable<Record<keyof ArchiveRow, string>>)
    yield {
      asset: unguard(row.asset),
      units: Number(row.units),
      from: unguard(row.from) as Account,
      to: unguard(row.to) as Account,
    };
}

/**
 * Whether the files of the archive are those that were written, and say the same as the opening balances. Gives what is
 * wrong, as sentences.
 */
export async function archiveCheck(
  database: Database,
  folder: string,
  tell: (what: string) => void,
): Promise<string[]> {
  const all = new ArchiveStore(database).all();
  const faults: string[] = [];
  for (const { file, sha256 } of all) {
    tell(`bytes of ${file}`);
    const path = join(folder, file);
    if (!existsSync(path)) faults.push(`${path} is not there`);
    else if ((await archiveHash(path)) !== sha256) faults.push(`${path} is not the file that was written`);
  }
  // What is not whole says nothing of the sums.
  if (faults.length > 0 || all.length === 0) return faults;
  async function* rows(): AsyncGenerator<ArchiveRow> {
    for (const { file } of all) {
      tell(`movements of ${file}`);
      yield* archiveRows(join(folder, file));
    }
  }
  return archiveFaults(database, rows());
}
