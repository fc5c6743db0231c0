/** From a result's columns to the rows that charts and tables show, days counted from 1. No drawing here. */
import { dayShown, flowSums } from '../../core/simulation/report.js';
import type { FlowSum, SimulationResult } from '../../core/simulation/index.js';

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
    // Where nobody is left there is nothing to draw.
    balances.persona[row] !== persona || balances.currency[row] !== currency || balances.n[row] === 0
      ? []
      : [
          {
            day: dayShown(day),
            median: balances.p50[row]! / scale,
            half: [balances.p25[row]! / scale, balances.p75[row]! / scale] as [number, number],
            most: [balances.p5[row]! / scale, balances.p95[row]! / scale] as [number, number],
            n: balances.n[row]!,
          },
        ],
  );
}

/** Sums by cause in display units, largest first. */
export function flowRows(result: SimulationResult, currency: number, direction: 'in' | 'out'): FlowSum[] {
  const scale = 10 ** (result.currencies[currency]?.decimals ?? 0);
  return flowSums(result, currency, direction).map(({ cause, units }) => ({ cause, units: units / scale }));
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
  /** From the first day on. */
  share: number[];
}

const dayOrNone = (day: number | null | undefined): number | null => (typeof day === 'number' ? dayShown(day) : null);

export function ownedRows({ items, personas }: SimulationResult): OwnedRow[] {
  const { owned } = items;
  return items.item.map((item, row) => ({
    item,
    name: items.name[row]!,
    persona: personas[items.persona[row]!]!.name,
    owners: owned.happened[row]!,
    n: owned.n[row]!,
    median: dayOrNone(owned.median[row]),
    low: dayOrNone(owned.medianLow[row]),
    high: dayOrNone(owned.medianHigh[row]),
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
