/**
 * Items, offers, loot entries and currencies as CSV (RFC 4180) and back. Reading takes what spreadsheets write: a
 * byte-order mark, semicolons or tabs, quoted newlines, decimal commas. Writing keeps a spreadsheet from running a
 * text as a formula: such a text gets an apostrophe in front, which reading takes off again.
 */
import { csvText, unguard } from '../csv/index.js';
import { isId } from '../schema/index.js';
import { economyJsonSchema, valueAt } from '../document/index.js';
import type { EconomyDocument } from '../document/index.js';
import { MOST_PROBLEMS, countText, moreProblems, nearestName } from '../issue/index.js';
import { CELLS } from './cell.js';
import type { CellKind } from './cell.js';
import { cellNameOf, jsonNodeAt } from './schemaCell.js';
import type { JsonNode } from './schemaCell.js';
import { SHEETS, columnAt, columnPath } from './sheet.js';
import type { Sheet, SheetName } from './sheet.js';
import { MAX_CSV_ROWS, hasDecimalComma, tableRead } from './table.js';
import type { TableRow } from './table.js';

const SCHEMA = economyJsonSchema() as JsonNode;

/** How a field of a sheet's rows is written, as the schema says. */
const cellOf = (sheet: Sheet, field: string): CellKind =>
  CELLS[cellNameOf(jsonNodeAt(SCHEMA, columnPath(sheet, field)))];

/** The sheet as CSV with a header row; lines end in CR LF. */
export function csvWrite(document: EconomyDocument, name: SheetName): string {
  const sheet = SHEETS[name];
  const rows = sheet
    .rows(document)
    .map(({ keys, value }) => [
      ...keys,
      ...sheet.columns.map(({ field }) => cellOf(sheet, field).write(valueAt(value, columnAt(sheet, field)))),
    ]);
  const head = [...sheet.keys, ...sheet.columns.map(({ field }) => field)];
  return csvText([head, ...rows]);
}

export interface CsvProblem {
  /** Counted from 1, the header included. */
  line: number;
  column: string;
  message: string;
}
export type CsvRead = { ok: true; document: EconomyDocument; notes: string[] } | { ok: false; problems: CsvProblem[] };

const MAX_CSV_COLUMNS = 200;

/**
 * Brings rows into a document: rows are found by their keys and changed where columns stand, empty cells take the
 * field away, rows that are new are added, and what the CSV does not mention stays. All problems are told at once,
 * and with any of them nothing is taken.
 */
export function csvRead(document: EconomyDocument, name: SheetName, text: string): CsvRead {
  const sheet = SHEETS[name];
  const parsed = tableRead(text);
  if (!parsed.ok) return { ok: false, problems: [{ ...parsed.problem, column: '' }] };
  const { head, rows, delimiter } = parsed.table;
  const hasComma = delimiter === ';' && hasDecimalComma(parsed.table);
  const tooMany = (count: number, most: number, what: string): CsvProblem[] =>
    count > most ? [{ line: 1, column: '', message: `there are more than ${most} ${what}, which are the most` }] : [];
  const wrong = tooMany(head.length, MAX_CSV_COLUMNS, 'columns');
  if (wrong.length === 0) wrong.push(...headProblems(sheet, head), ...tooMany(rows.length, MAX_CSV_ROWS, 'rows'));
  if (wrong.length > 0) return { ok: false, problems: wrong };
  const read = rowsRead(document, sheet, head, rows, hasComma);
  if (!read.ok) return read;
  const points =
    delimiter === ';' && !hasComma ? ['Cells are parted by semicolons, and numbers have decimal points'] : [];
  return { ...read, notes: [...read.notes, ...points] };
}

function headProblems(sheet: Sheet, head: readonly string[]): CsvProblem[] {
  const known = [...sheet.keys, ...sheet.columns.map(({ field }) => field)];
  const problems = head
    .filter((field) => !known.includes(field))
    .map((field) => {
      const near = nearestName(field, known);
      return {
        line: 1,
        column: field,
        message: `there is no column "${field}" here${near ? `; did you mean "${near}"?` : `. Columns: ${known.join(', ')}`}`,
      };
    });
  for (const key of sheet.keys.filter((one) => !head.includes(one)))
    problems.push({ line: 1, column: key, message: `the column "${key}" is missing: it says which row is meant` });
  for (const twice of head.filter((field, index) => head.indexOf(field) !== index))
    problems.push({ line: 1, column: twice, message: `the column "${twice}" stands twice` });
  return problems;
}

function rowsRead(
  document: EconomyDocument,
  sheet: Sheet,
  head: readonly string[],
  records: readonly TableRow[],
  decimalComma: boolean,
): CsvRead {
  const problems: CsvProblem[] = [];
  const result = structuredClone(document);
  const seen = new Map<string, number>();
  let added = 0;
  for (const { record, line } of records) {
    const say = (column: string, message: string) => problems.push({ line, column, message });
    if (record.length > head.length) say('', `it has ${record.length} cells and the header has ${head.length}`);
    const keys = sheet.keys.map((key) => (record[head.indexOf(key)] ?? '').trim());
    const bad = sheet.keys.filter((_, index) => !isId(keys[index]!));
    for (const key of bad)
      say(key, `"${keys[sheet.keys.indexOf(key)]}" is not an id: a small letter, then small letters, digits or _`);
    if (bad.length > 0) continue;
    const path = sheet.path(keys);
    const before = seen.get(path.join('/'));
    if (before !== undefined) say(sheet.keys.at(-1)!, `"${keys.join(' / ')}" already stands in line ${before}`);
    seen.set(path.join('/'), line);
    const parent = valueAt(sheet.keys.length === 1 ? withSection(result, path[0]!) : result, path.slice(0, -1));
    if (typeof parent !== 'object' || parent === null) {
      say(
        sheet.keys[0]!,
        `there is no ${sheet.keys.slice(0, -1).join(' and ')} "${keys.slice(0, -1).join(' / ')}" to add it to`,
      );
      continue;
    }
    const rows = parent as Record<string, Record<string, unknown>>;
    const id = path.at(-1)!;
    if (!Object.hasOwn(rows, id)) added++;
    else if (sheet.only?.holds(rows[id]!) === false) {
      say(
        sheet.keys.at(-1)!,
        `"${id}" has more than a row can say (${sheet.only.words}): change it elsewhere, or give this row another id`,
      );
      continue;
    }
    rows[id] = rowRead(sheet, head, record, Object.hasOwn(rows, id) ? rows[id]! : {}, decimalComma, say);
  }
  return problems.length > 0
    ? { ok: false, problems: problemsTold(problems) }
    : { ok: true, document: result, notes: [`${countText(records.length, 'row')} read, ${added} of them new`] };
}

/** The first problems, and how many more there are. */
function problemsTold(problems: CsvProblem[]): CsvProblem[] {
  const more = problems.slice(MOST_PROBLEMS);
  if (more.length === 0) return problems;
  const { message } = moreProblems('', `${more.length} more ${more.length === 1 ? 'problem' : 'problems'}`);
  return [...problems.slice(0, MOST_PROBLEMS), { line: more[0]!.line, column: '', message }];
}

function withSection(document: EconomyDocument, section: string): EconomyDocument {
  (document as Record<string, unknown>)[section] ??= {};
  return document;
}

/** Puts a value at a path, with the groups and lists on the way; takes it away where it is undefined, with what is empty then. */
function put(holder: object, [key, ...path]: readonly string[], value: unknown): void {
  const group = holder as Record<string, unknown>;
  if (path.length === 0) {
    if (value === undefined) Reflect.deleteProperty(group, key!);
    else group[key!] = value;
    return;
  }
  if (group[key!] === undefined && value === undefined) return;
  const inner = (group[key!] ??= /^\d+$/.test(path[0]!) ? [] : {}) as object;
  put(inner, path, value);
  if (Object.keys(inner).length === 0) Reflect.deleteProperty(group, key!);
}

function rowRead(
  sheet: Sheet,
  head: readonly string[],
  record: readonly string[],
  before: Record<string, unknown>,
  decimalComma: boolean,
  say: (column: string, message: string) => void,
): Record<string, unknown> {
  const row = structuredClone(before);
  for (const { field, needed } of sheet.columns) {
    const index = head.indexOf(field);
    if (index < 0) continue;
    const read = cellOf(sheet, field).read(unguard(record[index] ?? ''), decimalComma);
    if (!read.ok) say(field, read.problem);
    else if (read.value === undefined && needed) say(field, `${field} cannot be empty`);
    else put(row, columnAt(sheet, field), read.value);
  }
  return row;
}
