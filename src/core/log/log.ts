/** What a game recorded, events and purchases: a line of JSON or a row of CSV for each. What cannot be read is told by its line. */
import { parse } from 'csv-parse/sync';
import { unitsParse } from '../amount/index.js';
import type { Basket } from '../amount/index.js';
import { decimalsIn } from '../catalog/index.js';
import type { EconomyDocument } from '../document/index.js';
import type { Value, ValueType } from '../formula/index.js';
import { instantRead } from '../schedule/index.js';
import { isRecord } from '../schema/index.js';
import { MAX_TIMES } from '../trade/index.js';

interface Logged {
  /** The line on which it stands, from 1. */
  line: number;
  player: string;
  atMs: number;
  /** What the game calls the session, where it says so. */
  session: string | undefined;
  /** What the player's attributes were, as far as the log says. */
  attributes: Readonly<Record<string, Value>>;
}

/** Something that a player did. */
export interface Happened extends Logged {
  event: string;
  fields: Readonly<Record<string, Value>>;
}

/** How things stood at a purchase. */
export interface Known {
  /** Of everything that it touched, in smallest units and pieces. */
  before: Readonly<Record<string, number>>;
  after: Readonly<Record<string, number>>;
  /** What formulas of the offer read, by name: `level`, `owned(wax)`. */
  reads: Readonly<Record<string, Value>>;
  /** What was left in stock; null where it never runs out. */
  left: number | null;
  /** It was on show since somebody had pinned it. */
  pinned: boolean;
}

/** A purchase. */
export interface Recorded extends Logged {
  offer: string;
  times: number;
  /** The way to pay, where it was one of several. */
  pay: string | undefined;
  /** What was paid, in smallest units; undefined where the log does not say. */
  paid: Basket | undefined;
  /** How things stood, where that was kept. */
  known?: Known;
}

export interface BrokenLine {
  line: number;
  problem: string;
}

export interface PurchasesRead {
  purchases: Recorded[];
  broken: BrokenLine[];
  /** Lines that are of something else than a purchase. */
  others: number;
}

export interface LogRead extends PurchasesRead {
  /** Events of kinds that the economy has. */
  events: Happened[];
  /** How many there are of other kinds. */
  unknown: Record<string, number>;
}

/** Longer texts are no log that fits into memory with what is worked out of it. */
export const MAX_LOG_LENGTH = 200_000_000;
const MAX_ROW = 100_000;

/**
 * The purchases of a log: NDJSON
 * (`{"player":"oda","at":"2027-03-01T10:00","offer":"storm_frame","paid":{"shells":1400},"attributes":{"level":3}}`)
 * or CSV (RFC 4180) with the columns `player`, `at`, `offer` and, where there are any, `times`, `pay`, `paid.CURRENCY`,
 * `attribute.NAME` and `session`. An instant without an offset is in the economy's time zone. Lines without an offer are
 * of something else; what one of them tells of a player's attributes stands for the lines after it. In the order of time; of one instant in that of the log. O(n log n).
 */
export function purchasesRead(text: string, document: EconomyDocument): PurchasesRead {
  const read: PurchasesRead = { purchases: [], broken: [], others: 0 };
  const { rows, broken } = rowsOf(text, ['offer']);
  read.broken.push(...broken);
  const told = new Map<unknown, Record<string, Value>>();
  for (const one of rows) {
    const { player, attributes, offer } = one.row;
    if (isRecord(attributes)) told.set(player, { ...told.get(player), ...(attributes as Record<string, Value>) });
    if (isSaid(offer)) keep(recorded(one, document), one.line, read.purchases, read.broken);
    else read.others++;
    const last = read.purchases.at(-1);
    if (last?.line === one.line) last.attributes = told.get(player) ?? {};
  }
  read.purchases.sort(byTime);
  read.broken.sort((a, b) => a.line - b.line);
  return read;
}

/**
 * Events as well: `{"player":"oda","at":"2027-03-01T10:00","event":"race_finished","fields":{"place":1,"difficulty":2}}`,
 * or the columns `event` and `field.NAME`. Fields must be of the kinds that the economy says.
 */
export function logRead(text: string, document: EconomyDocument): LogRead {
  const read: LogRead = { purchases: [], events: [], broken: [], others: 0, unknown: {} };
  const { rows, broken } = rowsOf(text, ['event', 'offer']);
  read.broken.push(...broken);
  for (const one of rows) {
    const { event, offer } = one.row;
    if (isSaid(event) && isSaid(offer))
      read.broken.push({ line: one.line, problem: 'it is of an event and of an offer; write a line for each' });
    else if (isSaid(offer)) keep(recorded(one, document), one.line, read.purchases, read.broken);
    else if (!isSaid(event)) read.others++;
    else if (!Object.hasOwn(document.events ?? {}, String(event)))
      read.unknown[String(event)] = (read.unknown[String(event)] ?? 0) + 1;
    else keep(happened(one, document), one.line, read.events, read.broken);
  }
  read.purchases.sort(byTime);
  read.events.sort(byTime);
  read.broken.sort((a, b) => a.line - b.line);
  return read;
}

const isSaid = (cell: unknown): boolean => cell !== undefined && cell !== '';
const byTime = (a: Logged, b: Logged): number => a.atMs - b.atMs || a.line - b.line;

function keep<T extends Logged>(one: T | string, line: number, into: T[], broken: BrokenLine[]): void {
  if (typeof one === 'string') broken.push({ line, problem: one });
  else into.push(one);
}

interface Row {
  line: number;
  row: Record<string, unknown>;
}

/** The rows of either form. A table needs one of the columns `either` beside player and instant. */
function rowsOf(text: string, either: readonly string[]): { rows: Row[]; broken: BrokenLine[] } {
  const broken: BrokenLine[] = [];
  const rows = text.trimStart().startsWith('{') ? jsonRows(text, broken) : csvRows(text, either, broken);
  return { rows, broken };
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

function csvRows(text: string, either: readonly string[], broken: BrokenLine[]): Row[] {
  try {
    const [head = [], ...rows] = parse(text, {
      bom: true,
      relax_column_count: true,
      skip_empty_lines: true,
      info: true,
      max_record_size: MAX_ROW,
    }) as unknown as { record: string[]; info: { lines: number } }[];
    const names = (head as { record: string[] }).record ?? [];
    for (const needed of [['player'], ['at'], either])
      if (!needed.some((name) => names.includes(name))) {
        const wanted = needed.map((name) => `"${name}"`).join(' or ');
        broken.push({ line: 1, problem: `there is no column ${wanted}; columns: ${names.join(', ')}` });
        return [];
      }
    return rows.map(({ record, info }) => ({ line: info.lines, row: rowOf(names, record) }));
  } catch (error) {
    broken.push({ line: 1, problem: `it is no CSV: ${(error as Error).message}` });
    return [];
  }
}

/** What a column's name begins with, and the group of which its value is a part. */
const PARTS: readonly { prefix: string; group: string; value: (cell: string) => Value }[] = [
  { prefix: 'paid.', group: 'paid', value: Number },
  { prefix: 'attribute.', group: 'attributes', value: (cell) => valueOf(cell) },
  { prefix: 'field.', group: 'fields', value: (cell) => valueOf(cell) },
];

/** `paid.shells` and `attribute.level` become what they are parts of; an empty cell is absent. */
function rowOf(names: readonly string[], record: readonly string[]): Record<string, unknown> {
  const row: Record<string, unknown> = {};
  names.forEach((name, column) => {
    const cell = record[column];
    if (cell === undefined || cell === '') return;
    const part = PARTS.find(({ prefix }) => name.startsWith(prefix));
    if (!part) {
      row[name] = name === 'times' ? Number(cell) : cell;
      return;
    }
    const group = (row[part.group] ??= {}) as Record<string, Value>;
    group[name.slice(part.prefix.length)] = part.value(cell);
  });
  return row;
}

const valueOf = (cell: string): Value =>
  cell === 'true' || cell === 'false' ? cell === 'true' : /^-?\d+(\.\d+)?$/.test(cell) ? Number(cell) : cell;

/** What every line says, or what is wrong with it. */
function logged({ line, row }: Row, document: EconomyDocument): Logged | string {
  const { player, at, session, attributes = {} } = row;
  if (typeof player !== 'string' || player === '') return 'there is no player';
  const atMs =
    typeof at === 'number' ? at : typeof at === 'string' ? instantRead(document.timeZone, at)?.ms : undefined;
  if (atMs === undefined || !Number.isFinite(atMs)) return `"${String(at)}" is no instant, such as 2027-03-01T10:00`;
  if (!isRecord(attributes)) return 'the attributes are no group of values';
  if (session !== undefined && typeof session !== 'string' && typeof session !== 'number')
    return 'the session is neither text nor number';
  return {
    line,
    player,
    atMs,
    session: session === undefined ? undefined : String(session),
    attributes: attributes as Record<string, Value>,
  };
}

/** The purchase, or what is wrong with it. */
function recorded(written: Row, document: EconomyDocument): Recorded | string {
  const base = logged(written, document);
  if (typeof base === 'string') return base;
  const { offer, times = 1, pay, paid } = written.row;
  if (typeof offer !== 'string') return 'the offer is no text';
  if (!Number.isInteger(times) || (times as number) < 1 || (times as number) > MAX_TIMES)
    return `"${String(times)}" is no number of times from 1 to ${MAX_TIMES}`;
  if (pay !== undefined && typeof pay !== 'string') return 'the way to pay is no text';
  const basket = paid === undefined ? undefined : paidOf(paid, document);
  if (typeof basket === 'string') return basket;
  return { ...base, offer, times: times as number, pay, paid: basket };
}

/** The event with those of its fields that the economy knows, or what is wrong with it. */
function happened(written: Row, document: EconomyDocument): Happened | string {
  const base = logged(written, document);
  if (typeof base === 'string') return base;
  const event = written.row['event'] as string;
  const told = written.row['fields'] ?? {};
  if (!isRecord(told)) return 'the fields are no group of values';
  const fields: Record<string, Value> = {};
  for (const [field, type] of Object.entries(document.events![event]!.fields ?? {})) {
    const value = told[field];
    if (value === undefined) return `${event}: there is no field "${field}"`;
    if (typeof value !== TYPES[type] || (typeof value === 'number' && !Number.isFinite(value)))
      return `${event}, ${field}: ${JSON.stringify(value)} is no ${type}`;
    fields[field] = value as Value;
  }
  return { ...base, event, fields };
}
const TYPES: Readonly<Record<ValueType, string>> = { number: 'number', text: 'string', truth: 'boolean' };

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
