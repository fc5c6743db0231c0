/** From a result's columns to the rows that charts and tables show. No drawing here. */
import type { SimulationResult } from '../../core/simulation/index.js';

export interface BandRow {
  day: number;
  median: number;
  half: [number, number];
  most: [number, number];
  n: number;
}

/** Percentile bands of one persona's balance in one currency, by day, in display units. */
export function bandRows({ balances, currencies }: SimulationResult, persona: number, currency: number): BandRow[] {
  const scale = 10 ** (currencies[currency]?.decimals ?? 0);
  return balances.day.flatMap((day, row) =>
    balances.persona[row] !== persona || balances.currency[row] !== currency
      ? []
      : [
          {
            day,
            median: balances.p50[row]! / scale,
            half: [balances.p25[row]! / scale, balances.p75[row]! / scale] as [number, number],
            most: [balances.p5[row]! / scale, balances.p95[row]! / scale] as [number, number],
            n: balances.n[row]!,
          },
        ],
  );
}

export interface FlowRow {
  cause: string;
  units: number;
}

/** Sums over all days, players and personas by cause, largest first, in display units. */
export function flowRows(
  { flows, currencies }: SimulationResult,
  currency: number,
  direction: 'in' | 'out',
): FlowRow[] {
  const scale = 10 ** (currencies[currency]?.decimals ?? 0);
  const sums = new Map<string, number>();
  for (const [row, cause] of flows.cause.entries())
    if (flows.currency[row] === currency && flows.direction[row] === direction)
      sums.set(cause, (sums.get(cause) ?? 0) + flows.units[row]! / scale);
  return [...sums].map(([cause, units]) => ({ cause, units })).sort((a, b) => b.units - a.units);
}

export interface OwnedRow {
  item: string;
  name: string;
  persona: string;
  owners: number;
  n: number;
  median: number | null;
  low: number | null;
  high: number | null;
  share: number[];
}

export function ownedRows({ items, personas }: SimulationResult): OwnedRow[] {
  return items.item.map((item, row) => ({
    item,
    name: items.name[row]!,
    persona: personas[items.persona[row]!]!.name,
    owners: items.owners[row]!,
    n: items.n[row]!,
    median: items.median[row] ?? null,
    low: items.medianLow[row] ?? null,
    high: items.medianHigh[row] ?? null,
    share: items.share[row]!,
  }));
}

/** RFC 4180; a text that a spreadsheet would run as a formula is led by an apostrophe. */
export function toCsv(head: readonly string[], rows: readonly (readonly (string | number | null)[])[]): string {
  const cell = (value: string | number | null): string => {
    if (value === null) return '';
    const text = typeof value === 'string' && /^[=+\-@\t\r]/.test(value) ? `'${value}` : String(value);
    return /[",\r\n]/.test(text) ? `"${text.replace(/"/g, '""')}"` : text;
  };
  return [head, ...rows].map((row) => row.map(cell).join(',')).join('\r\n') + '\r\n';
}
