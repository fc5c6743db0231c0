/**
 * Statements that are written with Drizzle and run by the driver itself. What Drizzle does at each run (it looks up every
 * value's kind anew) takes longer than SQLite does for a small row, and every purchase and event runs a dozen of them.
 */
import { Param, Placeholder, is } from 'drizzle-orm';
import type { Database } from './database.js';

type Values = Readonly<Record<string, unknown>>;

/** A value of a statement: always the same, or by the name of its placeholder. */
type Bound = { fixed: unknown } | { name: string };

function boundOf(param: unknown): Bound {
  if (is(param, Placeholder)) return { name: param.name };
  // Columns that are written this way hold what SQLite holds: nothing is to be encoded.
  if (is(param, Param) && is(param.value, Placeholder)) return { name: param.value.name };
  return { fixed: param };
}

/** `R`: a row of what it returns, under the names of its columns. */
export interface Direct<R> {
  run(values: Values): void;
  get(values: Values): R | undefined;
}

/** For plain columns (text, whole numbers) alone: booleans, JSON and the like want Drizzle's own encoding. */
export function direct<R = unknown>(
  { raw }: Database,
  query: { toSQL(): { sql: string; params: unknown[] } },
): Direct<R> {
  const { sql, params } = query.toSQL();
  const statement = raw.prepare<unknown[], R>(sql);
  const bound = params.map(boundOf);
  const fill = (values: Values): unknown[] => bound.map((one) => ('name' in one ? values[one.name] : one.fixed));
  return {
    run: (values) => void statement.run(...fill(values)),
    get: (values) => statement.get(...fill(values)),
  };
}
