/** The charts of one run, or of several over each other. */
import { bandRows, flowDays, payBars, priceRows, shareRow, supplyRows } from '../simulation/index.js';
import type { EconomyDocument } from '../document/index.js';
import type { Difference, SimulationResult } from '../simulation/index.js';
import { barsDrawn, linesDrawn, stackDrawn } from './draw.js';
import type { LineDrawn } from './draw.js';
import type { ReportBlock } from './page.js';

export interface NamedResult {
  name: string;
  result: SimulationResult;
}

/** As many things have a chart of who owns them, where no target names one. */
const MOST_THINGS = 3;

/**
 * Runs of the same scenario; the first is drawn solid and with its bands. `targets` are those of the economy: who owns
 * what they name is drawn with the days that are wanted. Without any, things in which the runs differ are drawn.
 */
export function runCharts(
  runs: readonly NamedResult[],
  {
    targets = {},
    differences = [],
  }: { targets?: EconomyDocument['targets']; differences?: readonly Difference[] } = {},
): ReportBlock[] {
  const [first] = runs;
  if (!first) return [];
  const { result } = first;
  const used = result.currencies.flatMap((currency, place) =>
    result.supply.units.some((units, row) => result.supply.currency[row] === place && units > 0)
      ? [{ ...currency, place }]
      : [],
  );
  return [
    ...owning(runs, targets, differences),
    ...used.flatMap(({ name, place }) => wallets(runs, name, place)),
    ...used.flatMap(({ name, place }) => money(runs, name, place)),
  ];
}

const chart = (title: string, picture: Extract<ReportBlock, { kind: 'chart' }>['picture']): ReportBlock => ({
  kind: 'chart',
  title,
  picture,
});

/** Who owns what by day: of things that targets name, with the days that are wanted; otherwise of those that most own. */
function owning(
  runs: readonly NamedResult[],
  targets: NonNullable<EconomyDocument['targets']>,
  differences: readonly Difference[],
): ReportBlock[] {
  const { items, personas, days, targets: rows } = runs[0]!.result;
  const wanted = rows.flatMap(({ id }) => {
    const { measure, item, persona, from = 1, to = days } = targets[id] ?? {};
    if (measure !== 'days-to-own' || item === undefined) return [];
    return personas
      .filter((one) => persona === undefined || one.id === persona)
      .map((one) => ({ item, persona: one.id, who: one.name, window: [from, to] as const }));
  });
  const most = items.item
    .map((item, row) => ({ item, row, share: items.share[row]!.at(-1) ?? 0 }))
    .filter(({ share }) => share > 0 && share < 1)
    .sort((a, b) => b.share - a.share)
    .map(({ item, row }) => {
      const { id, name } = personas[items.persona[row]!]!;
      return { item, persona: id, who: name, window: undefined };
    });
  const told = differences.filter(({ distinguishable }) => distinguishable);
  const differing = most.filter(({ item, who }) =>
    told.some(({ persona, subject }) => persona === who && subject === items.name[items.item.indexOf(item)]),
  );
  const shown = [wanted, differing, most].find((one) => one.length > 0) ?? [];
  return shown.slice(0, Math.max(MOST_THINGS, wanted.length)).map(({ item, persona, who, window }) => {
    const name = items.name[items.item.indexOf(item)] ?? item;
    const lines = runs.map((run): LineDrawn => ({
      name: run.name,
      values: shareRow(run.result, item, persona).map((share) => 100 * share),
    }));
    return chart(`${who} with ${name}, % by day`, linesDrawn(lines, days, { step: true, window, most: 100 }));
  });
}

function wallets(runs: readonly NamedResult[], currency: string, place: number): ReportBlock[] {
  const { personas, days } = runs[0]!.result;
  return personas.map(({ name }, persona) =>
    chart(
      `${name}: ${currency} held`,
      linesDrawn(
        runs.map(({ name: run, result }, at): LineDrawn => {
          const rows = bandRows(result, persona, place);
          const byDay = <T>(pick: (row: (typeof rows)[number]) => T): (T | null)[] => {
            const values = new Array<T | null>(days).fill(null);
            for (const row of rows) values[row.day - 1] = pick(row);
            return values;
          };
          return {
            name: run,
            values: byDay(({ median }) => median),
            ...(at === 0 ? { bands: [byDay(({ most }) => most), byDay(({ half }) => half)] } : {}),
          };
        }),
        days,
      ),
    ),
  );
}

function money(runs: readonly NamedResult[], currency: string, place: number): ReportBlock[] {
  const { result } = runs[0]!;
  const { causes, rows } = flowDays(result, place);
  const bars = payBars(result, place).map(({ name, pay }) => ({ name, value: pay }));
  const lines = (values: (one: SimulationResult) => (number | null)[]): LineDrawn[] =>
    runs.map(({ name, result: one }) => ({ name, values: values(one) }));
  const prices = lines((one) => priceRows(one, place));
  return [
    ...(causes.length > 0
      ? [
          chart(
            `${currency} in and out, by day and player${runs.length > 1 ? `: ${runs[0]!.name}` : ''}`,
            stackDrawn(causes, rows),
          ),
        ]
      : []),
    chart(
      `${currency} held by a player on average`,
      linesDrawn(
        lines((one) => supplyRows(one, place)),
        result.days,
      ),
    ),
    ...(prices.some(({ values }) => values.some((value) => value !== null && value !== 100))
      ? [chart(`Prices in ${currency}, % of the first day's`, linesDrawn(prices, result.days))]
      : []),
    ...(bars.length > 0 ? [chart(`${currency} a minute, by activity`, barsDrawn(bars))] : []),
  ];
}
