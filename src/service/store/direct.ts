/**
 * Statements that are written with Drizzle and run by the driver itself. What Drizzle does at each run (it looks up every
 * value's kind anew) takes longer than SQLite does for a small row, and every purchase and event runs a dozen of them.
 */
import type { Statement } from 'better-sqlite3';
import { Param, Placeholder, is } from 'drizzle-orm';
import type { Database } from './database.js';

function placeholderOf(param: unknown): string {
  const value = is(param, Param) ? param.value : param;
  return is(value, Placeholder) ? value.name : `the value ${String(value)}`;
}

/**
 * The driver's statement for a query, for plain columns (text, whole numbers) alone: booleans, JSON and the like want
 * Drizzle's own encoding. `Values` are those of its placeholders, one after the other as SQLite counts them; `Row` is what it
 * returns. Throws where `names` are not the placeholders in that order, so that no value can land in the wrong column.
 */
export function direct<Values extends unknown[], Row = unknown>(
  { raw }: Database,
  names: readonly [...{ [K in keyof Values]: string }],
  query: { toSQL(): { sql: string; params: unknown[] } },
): Statement<Values, Row> {
  const { sql, params } = query.toSQL();
  const order = params.map(placeholderOf);
  if (order.join() !== names.join())
    throw new Error(`the values of "${sql}" are ${order.join(', ')}, in this order, and not ${names.join(', ')}`);
  return raw.prepare<Values, Row>(sql);
}
