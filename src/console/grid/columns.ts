/** What the catalog's grids show: rows from the document, and columns that read a cell and write it back. */
import type { Operation } from 'fast-json-patch';
import type { EconomyDocument, OfferDocument } from '../../core/economy/index.js';
import { pointerOf } from '../../core/issue/index.js';
import {
  basketToCell,
  cellToBasket,
  cellToList,
  cellToNumber,
  cellToPrice,
  cellToText,
  priceToCell,
} from '../../core/catalog/cell.js';
import type { CellValue } from '../../core/catalog/cell.js';

export interface GridRow {
  id: string;
  pointer: string;
  value: Record<string, unknown>;
  [extra: string]: unknown;
}

export interface GridColumn {
  /** The field below the row's pointer; empty for what cannot be edited. */
  field: string;
  head: string;
  width: number;
  right?: boolean;
  read(row: GridRow): string;
  parse?(text: string): CellValue;
  /** A field that must not be emptied. */
  needed?: boolean;
}

const plain = (field: string, head: string, width: number, more: Partial<GridColumn> = {}): GridColumn => ({
  field,
  head,
  width,
  read: (row) => String(row.value[field] ?? ''),
  parse: cellToText,
  ...more,
});
const numeric = (field: string, head: string, width: number): GridColumn =>
  plain(field, head, width, { right: true, parse: cellToNumber });
const idColumn: GridColumn = { field: '', head: 'id', width: 150, read: ({ id }) => id };
const emptiable =
  (parse: (text: string) => CellValue) =>
  (text: string): CellValue =>
    text.trim() === '' ? { ok: true, value: undefined } : parse(text);
const basket = (field: string, head: string, width: number): GridColumn => ({
  field,
  head,
  width,
  right: true,
  read: (row) => basketToCell(row.value[field] as Record<string, number> | undefined),
  parse: emptiable(cellToBasket),
});

export interface GridView {
  name: string;
  what: string;
  rows(document: EconomyDocument): GridRow[];
  columns: GridColumn[];
}

const rowsOf =
  (section: 'items' | 'currencies') =>
  (document: EconomyDocument): GridRow[] =>
    Object.entries(document[section] ?? {}).map(([id, value]) => ({
      id,
      pointer: pointerOf([section, id]),
      value: value as Record<string, unknown>,
    }));

const LIMIT_EXAMPLE = 'day: 3, lifetime: 1';
function cellToLimits(text: string): CellValue {
  const limits: Record<string, number> = {};
  for (const part of text.split(',')) {
    const match = /^\s*([A-Za-z0-9]+)\s*:\s*(\d+)\s*$/.exec(part);
    if (!match) return { ok: false, problem: `"${part.trim()}" should look like ${LIMIT_EXAMPLE}` };
    limits[match[1]!] = Number(match[2]);
  }
  return { ok: true, value: limits };
}

export const GRIDS: Readonly<Record<'items' | 'offers' | 'currencies', GridView>> = {
  items: {
    name: 'Items',
    what: 'item',
    rows: rowsOf('items'),
    columns: [
      idColumn,
      plain('icon', '', 44),
      plain('name', 'name', 150, { needed: true }),
      plain('group', 'group', 90),
      plain('kind', 'kind', 100, { needed: true }),
      basket('worth', 'worth', 140),
      numeric('carry', 'carry', 64),
      numeric('stack', 'stack', 64),
      {
        field: 'tags',
        head: 'tags',
        width: 110,
        read: (row) => ((row.value['tags'] as string[] | undefined) ?? []).join(', '),
        parse: cellToList,
      },
      plain('description', 'description', 330),
    ],
  },
  offers: {
    name: 'Offers',
    what: 'offer',
    rows: offerRows,
    columns: [
      idColumn,
      { field: '', head: 'shop', width: 120, read: (row) => String(row['shop']) },
      { field: '', head: 'shelf', width: 120, read: (row) => String(row['shelf']) },
      {
        field: 'gives',
        head: 'gives',
        width: 160,
        needed: true,
        read: ({ value }) =>
          typeof value['gives'] === 'string' ? value['gives'] : basketToCell(value['gives'] as Record<string, number>),
        parse: (text) => (/^[a-z][a-z0-9_]*$/.test(text.trim()) ? cellToText(text) : cellToBasket(text)),
      },
      numeric('count', 'count', 64),
      {
        field: 'price',
        head: 'price',
        width: 280,
        right: true,
        read: ({ value }) => priceToCell((value as OfferDocument).price),
        parse: cellToPrice,
      },
      { field: '', head: 'else the worth', width: 130, right: true, read: (row) => String(row['worth']) },
      {
        field: 'limits',
        head: 'limits',
        width: 130,
        read: ({ value }) =>
          Object.entries((value as OfferDocument).limits ?? {})
            .map(([period, most]) => `${period}: ${most}`)
            .join(', '),
        parse: emptiable(cellToLimits),
      },
      plain('when', 'when', 120),
      plain('badge', 'badge', 80),
    ],
  },
  currencies: {
    name: 'Currencies',
    what: 'currency',
    rows: rowsOf('currencies'),
    columns: [
      idColumn,
      plain('symbol', '', 44),
      plain('name', 'name', 150, { needed: true }),
      numeric('decimals', 'decimals', 84),
      numeric('start', 'start', 84),
      numeric('cap', 'cap', 100),
      plain('overCap', 'above the cap', 120),
      plain('rounding', 'rounding', 100),
      plain('description', 'description', 400),
    ],
  },
};

function offerRows(document: EconomyDocument): GridRow[] {
  return Object.entries(document.shops ?? {}).flatMap(([shopId, shop]) =>
    Object.entries(shop.shelves).flatMap(([shelfId, shelf]) =>
      Object.entries(shelf.offers).map(([id, offer]) => ({
        id,
        pointer: pointerOf(['shops', shopId, 'shelves', shelfId, 'offers', id]),
        value: offer as Record<string, unknown>,
        shop: shop.name,
        shelf: shelf.name,
        worth:
          offer.price === undefined && typeof offer.gives === 'string'
            ? basketToCell(document.items?.[offer.gives]?.worth)
            : '',
      })),
    ),
  );
}

/** The one operation that brings a field to a value; undefined takes it away. None when nothing changes. */
export function fieldOperation(row: GridRow, field: string, value: unknown): Operation | undefined {
  const path = `${row.pointer}/${field}`;
  const present = Object.hasOwn(row.value, field);
  if (JSON.stringify(row.value[field]) === JSON.stringify(value)) return undefined;
  if (value === undefined) return present ? { op: 'remove', path } : undefined;
  return { op: present ? 'replace' : 'add', path, value };
}
