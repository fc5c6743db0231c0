/** What the catalog's grids show: the sheets of the core, with columns that read a cell and write it back. */
import type { EconomyDocument } from '../../core/document/index.js';
import { CELLS } from '../../core/catalog/cell.js';
import { SHEETS, columnPath } from '../../core/catalog/sheet.js';
import { cellNameOf, jsonNodeAt, jsonResolved } from '../../core/catalog/schemaCell.js';
import type { CellValue, JsonNode, Sheet, SheetColumn, SheetName } from '../../core/catalog/index.js';
import { offerName } from '../api.js';
import { cellCompletes, choicesOf } from './cellCompletion.js';
import type { CellCompletes } from './cellCompletion.js';

export interface GridRow {
  id: string;
  pointer: string;
  keys: string[];
  value: Record<string, unknown>;
}

export interface GridColumn {
  /** The field below the row's pointer; empty for what cannot be edited. */
  field: string;
  head: string;
  width: number;
  right?: boolean;
  numeric?: boolean;
  extra?: boolean;
  /** As it is typed, copied and pasted. */
  read(row: GridRow): string;
  /** As it is shown, where a person would say it otherwise. */
  show?(row: GridRow): string;
  /** What it is sorted by, where that is not its text: part after part; those without come last. */
  order?(row: GridRow): readonly number[] | undefined;
  /** What is said of it while it is typed. */
  says?(text: string, row: GridRow): string | undefined;
  /** What is told when it is pointed at, beside what is shown. */
  tells?(row: GridRow): string | undefined;
  /** What it is for. */
  help?: string | undefined;
  completes?: CellCompletes | undefined;
  /** It is worked out, and no cell of the sheet: arrows and ranges pass over it. */
  told?: boolean;
  /** It has fields of its own, and is edited in the row's panel. */
  form?: boolean;
  parse?(text: string): CellValue;
  /** A field that must not be emptied. */
  needed?: boolean;
}

export interface GridView {
  name: string;
  what: string;
  rows(document: EconomyDocument): GridRow[];
  /** `schema` says how each field is written. */
  columns(document: EconomyDocument, schema: JsonNode): GridColumn[];
}

const editable =
  (sheet: Sheet, document: EconomyDocument, schema: JsonNode) =>
  ({ field, head, width, right, needed, extra }: SheetColumn): GridColumn => {
    const node = jsonNodeAt(schema, columnPath(sheet, field));
    const cell = cellNameOf(node);
    const names = node?.['x-names'] === undefined ? undefined : choicesOf(document, node);
    const labels = names && new Map(names.map(({ id, label }) => [id, label]));
    return {
      field,
      head,
      width,
      right: right ?? false,
      numeric: cell === 'number' || cell === 'amount',
      extra: extra ?? false,
      needed: needed ?? false,
      read: ({ value }) => CELLS[cell].write(value[field]),
      parse: (text) => CELLS[cell].read(text),
      help: [node?.title, node?.description].filter(Boolean).join(': '),
      completes: cellCompletes(document, node),
      form: cell === 'json',
      ...(labels ? { show: ({ value }) => labels.get(String(value[field] ?? '')) ?? textOf(value[field]) } : {}),
      ...(cell === 'loot' ? { show: ({ value }) => namedWords(document, CELLS.loot.write(value[field])) } : {}),
      ...(cell === 'json' ? { show: ({ value }) => partsWords(schema, node, value[field]) } : {}),
    };
  };

/** `1-3 glide_wax; 1 pearls` with what players call them. */
const namedWords = ({ items, currencies }: EconomyDocument, text: string): string =>
  text.replace(/(?<= )[a-z][a-z0-9_]*(?=;|$)/g, (id) => items?.[id]?.name ?? currencies?.[id]?.name ?? id);

const textOf = (value: unknown): string => (value === undefined ? '' : String(value));

/** What has fields of its own, in words: `amount 1, every 6 min, up to 20`. */
function partsWords(schema: JsonNode, outer: JsonNode | undefined, value: unknown): string {
  if (typeof value !== 'object' || value === null) return textOf(value);
  const node = outer && jsonResolved(schema, outer);
  return Object.entries(value)
    .map(([name, part]) => {
      const inner = jsonNodeAt(node ?? {}, [name]);
      const cell = cellNameOf(inner);
      const words =
        cell === 'json' && typeof part === 'object' ? `(${partsWords(schema, inner, part)})` : CELLS[cell].write(part);
      return `${(inner?.title ?? name).toLowerCase()} ${words}`;
    })
    .join(', ');
}

const key = (index: number, head: string, width: number): GridColumn => ({
  field: head === 'id' ? '' : head,
  head,
  width,
  read: ({ keys }) => keys[index] ?? '',
});

function view(name: SheetName, title: string, what: string, keys: GridColumn[]): GridView {
  const sheet = SHEETS[name];
  return {
    name: title,
    what,
    columns: (document, schema) => [...keys, ...sheet.columns.map(editable(sheet, document, schema))],
    rows: (document) => sheet.rows(document).map((row) => ({ ...row, id: row.keys.at(-1)! })),
  };
}

const offers = view('offers', 'Offers', 'offer', [key(2, 'id', 150), key(0, 'shop', 110)]);

/** What an offer costs that has no price of its own. */
const worthOf = (document: EconomyDocument): GridColumn => ({
  // No field of the offer, so no finding of its own.
  field: '(worth)',
  head: 'else the worth',
  told: true,
  width: 120,
  right: true,
  read: ({ value }) =>
    value['price'] === undefined && typeof value['gives'] === 'string'
      ? CELLS.basket.write(document.items?.[value['gives']]?.worth)
      : '',
});

export const GRIDS: Record<SheetName, GridView> = {
  items: view('items', 'Items', 'item', [key(0, 'id', 150)]),
  currencies: view('currencies', 'Currencies', 'currency', [key(0, 'id', 110)]),
  offers: {
    ...offers,
    columns: (document, schema) =>
      offers.columns(document, schema).flatMap((column) => {
        if (column.head === 'shop')
          return [{ ...column, read: ({ keys }: GridRow) => document.shops?.[keys[0]!]?.name ?? keys[0]! }];
        if (column.field === 'price') return [column, worthOf(document)];
        // What the player reads, where the offer has no name of its own.
        return column.field === 'name'
          ? [{ ...column, read: (row: GridRow) => offerName(document, row.id, row.value as never) }]
          : [column];
      }),
  },
  groups: view('groups', 'Groups', 'group', [key(0, 'id', 150)]),
  stores: view('stores', 'Stores', 'store', [key(0, 'id', 150)]),
  attributes: view('attributes', 'Attributes', 'attribute', [key(0, 'id', 150)]),
  earning: view('earning', 'Earning rules', 'earning rule', [key(0, 'id', 150)]),
  goals: view('goals', 'Goals', 'goal', [key(0, 'id', 150)]),
  teams: view('teams', 'Teams', 'kind of team', [key(0, 'id', 150)]),
  cases: view('cases', 'Cases of one purchase', 'case', [key(0, 'id', 150)]),
  rankings: view('rankings', 'Rankings', 'ranking', [key(0, 'id', 150)]),
  loot: view('loot', 'Loot entries', 'entry', [key(1, 'id', 140), key(0, 'loot', 150)]),
};
