/** The tables of a result as a person reads them: names beside numbers, days from 1, amounts in display units. */
import { dayShown } from './report.js';
import type { SimulationResult } from './result.js';

export type Cell = string | number | null;

export interface ResultTable {
  name: string;
  columns: readonly string[];
  rows: readonly (readonly Cell[])[];
}

/** What a column holds where it is not told as it stands. */
type Kind = 'day' | 'money' | 'persona' | 'currency' | 'instant' | 'list';
const WAITING = Object.fromEntries(
  ['median', 'medianLow', 'medianHigh', 'mean', 'meanLow', 'meanHigh'].map((column) => [column, 'day'] as const),
);
const under = (name: string, kinds: Readonly<Record<string, Kind>>): Record<string, Kind> =>
  Object.fromEntries(Object.entries(kinds).map(([column, kind]) => [`${name}.${column}`, kind]));
const all = (columns: readonly string[], kind: Kind): Record<string, Kind> =>
  Object.fromEntries(columns.map((column) => [column, kind]));

const EVERYWHERE: Readonly<Record<string, Kind>> = {
  day: 'day',
  firstDay: 'day',
  lastDay: 'day',
  persona: 'persona',
  currency: 'currency',
  wants: 'list',
  soldOutMs: 'instant',
};
const KINDS: Readonly<Partial<Record<string, Readonly<Record<string, Kind>>>>> = {
  balances: all(['p5', 'p25', 'p50', 'p75', 'p95', 'mean', 'meanLow', 'meanHigh'], 'money'),
  supply: all(['units'], 'money'),
  flows: all(['units'], 'money'),
  caps: all(['dropped'], 'money'),
  prices: all(['spent'], 'money'),
  activities: all(['perMinute', 'low', 'high'], 'money'),
  items: { ...under('owned', WAITING), ...under('afforded', WAITING) },
  dry: WAITING,
  goals: under('reached', WAITING),
  levels: under('reached', WAITING),
};

/** Columns that are tables of their own. */
const APART: Readonly<Partial<Record<string, readonly string[]>>> = {
  items: ['share'],
  goals: ['share'],
  offers: ['refused'],
};

/** Every table of the result. */
export function resultTables(result: SimulationResult): ResultTable[] {
  const tables: ResultTable[] = [];
  for (const [name, table] of Object.entries(result)) {
    if (typeof table !== 'object' || table === null || Array.isArray(table) || name === 'totals') continue;
    const columns = flat(table);
    for (const column of APART[name] ?? []) columns.delete(column);
    tables.push(name === 'players' ? playersTable(result) : tableOf(result, name, columns));
  }
  return [...tables, sharesTable(result), refusedTable(result), targetsTable(result)];
}

/** Columns of single values by name, nested ones with a dot. */
function flat(table: object, prefix = ''): Map<string, readonly unknown[]> {
  const columns = new Map<string, readonly unknown[]>();
  for (const [name, column] of Object.entries(table))
    if (Array.isArray(column)) columns.set(`${prefix}${name}`, column);
    else for (const [inner, values] of flat(column as object, `${prefix}${name}.`)) columns.set(inner, values);
  return columns;
}

function tableOf(
  result: SimulationResult,
  name: string,
  columns: ReadonlyMap<string, readonly unknown[]>,
): ResultTable {
  const names = [...columns.keys()];
  const kinds = names.map((column) => KINDS[name]?.[column] ?? EVERYWHERE[column]);
  const currency = columns.get('currency') as readonly number[] | undefined;
  const height = columns.get(names[0]!)!.length;
  return {
    name,
    columns: names,
    rows: Array.from({ length: height }, (_, row) =>
      names.map((column, at) =>
        cellOf(result, kinds[at], columns.get(column)![row], result.currencies[currency?.[row] ?? -1]?.decimals ?? 0),
      ),
    ),
  };
}

function cellOf(
  { personas, currencies }: SimulationResult,
  kind: Kind | undefined,
  value: unknown,
  decimals: number,
): Cell {
  if (value === null || value === undefined) return null;
  switch (kind) {
    case 'day':
      // Means of days are no whole numbers.
      return Number(dayShown(value as number).toFixed(6));
    case 'money':
      return (value as number) / 10 ** decimals;
    case 'persona':
      return personas[value as number]!.id;
    case 'currency':
      return currencies[value as number]!.id;
    case 'instant':
      return new Date(value as number).toISOString();
    case 'list':
      return (value as readonly string[]).join(' ');
    case undefined:
      return value as Cell;
  }
}

/** One row for each player: what is held at the end, and the days on which things were owned and could be paid for first. */
function playersTable({ players, personas, currencies }: SimulationResult): ResultTable {
  const days = [
    ...Object.entries(players.ownedDay).map(([item, of]) => ({ column: `owned.${item}`, of })),
    ...Object.entries(players.affordedDay).map(([item, of]) => ({ column: `afforded.${item}`, of })),
    ...Object.entries(players.goalDay ?? {}).map(([goal, of]) => ({ column: `reached.${goal}`, of })),
    ...Object.entries(players.levelDay ?? {}).map(([level, of]) => ({ column: `reached.${level}`, of })),
  ];
  return {
    name: 'players',
    columns: [
      'player',
      'persona',
      'lastDay',
      ...currencies.map(({ id }) => `balance.${id}`),
      ...days.map(({ column }) => column),
    ],
    rows: players.persona.map((persona, player) => [
      player + 1,
      personas[persona]!.id,
      dayShown(players.lastDay[player]!),
      ...currencies.map(({ decimals }, currency) => players.balance[currency]![player]! / 10 ** decimals),
      ...days.map(({ of }) => (of[player] === null ? null : dayShown(of[player]!))),
    ]),
  };
}

/** Who own an item by the end of each day. */
const sharesTable = ({ items, personas }: SimulationResult): ResultTable => ({
  name: 'shares',
  columns: ['item', 'persona', 'day', 'share'],
  rows: items.item.flatMap((item, row) =>
    items.share[row]!.map((share, day) => [item, personas[items.persona[row]!]!.id, dayShown(day), share]),
  ),
});

/** Player-days on which an offer was wanted and refused, by reason. */
const refusedTable = ({ offers, personas }: SimulationResult): ResultTable => ({
  name: 'refused',
  columns: ['offer', 'persona', 'reason', 'playerDays'],
  rows: offers.offer.flatMap((offer, row) =>
    Object.entries(offers.refused[row]!).map(([reason, count]) => [
      offer,
      personas[offers.persona[row]!]!.id,
      reason,
      count,
    ]),
  ),
});

const MEASURED = ['value', 'low', 'high', 'n', 'off', 'decides'] as const;

/** How the run stands to each target, as people write it. */
const targetsTable = ({ targets, currencies }: SimulationResult): ResultTable => ({
  name: 'targets',
  columns: ['target', 'name', 'unit', 'currency', 'from', 'to', 'mark', ...MEASURED, 'why'],
  rows: targets.map((row) => [
    row.id,
    row.name,
    row.unit,
    row.currency === null ? null : currencies[row.currency]!.id,
    row.from,
    row.to,
    row.mark,
    ...MEASURED.map((name) => (row.mark === 'unknown' ? null : row[name])),
    row.mark === 'unknown' ? row.why : null,
  ]),
});
