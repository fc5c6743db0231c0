/** The catalog as sheets: which rows and columns items, currencies, offers and loot entries have. */
import type { EconomyDocument } from '../document/index.js';
import { pointerOf } from '../issue/index.js';

export interface SheetColumn {
  /** The field of the row, and the column's name in CSV. */
  field: string;
  /** Where it stands in the row, where it is no field of its own. */
  at?: readonly string[];
  /** What people call it. */
  head: string;
  /** In pixels. */
  width: number;
  right?: boolean;
  /** Must not be emptied. */
  needed?: boolean;
  /** Shown only when asked for. */
  extra?: boolean;
}

/** One row: `keys` name it (its id last), `value` is what the document holds there. */
export interface SheetRow {
  keys: string[];
  pointer: string;
  value: Record<string, unknown>;
}

export interface Sheet {
  name: SheetName;
  /** Columns that name a row, in CSV; the last is its id. */
  keys: readonly string[];
  columns: readonly SheetColumn[];
  rows(document: EconomyDocument): SheetRow[];
  /** The pointer's segments of a row by its keys. */
  path(keys: readonly string[]): string[];
  /** Of rows that have more than a sheet can say: what those are that it has. */
  only?: { words: string; holds(value: Record<string, unknown>): boolean };
}

/** Those of the catalog. */
export const CATALOG_SHEETS = ['items', 'offers', 'loot', 'currencies', 'groups', 'stores'] as const;
export const SHEET_NAMES = [...CATALOG_SHEETS, 'attributes', 'earning', 'goals', 'teams', 'rankings', 'cases'] as const;
export type SheetName = (typeof SHEET_NAMES)[number];

/** Those of the catalog whose rows are entries of a section of the same name. */
export const SECTION_SHEETS = ['items', 'currencies', 'groups', 'stores'] as const;
export type SectionSheet = (typeof SECTION_SHEETS)[number];

const section = (name: SectionSheet | 'attributes' | 'earning' | 'goals' | 'teams' | 'rankings' | 'cases') => ({
  keys: ['id'],
  path: ([id]: readonly string[]) => [name, id!],
  rows: (document: EconomyDocument): SheetRow[] =>
    Object.entries(document[name] ?? {}).map(([id, value]) => ({ keys: [id], pointer: pointerOf([name, id]), value })),
});

export const SHEETS: Readonly<Record<SheetName, Sheet>> = {
  items: {
    name: 'items',
    ...section('items'),
    columns: [
      { field: 'icon', head: 'icon', width: 60 },
      { field: 'name', head: 'name', width: 180, needed: true },
      { field: 'kind', head: 'kind', width: 100, needed: true },
      { field: 'group', head: 'group', width: 130 },
      { field: 'worth', head: 'worth', width: 170, right: true },
      { field: 'carry', head: 'carry', width: 64, right: true },
      { field: 'stack', head: 'stack', width: 64, right: true },
      { field: 'tags', head: 'tags', width: 120 },
      { field: 'description', head: 'description', width: 320 },
      { field: 'singular', head: 'one is called', width: 140, extra: true },
      { field: 'uses', head: 'uses', width: 64, right: true, extra: true },
      { field: 'lasts', head: 'lasts', width: 80, extra: true },
      { field: 'gives', head: 'gives', width: 220, extra: true },
      { field: 'loot', head: 'loot table', width: 130, extra: true },
      { field: 'opensWith', head: 'opens with', width: 130, extra: true },
      { field: 'sellable', head: 'sellable', width: 80, extra: true },
      { field: 'onUse', head: 'on use', width: 220, extra: true },
      { field: 'yields', head: 'yields', width: 220, extra: true },
      { field: 'properties', head: 'properties', width: 220, extra: true },
    ],
  },
  offers: {
    name: 'offers',
    keys: ['shop', 'shelf', 'id'],
    path: ([shop, shelf, id]) => ['shops', shop!, 'shelves', shelf!, 'offers', id!],
    rows: (document) =>
      Object.entries(document.shops ?? {}).flatMap(([shop, { shelves }]) =>
        Object.entries(shelves).flatMap(([shelf, { offers }]) =>
          Object.entries(offers).map(([id, value]) => ({
            keys: [shop, shelf, id],
            pointer: pointerOf(['shops', shop, 'shelves', shelf, 'offers', id]),
            value,
          })),
        ),
      ),
    columns: [
      { field: 'name', head: 'name', width: 160 },
      { field: 'gives', head: 'gives', width: 150, needed: true },
      { field: 'count', head: 'count', width: 64, right: true },
      { field: 'price', head: 'price', width: 230, right: true },
      { field: 'badge', head: 'badge', width: 90 },
      { field: 'stock', head: 'stock', width: 190 },
      { field: 'limits', head: 'limits', width: 150 },
      { field: 'when', head: 'when', width: 160 },
      { field: 'description', head: 'description', width: 240 },
      { field: 'weight', head: 'weight', width: 74, right: true, extra: true },
      { field: 'from', head: 'from', width: 140, extra: true },
      { field: 'until', head: 'until', width: 140, extra: true },
      { field: 'hidden', head: 'hidden', width: 74, extra: true },
    ],
  },
  loot: {
    name: 'loot',
    keys: ['loot', 'id'],
    path: ([table, id]) => ['loot', table!, 'entries', id!],
    rows: (document) =>
      Object.entries(document.loot ?? {}).flatMap(([table, { entries }]) =>
        Object.entries(entries).map(([id, value]) => ({
          keys: [table, id],
          pointer: pointerOf(['loot', table, 'entries', id]),
          value,
        })),
      ),
    columns: [
      { field: 'weight', head: 'weight', width: 90, right: true, needed: true },
      { field: 'gives', head: 'gives', width: 260 },
      { field: 'table', head: 'another table', width: 170 },
      { field: 'when', head: 'when', width: 240 },
    ],
  },
  currencies: {
    name: 'currencies',
    ...section('currencies'),
    columns: [
      { field: 'symbol', head: 'symbol', width: 74 },
      { field: 'name', head: 'name', width: 140, needed: true },
      { field: 'decimals', head: 'decimals', width: 80, right: true },
      { field: 'start', head: 'start', width: 74, right: true },
      { field: 'cap', head: 'cap', width: 90, right: true },
      { field: 'overCap', head: 'above cap', width: 90 },
      { field: 'premium', head: 'premium', width: 80 },
      { field: 'rounding', head: 'rounding', width: 90 },
      { field: 'description', head: 'description', width: 300 },
      { field: 'singular', head: 'one is called', width: 140, extra: true },
      { field: 'refill', head: 'refill', width: 260, extra: true },
      { field: 'ends', head: 'ends', width: 260, extra: true },
    ],
  },
  groups: {
    name: 'groups',
    ...section('groups'),
    columns: [{ field: 'name', head: 'name', width: 240, needed: true }],
  },
  stores: {
    name: 'stores',
    ...section('stores'),
    columns: [
      { field: 'name', head: 'name', width: 240, needed: true },
      { field: 'fee', head: 'fee', width: 90, right: true },
      { field: 'rounding', head: 'fee rounded', width: 120 },
      { field: 'tax', head: 'tax', width: 90, right: true },
    ],
  },
  attributes: {
    name: 'attributes',
    ...section('attributes'),
    columns: [
      { field: 'name', head: 'name', width: 240 },
      { field: 'start', head: 'start', width: 120, needed: true },
    ],
  },
  earning: {
    name: 'earning',
    ...section('earning'),
    columns: [
      { field: 'name', head: 'name', width: 180, needed: true },
      { field: 'on', head: 'on', width: 140, needed: true },
      { field: 'when', head: 'when', width: 200 },
      { field: 'gives', head: 'gives', width: 220 },
      { field: 'chance', head: 'chance', width: 90, right: true },
      { field: 'loot', head: 'loot table', width: 140 },
      { field: 'share', head: 'share', width: 120 },
      { field: 'takes', head: 'takes', width: 160 },
      { field: 'limits', head: 'limits', width: 150 },
      { field: 'cooldown', head: 'cooldown', width: 100 },
    ],
  },
  goals: {
    name: 'goals',
    ...section('goals'),
    columns: [
      { field: 'name', head: 'name', width: 180, needed: true },
      { field: 'counts', head: 'counts', width: 130, needed: true },
      { field: 'target', head: 'target', width: 90, right: true, needed: true },
      { field: 'event', head: 'event', width: 140 },
      { field: 'when', head: 'when', width: 160 },
      { field: 'gives', head: 'gives', width: 180 },
      { field: 'every', head: 'every', width: 90 },
      { field: 'after', head: 'after', width: 140 },
      { field: 'team', head: 'of a team', width: 110 },
      { field: 'by', head: 'counts as', width: 110 },
      { field: 'currency', head: 'currency', width: 110 },
      { field: 'offers', head: 'offers', width: 150 },
      { field: 'items', head: 'items', width: 150 },
      { field: 'groups', head: 'groups', width: 120 },
      { field: 'tags', head: 'tags', width: 110 },
      { field: 'distinct', head: 'distinct', width: 90 },
      { field: 'attribute', head: 'attribute', width: 110 },
      { field: 'loot', head: 'loot table', width: 130 },
      { field: 'share', head: 'share', width: 120 },
      { field: 'sets', head: 'sets', width: 130 },
      { field: 'shownFrom', head: 'shown from', width: 100, right: true },
      { field: 'description', head: 'description', width: 260 },
    ],
  },
  teams: {
    name: 'teams',
    ...section('teams'),
    columns: [
      { field: 'name', head: 'name', width: 200, needed: true },
      { field: 'most', head: 'members at most', width: 140, right: true, needed: true },
      { field: 'description', head: 'description', width: 400 },
    ],
  },
  rankings: {
    name: 'rankings',
    ...section('rankings'),
    columns: [
      { field: 'name', head: 'name', width: 200, needed: true },
      { field: 'by', head: 'by', width: 150, needed: true },
      { field: 'currency', head: 'currency', width: 120 },
      { field: 'every', head: 'every', width: 90 },
      { field: 'goal', head: 'goal', width: 150 },
      { field: 'team', head: 'teams', width: 120 },
      { field: 'description', head: 'description', width: 300 },
    ],
  },
  cases: {
    name: 'cases',
    ...section('cases'),
    rows: (document) =>
      section('cases')
        .rows(document)
        .filter(({ value }) => isOnePurchase(value)),
    only: {
      words: 'one purchase, and whether it is allowed',
      holds: (value) => isEmptyCase(value) || isOnePurchase(value),
    },
    columns: [
      { field: 'name', head: 'name', width: 240, needed: true },
      { field: 'at', head: 'at', width: 140, needed: true },
      { field: 'attributes', at: ['player', 'attributes'], head: 'attributes', width: 140 },
      { field: 'holds', at: ['player', 'holds'], head: 'holds', width: 200 },
      { field: 'offer', at: ['steps', '0', 'buy'], head: 'offer', width: 160, needed: true },
      { field: 'times', at: ['steps', '0', 'times'], head: 'times', width: 64, right: true },
      { field: 'pay', at: ['steps', '0', 'pay'], head: 'pays', width: 100 },
      { field: 'expected', at: ['steps', '0', 'expect', 'verdict'], head: 'expected', width: 200, needed: true },
      { field: 'seed', head: 'seed', width: 80, right: true },
      { field: 'description', head: 'description', width: 260 },
    ],
  },
};

/** Whether a case is one purchase of which only the verdict must hold. */
function isOnePurchase({ expect, player, steps = [] }: Record<string, unknown>): boolean {
  const [step, ...more] = steps as Record<string, unknown>[];
  if (expect !== undefined || step === undefined || more.length > 0) return false;
  const { buy, times: _, pay: __, expect: wanted, ...others } = step;
  const parts = player === undefined ? [] : [player, ...Object.values(player as object)];
  return (
    buy !== undefined &&
    Object.keys(others).length === 0 &&
    Object.keys((wanted as object | undefined) ?? {}).join() === 'verdict' &&
    // What is written and empty has no cell.
    parts.every((part) => Object.keys(part as object).length > 0)
  );
}

const isEmptyCase = ({ expect, steps = [] }: Record<string, unknown>): boolean =>
  expect === undefined && (steps as unknown[]).length === 0;

/** Where the value of a column stands in a row. */
export const columnAt = ({ columns }: Sheet, field: string): readonly string[] =>
  columns.find((column) => column.field === field)?.at ?? [field];

/** Where the schema describes a column. */
export const columnPath = (sheet: Sheet, field: string): string[] => [
  ...sheet.path(sheet.keys),
  ...columnAt(sheet, field),
];
