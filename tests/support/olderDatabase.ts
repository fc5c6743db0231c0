/** Databases as released versions left them: the demo with some people in it (script/keep-schema.mjs). */
import { readFileSync, readdirSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { brotliDecompressSync } from 'node:zlib';
import Sqlite from 'better-sqlite3';
import { packageRoot } from '../../src/service/index.js';

const FOLDER = join(packageRoot(), 'tests/support/schemas');

/** By how many migrations each had. */
export const SCHEMAS: readonly number[] = readdirSync(FOLDER)
  .map((name) => parseInt(name))
  .sort((a, b) => a - b);

/** Writes one to `path`. `padMb`: with so many MB in it that no version looks at. */
export function olderDatabase(schema: number, path: string, padMb = 0): void {
  const kept = readFileSync(join(FOLDER, `${String(schema).padStart(2, '0')}.sqlite.br`));
  writeFileSync(path, brotliDecompressSync(kept));
  if (padMb > 0) pad(path, padMb);
}

/** Makes a database large, without anything that a service reads. */
export function pad(path: string, megabytes: number): void {
  const raw = new Sqlite(path);
  raw.exec('CREATE TABLE IF NOT EXISTS padding (bytes BLOB) STRICT');
  const add = raw.prepare('INSERT INTO padding VALUES (zeroblob(1000000))');
  raw.transaction(() => {
    for (let n = 0; n < megabytes; n++) add.run();
  })();
  raw.pragma('wal_checkpoint(TRUNCATE)');
  raw.close();
}

/** Every row of every table, as text, but for what `pad` put there. */
export function rowsOf(path: string): Record<string, string[]> {
  const raw = new Sqlite(path, { readonly: true });
  const tables = raw
    .prepare(
      "SELECT name FROM sqlite_master WHERE type = 'table' AND name NOT LIKE 'sqlite_%' AND name <> 'padding' ORDER BY name",
    )
    .pluck()
    .all() as string[];
  const rows = Object.fromEntries(
    tables.map((table) => [
      table,
      raw
        .prepare(`SELECT * FROM "${table}"`)
        .raw()
        .all()
        .map((row) => JSON.stringify(row))
        .sort(),
    ]),
  );
  raw.close();
  return rows;
}
