/** Prices in the grids: sorted by what is charged, currency by currency, and beside them what they take in playing time. */
import type { SheetName } from '../../core/catalog/index.js';
import type { EconomyDocument } from '../../core/document/index.js';
import type { PlayingTime } from '../../core/playtime/index.js';
import { timeOrder } from '../../core/playtime/playingTime.js';
import { playingTimeShort } from '../../core/playtime/words.js';
import type { Playtime } from '../parts/playtime.js';
import type { GridColumn, GridRow } from './columns.js';

/** The column that says what players pay, or get, by sheet. */
const PRICED: Readonly<Partial<Record<SheetName, string>>> = {
  items: 'worth',
  offers: 'price',
  earning: 'gives',
  goals: 'gives',
};

/** The columns of a sheet with the order of its prices, and what each takes; `playtime` where that is known. */
export function withTimes(
  sheet: SheetName,
  document: EconomyDocument,
  columns: readonly GridColumn[],
  playtime: Playtime | undefined,
): GridColumn[] {
  const field = PRICED[sheet];
  if (field === undefined) return [...columns];
  const assets = [...Object.keys(document.currencies ?? {}), ...Object.keys(document.items ?? {})];
  const ranks = new Map(assets.map((asset, rank) => [asset, rank]));
  const order = (row: GridRow): readonly number[] | undefined =>
    chargedOrder(ranks, chargedOf(document, sheet, field, row));
  return columns.flatMap((column) => {
    if (column.field === WORTH) return [{ ...column, order }];
    if (column.field !== field) return [column];
    const priced = { ...column, order };
    if (!playtime) return [priced];
    const time = timeColumn(document, sheet, field, playtime);
    const says = (text: string): string | undefined => {
      const read = column.parse?.(text);
      const typed = read?.ok ? playtime.ofWritten(read.value) : undefined;
      return typed && typed.kind !== 'nothing' ? playtime.words(typed) : undefined;
    };
    return [{ ...priced, says, tells: time.tells }, time];
  });
}

/** Of offers without a price of their own. */
const WORTH = '(worth)';

function timeColumn(document: EconomyDocument, sheet: SheetName, field: string, playtime: Playtime): GridColumn {
  const rungs = new Map(playtime.ladder.rungs.map((rung) => [rung.pointer, rung.time]));
  const apart = new Map(playtime.ladder.apart.map(({ pointer, why }) => [pointer, why]));
  const timeOf = (row: GridRow): PlayingTime | undefined =>
    sheet === 'offers' ? rungs.get(row.pointer) : playtime.ofWritten(chargedOf(document, sheet, field, row));
  const read = (row: GridRow): string => {
    const time = timeOf(row);
    return time ? playingTimeShort(time) : (apart.get(row.pointer) ?? '');
  };
  return {
    field: '(time)',
    head: 'playing time',
    told: true,
    width: 150,
    right: true,
    read,
    order: (row) => {
      const time = timeOf(row);
      return time && time.kind !== 'nothing' ? [timeOrder(time)] : undefined;
    },
    tells: (row) => {
      const time = timeOf(row);
      return time && time.kind !== 'nothing' ? playtime.words(time) : undefined;
    },
    help: `Playing time for a ${playtime.earnings.name}: minutes of play, and the day by which it is earned`,
  };
}

/** What is charged for one time: of an offer its own price, else the worth of all that it gives. */
function chargedOf(document: EconomyDocument, sheet: SheetName, field: string, { value }: GridRow): unknown {
  const own = value[field];
  if (sheet !== 'offers' || own !== undefined) return own;
  const worth = document.items?.[String(value['gives'])]?.worth;
  const count = Number(value['count'] ?? 1);
  return (
    worth &&
    Object.fromEntries(
      Object.entries(worth).map(([asset, amount]) => [asset, typeof amount === 'number' ? amount * count : amount]),
    )
  );
}

/** Free first, then currency by currency in their order, by the amount; formulas after amounts, real money last. */
function chargedOrder(ranks: ReadonlyMap<string, number>, charged: unknown): readonly number[] | undefined {
  if (charged === 'free') return [-1, 0];
  const first: unknown = Array.isArray(charged) ? charged[0] : charged;
  if (typeof first !== 'object' || first === null) return undefined;
  const [asset, amount] = Object.entries(first)[0] ?? [];
  if (asset === undefined) return undefined;
  const rank = ranks.get(asset);
  if (rank === undefined) return [ranks.size, Number(Object.values(amount as object)[0] ?? 0)];
  return [rank, typeof amount === 'number' ? amount : Infinity];
}
