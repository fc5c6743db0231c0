/**
 * A table as somebody has it: columns of any name, names where ids are asked, an amount alone where a price is asked,
 * decimal commas and grouped thousands. Once its columns are matched with those of a sheet, it becomes the sheet's CSV.
 */
import { parse } from 'csv-parse/sync';
import { stringify } from 'csv-stringify/sync';
import { guard } from '../csv/index.js';
import { KINDS, thingsIn } from '../document/kinds.js';
import { valueAt } from '../document/pointers.js';
import type { EconomyDocument } from '../document/index.js';
import { idFor, isId } from '../schema/ids.js';
import type { RefKind } from '../schema/index.js';
import { CELLS } from './cell.js';
import type { CellName } from './cell.js';
import { cellNameOf, jsonNodeAt } from './schemaCell.js';
import type { JsonNode } from './schemaCell.js';
import { columnAt, columnPath } from './sheet.js';
import type { Sheet } from './sheet.js';

/** One row, and the line on which it ends, counted from 1. */
export interface TableRow {
  record: string[];
  line: number;
}
export interface Table {
  head: string[];
  rows: TableRow[];
  delimiter: Delimiter;
}
const DELIMITERS = [',', ';', '\t'] as const;
export type Delimiter = (typeof DELIMITERS)[number];

export const MAX_CSV_ROWS = 50_000;
/** The longest row, in characters: what is longer is no row of a sheet. */
const MAX_CSV_ROW = 200_000;

/** The separator that stands most often in the first line, outside quotes. */
function delimiterOf(text: string): Delimiter {
  const line = text.replace(/"[^"]*"/g, '').split(/\r?\n/, 1)[0] ?? '';
  const counts = DELIMITERS.map((one) => ({ one, count: line.split(one).length }));
  return counts.sort((a, b) => b.count - a.count)[0]!.one;
}

/** The first line that is longer than a row may be: the parser itself would first cut it into its cells. */
function longLine(text: string): { line: number; message: string } | undefined {
  for (let line = 1, start = 0; start < text.length; line++) {
    const found = text.indexOf('\n', start);
    const end = found < 0 ? text.length : found;
    if (end - start > MAX_CSV_ROW)
      return { line, message: `it has ${end - start} characters; ${MAX_CSV_ROW} are the most that a row may have` };
    start = end + 1;
  }
  return undefined;
}

/** Rows parted by commas, semicolons or tabs, the first of them the head; one row more than may be, so that it shows. */
export function tableRead(
  text: string,
): { ok: true; table: Table } | { ok: false; problem: { line: number; message: string } } {
  const problem = longLine(text);
  if (problem) return { ok: false, problem };
  const delimiter = delimiterOf(text);
  try {
    const [first, ...rest] = parse(text, {
      bom: true,
      delimiter,
      info: true,
      relax_column_count: true,
      skip_empty_lines: true,
      max_record_size: MAX_CSV_ROW,
      to: MAX_CSV_ROWS + 2,
    }) as unknown as { record: string[]; info: { lines: number } }[];
    const head = (first?.record ?? []).map((one) => one.trim());
    return {
      ok: true,
      table: { head, rows: rest.map(({ record, info }) => ({ record, line: info.lines })), delimiter },
    };
  } catch (error) {
    const { lines, message } = error as { lines?: number; message: string };
    return { ok: false, problem: { line: lines ?? 1, message } };
  }
}

/** What a column of a table holds: a column of the sheet, the amount of one asset in it, or nothing that is wanted. */
export type Match =
  | { kind: 'column'; field: string }
  | { kind: 'amount'; field: string; asset: string }
  | { kind: 'none' };

/** Letters and digits alone: `Price (Shells)` and `price_shells` read alike. */
const bare = (words: string): string => words.toLowerCase().replace(/[^\p{L}\p{N}]+/gu, '');

const fieldNode = (schema: JsonNode, sheet: Sheet, field: string): JsonNode | undefined =>
  jsonNodeAt(schema, columnPath(sheet, field));

/** Columns that hold an amount of something: one asset of them may stand alone. */
export const amountFields = (schema: JsonNode, sheet: Sheet): string[] =>
  sheet.columns
    .map(({ field }) => field)
    .filter((field) => ['basket', 'price'].includes(cellNameOf(fieldNode(schema, sheet, field))));

/** What each column probably is, by its name: as the files call it, as people do, or a currency of the economy. */
export function matchesGuess(
  schema: JsonNode,
  sheet: Sheet,
  document: EconomyDocument,
  head: readonly string[],
): Match[] {
  const [amount] = amountFields(schema, sheet);
  const known = new Map<string, Match>();
  for (const [id, { name }] of Object.entries(document.currencies ?? {}))
    for (const words of [id, name])
      for (const around of ['', amount ?? '', 'price', 'cost'])
        if (amount !== undefined) {
          known.set(bare(`${words}${around}`), { kind: 'amount', field: amount, asset: id });
          known.set(bare(`${around}${words}`), { kind: 'amount', field: amount, asset: id });
          known.set(bare(`${around} in ${words}`), { kind: 'amount', field: amount, asset: id });
        }
  for (const { field, head: words } of sheet.columns)
    for (const one of [fieldNode(schema, sheet, field)?.title ?? field, words, field, ...(ALSO_CALLED[field] ?? [])])
      known.set(bare(one), { kind: 'column', field });
  // A single currency needs no name.
  const [only, ...others] = Object.keys(document.currencies ?? {});
  if (amount !== undefined && only !== undefined && others.length === 0)
    for (const one of ['price', 'cost', 'value', amount])
      known.set(bare(one), { kind: 'amount', field: amount, asset: only });
  const word = wordOf(sheet);
  if (sheet.columns.some(({ field }) => field === 'name')) known.set(word, { kind: 'column', field: 'name' });
  for (const key of sheet.keys) known.set(bare(key), { kind: 'column', field: key });
  const taken = new Set<string>();
  return head.map((one) => {
    const plain = bare(one);
    // "Item name" is the name, of items.
    const own = plain.startsWith(word)
      ? plain.slice(word.length)
      : plain.endsWith(word)
        ? plain.slice(0, -word.length)
        : '';
    const match = known.get(plain) ?? known.get(own) ?? { kind: 'none' };
    const name = JSON.stringify(match);
    if (match.kind === 'none' || taken.has(name)) return { kind: 'none' };
    taken.add(name);
    return match;
  });
}

/** What else people call a column. */
const ALSO_CALLED: Readonly<Record<string, readonly string[]>> = {
  name: ['title', 'label', 'product'],
  kind: ['type'],
  group: ['category', 'family'],
  description: ['desc', 'text', 'notes'],
  icon: ['emoji', 'picture'],
  gives: ['item', 'contents'],
  on: ['event'],
};

/** One of what a sheet lists: `item`, `currency`. */
const wordOf = ({ name }: Sheet): string => name.replace(/ies$/, 'y').replace(/s$/, '');

/** Numbers with a comma before at most two last digits, or before anything but three: nobody groups so. */
const COMMA_NUMBER = /^-?(?:\d{1,3}(?:[. \u00a0\u202f']\d{3})+|\d+),(?:\d{1,2}|\d{4,})$/;

/** The same with a point. */
const POINT_NUMBER = /^-?(?:\d{1,3}(?:[, \u00a0\u202f']\d{3})+|\d+)\.(?:\d{1,2}|\d{4,})$/;

/** Whether the table writes two and a half as 2,5: some number says so, or its cells are parted by semicolons and none says 2.5. */
export function hasDecimalComma({ rows, delimiter }: Table): boolean {
  // `2,50 pearls; 3 shells` has two numbers.
  const some = (number: RegExp): boolean =>
    rows.some(({ record }) => record.some((cell) => cell.split(/[;|]/).some((part) => number.test(leading(part)))));
  return some(COMMA_NUMBER) || (delimiter === ';' && !some(POINT_NUMBER));
}

/** Nobody writes longer ones, and what looks for them takes the square of their length. */
const LONGEST_AMOUNT = 80;

/** The number that a part of a cell begins with: alone, or before a single word. */
const leading = (part: string): string =>
  part.length > LONGEST_AMOUNT
    ? ''
    : (/^\s*(-?\d[\d.,\u00a0\u202f' ]*?)(?:\s+\p{L}[\p{L}\d_]*)?\s*$/u.exec(part)?.[1] ?? '');

/** A number without the signs that group its thousands; what is none stays as it is. */
function ungrouped(text: string, decimalComma: boolean): string {
  const grouped = decimalComma
    ? /^-?\d{1,3}(?:[. \u00a0\u202f']\d{3})+(?:,\d+)?$/
    : /^-?\d{1,3}(?:[, \u00a0\u202f']\d{3})+(?:\.\d+)?$/;
  const plain = text.trim();
  return grouped.test(plain) ? plain.replace(decimalComma ? /[. \u00a0\u202f']/g : /[, \u00a0\u202f']/g, '') : plain;
}

interface Asked {
  sheet: Sheet;
  schema: JsonNode;
  document: EconomyDocument;
  table: Table;
  matches: readonly Match[];
  decimalComma: boolean;
  /** What stands in a column that the table does not have: of rows that are new. */
  otherwise: Readonly<Record<string, string>>;
}

/** A table as rows of a sheet. */
export interface TableBrought {
  /** Its columns only, ids for names, amounts with what they are of. */
  csv: string;
  /** Numbers that are written otherwise than they are read: `1,200` as `1200`, each once. */
  read: { text: string; as: string }[];
  /** Names of things that are not there, each once. */
  unknown: { kind: string; text: string }[];
  /** Whether some cell has what people call a thing where the sheet has its id. */
  named: boolean;
  /** Columns that new rows need, and that no column is and nothing is said for. */
  lacks: string[];
}

export function tableToSheet(asked: Asked): TableBrought {
  const { sheet, schema, document, table, matches, decimalComma, otherwise } = asked;
  const used = new Set(matches.flatMap((match) => (match.kind === 'none' ? [] : [match.field])));
  const fields = [
    ...sheet.keys,
    ...sheet.columns.map(({ field }) => field).filter((field) => used.has(field) || otherwise[field] !== undefined),
  ];
  const own = sheet.keys.at(-1)!;
  const read = new Map<string, string>();
  const unknown = new Map<string, TableBrought['unknown'][number]>();
  let isNew = false;
  let named = false;
  const told: Told = {
    number: (text) => {
      const as = ungrouped(text, decimalComma);
      const plain = decimalComma ? as.replace(',', '.') : as;
      if (plain !== text.trim() && /^-?[\d.]+$/.test(plain)) read.set(text.trim(), plain);
      return as;
    },
    unknown: (kind, text) => unknown.set(`${kind} ${text}`, { kind, text }),
    named: () => (named = true),
  };
  const readers = new Map(fields.map((field) => [field, cellReader(schema, sheet, document, field, told)]));
  const numbered = new Set<string>();
  const word = wordOf(sheet);
  const rows = table.rows.map(({ record }) => {
    const cells = new Map<string, string>();
    matches.forEach((match, index) => {
      const text = (record[index] ?? '').trim();
      if (match.kind === 'column') cells.set(match.field, readers.get(match.field)!(text));
      if (match.kind === 'amount' && text !== '') {
        const isAmount = /^[\d.,]+$/.test(ungrouped(text, decimalComma));
        const written = isAmount ? `${told.number(text)} ${match.asset}` : readers.get(match.field)!(text);
        cells.set(match.field, [cells.get(match.field) ?? '', written].filter(Boolean).join('; '));
      }
    });
    for (const key of sheet.keys) if (!cells.get(key)) cells.set(key, otherwise[key] ?? '');
    const holder = sheet.path(sheet.keys.map((key) => (key === own ? '' : cells.get(key)!))).slice(0, -1);
    const id = idOfRow(cells, own, valueAt(document, holder) as Rows | undefined, numbered, word);
    numbered.add(id);
    cells.set(own, id);
    const before = valueAt(document, sheet.path(sheet.keys.map((key) => cells.get(key)!))) as
      | Record<string, unknown>
      | undefined;
    isNew ||= !before;
    return fields.map((field) => {
      const written = cells.get(field);
      if (written !== undefined) return written;
      if (!before) return otherwise[field] ?? '';
      return guard(CELLS[cellNameOf(fieldNode(schema, sheet, field))].write(valueAt(before, columnAt(sheet, field))));
    });
  });
  const needed = [
    ...sheet.keys.slice(0, -1),
    ...sheet.columns.flatMap(({ field, needed: must }) => (must ? [field] : [])),
  ];
  return {
    // A semicolon says that its numbers have decimal commas.
    csv: stringify([fields, ...rows], { delimiter: decimalComma ? ';' : ',', record_delimiter: 'windows' }),
    read: [...read].map(([text, as]) => ({ text, as })),
    unknown: [...unknown.values()],
    named,
    lacks: isNew ? needed.filter((field) => !used.has(field) && !otherwise[field]) : [],
  };
}

/** What is told of cells while they are read. */
interface Told {
  /** A number as the sheet has it. */
  number: (text: string) => string;
  unknown: (kind: string, text: string) => void;
  named: () => void;
}

type Rows = Readonly<Record<string, { name?: string }>>;

/** What stands in the column of ids; else that of the row of this name, or one made of the name or of what it gives. */
function idOfRow(
  cells: ReadonlyMap<string, string>,
  own: string,
  before: Rows = {},
  numbered: ReadonlySet<string>,
  word: string,
): string {
  const written = cells.get(own)!;
  if (isId(written)) return written;
  const name = written || cells.get('name') || '';
  const known = Object.keys(before).find((id) => name !== '' && before[id]!.name === name);
  if (known !== undefined) return known;
  return idFor(name || cells.get('gives') || word, word, (id) => numbered.has(id) || id in before);
}

/** How a cell of somebody's table becomes one of the sheet: what people call things becomes their ids. */
function cellReader(
  schema: JsonNode,
  sheet: Sheet,
  document: EconomyDocument,
  field: string,
  told: Told,
): (text: string) => string {
  const node = fieldNode(schema, sheet, field);
  const cell: CellName = cellNameOf(node);
  const key = sheet.keys.indexOf(field);
  if (key >= 0 && key < sheet.keys.length - 1) return idByName(holders(document, sheet, key));
  if (key >= 0) return (text) => text;
  if (cell === 'number' || cell === 'amount') return told.number;
  if (cell === 'basket' || cell === 'price' || cell === 'gives' || cell === 'loot') {
    const named = idByName(namesOf(document, 'asset'));
    return (text) =>
      text.replace(/[^;|]+/g, (part) => {
        const [, amount = '', what = ''] = /^\s*([\d.,][\d.,\s-]*)?(.*?)\s*$/s.exec(part)!;
        const id = named(what);
        const units = amount.trim() === '' ? '' : told.number(amount);
        return id === what && units === amount.trim() ? part : `${units} ${id}`.trim();
      });
  }
  const options = node?.['x-options'];
  if (options) return idByName(Object.entries(options).map(([id, name]) => ({ id, name })));
  const kind = node?.['x-names'];
  if (kind !== undefined && Object.hasOwn(KINDS, kind)) {
    const names = namesOf(document, kind as RefKind);
    const byName = idByName(names);
    return (text) => {
      const id = byName(text);
      if (id !== text.trim() || !(id === '' || isId(id))) told.named();
      if (id.trim() !== '' && !names.some((one) => one.id === id)) told.unknown(kind, id.trim());
      return id;
    };
  }
  return (text) => text;
}

interface Named {
  id: string;
  name: string;
}

const nameOf = (id: string, thing: unknown): Named => ({ id, name: (thing as { name?: string }).name ?? id });

const namesOf = (document: EconomyDocument, kind: RefKind): Named[] =>
  KINDS[kind]
    .homes([])
    .flatMap((home) => thingsIn(document, home))
    .map(({ path, thing }) => nameOf(path.at(-1)!, thing));

/** What a key that is not the row's own can name: shops, shelves, loot tables. */
const holders = (document: EconomyDocument, sheet: Sheet, key: number): Named[] => {
  const path = sheet.path(sheet.keys.map(() => '*'));
  const star = path.flatMap((one, index) => (one === '*' ? [index] : []))[key]!;
  return thingsIn(document, path.slice(0, star)).map(({ path: at, thing }) => nameOf(at.at(-1)!, thing));
};

/** The id of what is called so, whatever its case; what nobody is called stays as it is. */
function idByName(known: readonly Named[]): (text: string) => string {
  const ids = new Map<string, string>();
  for (const { id, name } of known) ids.set(name.toLowerCase(), id);
  for (const { id } of known) ids.set(id, id);
  return (text) => ids.get(text.trim()) ?? ids.get(text.trim().toLowerCase()) ?? text;
}
