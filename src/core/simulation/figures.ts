/** From a result's columns to the rows that charts and tables show, days counted from 1. Nothing here reads a schema. */
import { dayShown, flowSums } from './report.js';
import type { FlowSum } from './report.js';
import type { SimulationResult } from './result.js';

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

/** The same of a persona's levels on a track. */
export const heightRows = ({ heights }: SimulationResult, persona: number, track: string): BandRow[] =>
  (heights?.day ?? []).flatMap((day, row) =>
    heights!.persona[row] !== persona || heights!.track[row] !== track || heights!.n[row] === 0
      ? []
      : [
          {
            day: dayShown(day),
            median: heights!.p50[row]!,
            half: [heights!.p25[row]!, heights!.p75[row]!] as [number, number],
            most: [heights!.p5[row]!, heights!.p95[row]!] as [number, number],
            n: heights!.n[row]!,
          },
        ],
  );

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

/** The share of a persona's players who own a thing, by day; of what nobody owns, nobody at all. */
export function shareRow(
  { items, personas, days }: SimulationResult,
  item: string,
  persona: string,
): readonly number[] {
  const row = items.item.findIndex((one, at) => one === item && personas[items.persona[at]!]!.id === persona);
  return items.share[row] ?? Array.from({ length: days }, () => 0);
}

export interface FlowDay {
  day: number;
  /** By cause, for each player who is left: above 0 what came in, below what went out. */
  by: Record<string, number>;
  up: number;
  down: number;
}

/** What the smaller causes are told as, together. */
export const OTHER_IN = 'other, in';
export const OTHER_OUT = 'other, out';

/** As many causes have a colour; the rest go together. */
const MOST_CAUSES = 6;

/** What came in and went out of one currency by day and cause, for each player who is left, in display units. */
export function flowDays(
  { flows, supply, currencies, days }: SimulationResult,
  currency: number,
): { causes: string[]; rows: FlowDay[] } {
  const scale = 10 ** (currencies[currency]?.decimals ?? 0);
  const players = Array.from({ length: days }, () => 1);
  for (const [row, day] of supply.day.entries())
    if (supply.currency[row] === currency) players[day] = supply.n[row]! || 1;
  const sums = new Map<string, number>();
  const rowsOf = flows.day.flatMap((day, row) => {
    if (flows.currency[row] !== currency) return [];
    const sign = flows.direction[row] === 'in' ? 1 : -1;
    const cause = flows.cause[row]!;
    sums.set(cause, (sums.get(cause) ?? 0) + flows.units[row]!);
    return [{ day, cause, units: (sign * flows.units[row]!) / scale / players[day]! }];
  });
  const largest = [...sums].sort(([, a], [, b]) => b - a).slice(0, MOST_CAUSES);
  const named = new Map(largest.map(([cause]) => [cause, causeWords(cause)]));
  const rows = Array.from({ length: days }, (_, day): FlowDay => ({ day: dayShown(day), by: {}, up: 0, down: 0 }));
  for (const { day, cause, units } of rowsOf) {
    const word = named.get(cause) ?? (units > 0 ? OTHER_IN : OTHER_OUT);
    const row = rows[day]!;
    row.by[word] = Math.round(((row.by[word] ?? 0) + units) * 100) / 100;
    if (units > 0) row.up += units;
    else row.down += units;
  }
  const causes = [...named.values(), OTHER_IN, OTHER_OUT].filter((cause) => rows.some(({ by }) => cause in by));
  return { causes, rows };
}

/** A cause as people read it: "earning: race prize". */
export const causeWords = (cause: string): string => cause.replace(':', ': ').replace(/_/g, ' ');

/** What a minute of each activity pays in one currency, over all personas by how often they play it, the best first. */
export function payBars(
  { activities, currencies }: SimulationResult,
  currency: number,
): { name: string; pay: number }[] {
  const scale = 10 ** (currencies[currency]?.decimals ?? 0);
  const sums = new Map<string, { plays: number; pay: number }>();
  for (const [row, name] of activities.name.entries()) {
    if (activities.currency[row] !== currency) continue;
    const sum = sums.get(name) ?? { plays: 0, pay: 0 };
    sum.plays += activities.plays[row]!;
    sum.pay += activities.plays[row]! * activities.perMinute[row]!;
    sums.set(name, sum);
  }
  return [...sums]
    .map(([name, { plays, pay }]) => ({ name, pay: Math.round((100 * pay) / plays / scale) / 100 }))
    .sort((a, b) => b.pay - a.pay);
}

/** What a player holds on average at the end of each day, of those who are left, in display units. */
export function supplyRows({ supply, currencies }: SimulationResult, currency: number): (number | null)[] {
  const scale = 10 ** (currencies[currency]?.decimals ?? 0);
  return supply.units.flatMap((units, row) =>
    supply.currency[row] !== currency
      ? []
      : [supply.n[row] === 0 ? null : Math.round((10 * units) / scale / supply.n[row]!) / 10],
  );
}

/** How unevenly a currency is held at the end of each day, from 0 (all the same) to 100 (one has all): Gini's coefficient. */
export const unevenRows = ({ supply }: SimulationResult, currency: number): (number | null)[] =>
  supply.gini.flatMap((gini, row) =>
    supply.currency[row] === currency ? [gini === null ? null : Math.round(1000 * gini) / 10] : [],
  );

/** Prices of what is bought against the first day, in percent. */
export const priceRows = ({ prices }: SimulationResult, currency: number): (number | null)[] =>
  prices.index.flatMap((index, row) => (prices.currency[row] === currency ? [Math.round(1000 * index) / 10] : []));
