/** Recorded purchases as a game has them: a line of JSON or a row of CSV for each. What cannot be read is told by its line. */
import { parse } from 'csv-parse/sync';
import { unitsParse } from '../amount/index.js';
import type { Basket } from '../amount/index.js';
import { decimalsIn } from '../catalog/index.js';
import type { EconomyDocument } from '../document/index.js';
import type { Value } from '../formula/index.js';
import { instantRead } from '../schedule/index.js';
import { isRecord } from '../schema/index.js';
import { MAX_TIMES } from '../trade/index.js';

export interface Recorded {
  /** The line on which it stands, from 1. */
  line: number;
  player: string;
  atMs: number;
  offer: string;
  times: number;
  /** The way to pay, where it was one of several. */
  pay: string | undefined;
  /** What was paid, in smallest units; undefined where the log does not say. */
  paid: Basket | undefined;
  /** What the player's attributes were, as far as the log says. */
  attributes: Readonly<Record<string, Value>>;
}

export interface BrokenLine {
  line: number;
  problem: string;
}

export interface LogRead {
  purchases: Recorded[];
  broken: BrokenLine[];
  /** Lines that are of something else than a purchase. */
  others: number;
}

/** Longer texts are no log of purchases that fits into memory with what is worked out of it. */
export const MAX_LOG_LENGTH = 200_000_000;
const MAX_ROW = 100_000;

/**
 * Reads NDJSON (`{"player":"oda","at":"2027-03-01T10:00","offer":"storm_frame","paid":{"shells":1400},"attributes":{"level":3}}`)
 * or CSV (RFC 4180) with the columns `player`, `at`, `offer` and, where there are any, `times`, `pay`, `paid.CURRENCY` and
 * `attribute.NAME`. An instant without an offset is in the economy's time zone. Lines without an offer are of something
 * else. In the order of time; of one instant in that of the log. O(n log n).
 */
export function purchasesRead(text: string, document: EconomyDocument): LogRead {
  const read: LogRead = { purchases: [], broken: [], others: 0 };
  const rows = text.trimStart().startsWith('{') ? jsonRows(text, read.broken) : csvRows(text, read.broken);
  for (const { line, row } of rows) {
    if (row['offer'] === undefined || row['offer'] === '') {
      read.others++;
      continue;
    }
    const one = recorded(row, line, document);
    if (typeof one === 'string') read.broken.push({ line, problem: one });
    else read.purchases.push(one);
  }
  read.purchases.sort((a, b) => a.atMs - b.atMs || a.line - b.line);
  read.broken.sort((a, b) => a.line - b.line);
  return read;
}

interface Row {
  line: number;
  row: Record<string, unknown>;
}

function jsonRows(text: string, broken: BrokenLine[]): Row[] {
  return text.split(/\r?\n/).flatMap((written, index): Row[] => {
    if (written.trim() === '') return [];
    try {
      const row: unknown = JSON.parse(written);
      if (isRecord(row)) return [{ line: index + 1, row }];
    } catch {
      // Told below.
    }
    broken.push({ line: index + 1, problem: 'it is no JSON object' });
    return [];
  });
}

function csvRows(text: string, broken: BrokenLine[]): Row[] {
  try {
    const [head = [], ...rows] = parse(text, {
      bom: true,
      relax_column_count: true,
      skip_empty_lines: true,
      info: true,
      max_record_size: MAX_ROW,
    }) as unknown as { record: string[]; info: { lines: number } }[];
    const names = (head as { record: string[] }).record ?? [];
    for (const needed of ['player', 'at', 'offer'])
      if (!names.includes(needed)) {
        broken.push({ line: 1, problem: `there is no column "${needed}"; columns: ${names.join(', ')}` });
        return [];
      }
    return rows.map(({ record, info }) => ({ line: info.lines, row: rowOf(names, record) }));
  } catch (error) {
    broken.push({ line: 1, problem: `it is no CSV: ${(error as Error).message}` });
    return [];
  }
}

/** `paid.shells` and `attribute.level` become what they are parts of; an empty cell is absent. */
function rowOf(names: readonly string[], record: readonly string[]): Record<string, unknown> {
  const row: Record<string, unknown> = {};
  const [paid, attributes]: Record<string, unknown>[] = [{}, {}];
  names.forEach((name, column) => {
    const cell = record[column];
    if (cell === undefined || cell === '') return;
    if (name.startsWith('paid.')) paid![name.slice('paid.'.length)] = Number(cell);
    else if (name.startsWith('attribute.')) attributes![name.slice('attribute.'.length)] = valueOf(cell);
    else row[name] = name === 'times' ? Number(cell) : cell;
  });
  return {
    ...row,
    ...(Object.keys(paid!).length > 0 ? { paid } : {}),
    ...(Object.keys(attributes!).length > 0 ? { attributes } : {}),
  };
}

const valueOf = (cell: string): Value =>
  cell === 'true' || cell === 'false' ? cell === 'true' : /^-?\d+(\.\d+)?$/.test(cell) ? Number(cell) : cell;

/** The purchase, or what is wrong with it. */
function recorded(row: Readonly<Record<string, unknown>>, line: number, document: EconomyDocument): Recorded | string {
  const { player, at, offer, times = 1, pay, paid, attributes = {} } = row;
  if (typeof player !== 'string' || player === '') return 'there is no player';
  if (typeof offer !== 'string') return 'the offer is no text';
  const atMs =
    typeof at === 'number' ? at : typeof at === 'string' ? instantRead(document.timeZone, at)?.ms : undefined;
  if (atMs === undefined || !Number.isFinite(atMs)) return `"${String(at)}" is no instant, such as 2027-03-01T10:00`;
  if (!Number.isInteger(times) || (times as number) < 1 || (times as number) > MAX_TIMES)
    return `"${String(times)}" is no number of times from 1 to ${MAX_TIMES}`;
  if (pay !== undefined && typeof pay !== 'string') return 'the way to pay is no text';
  if (!isRecord(attributes)) return 'the attributes are no group of values';
  const basket = paid === undefined ? undefined : paidOf(paid, document);
  if (typeof basket === 'string') return basket;
  return {
    line,
    player,
    atMs,
    offer,
    times: times as number,
    pay,
    paid: basket,
    attributes: attributes as Record<string, Value>,
  };
}

function paidOf(paid: unknown, document: EconomyDocument): Basket | string {
  if (!isRecord(paid)) return 'what was paid is no group of amounts';
  const basket: Basket = {};
  for (const [asset, amount] of Object.entries(paid)) {
    const parsed = unitsParse(amount as number, decimalsIn(document, asset));
    if (!parsed.ok) return `paid, ${asset}: ${parsed.message}`;
    basket[asset] = parsed.units;
  }
  return basket;
}
