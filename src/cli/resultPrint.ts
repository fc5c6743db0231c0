/** A result of a simulation as a designer reads it in a terminal. */
import { countText } from '../core/issue/index.js';
import { unitsFormat } from '../core/amount/index.js';
import {
  MARK_SIGNS,
  dayShown,
  flowSums,
  markText,
  moneyRows,
  offerSums,
  payRows,
  targetBounds,
  targetDecides,
  targetFigure,
  unplayedTexts,
} from '../core/simulation/index.js';
import type { SimulationResult } from '../core/simulation/index.js';
import { printTable } from './output.js';
import { sparkline } from './sparkline.js';
import { colors, print } from './print.js';

type Cells = (string | number)[];

export function printResult(result: SimulationResult, run?: number): void {
  const { totals, personas, days, name, seed } = result;
  const players = personas.reduce((sum, persona) => sum + persona.players, 0);
  print(
    `${colors.bold(name)}${run === undefined ? '' : ` (run ${run})`}: ${countText(players, 'player')}, ${countText(days, 'day')}, seed ${seed}; ${countText(totals.events, 'event')}, ${countText(totals.purchases, 'purchase')}`,
  );
  if (result.targets.length > 0) {
    section('Targets', 'with 95% intervals');
    printTable(['', 'target', 'wanted', 'in this run', 'to decide it'], targetCells(result));
  }
  const unplayed = unplayedTexts(result);
  if (unplayed.length > 0) {
    section('Not played', 'figures leave it out');
    for (const text of unplayed) print(text);
  }
  section('Wallets on the last day', '5th, 50th and 95th percentile');
  printTable(
    ['persona', 'players left', 'currency', 'p5', 'median', 'p95', 'mean', ...(isTerminal ? ['median by day'] : [])],
    lastBalances(result),
  );
  section('Money', 'all that is held at the end of the first and the last day; 0 in Gini is even, 1 is all with one');
  printTable(['currency', 'day 1', `day ${days}`, 'Gini', 'prices', 'dropped at caps'], money(result));
  section('Money in and out', 'all players, all days');
  printTable(['currency', 'way', 'by', 'sum', 'share'], topFlows(result));
  section('Pay', 'by minute of play, with 95% interval');
  printTable(['activity', 'persona', 'currency', 'plays', 'a minute'], pay(result));
  section('Days until owned', 'median day; the first is day 1; players who leave are not counted as never');
  printTable(['item', 'persona', 'could pay on', 'owners', 'median', '95% interval'], owned(result));
  section('Nothing left to want', 'median day on which all is owned that a persona saves for');
  printTable(['persona', 'wants', 'have it all', 'median', '95% interval'], dry(result));
  if (result.goals) {
    section('Goals', 'median day on which they are reached first');
    printTable(['goal', 'persona', 'reached', 'median', '95% interval'], goalCells(result, result.goals));
  }
  if (result.heights) {
    section('Levels', 'on the last day, of players who are left');
    printTable(['track', 'persona', 'p5', 'median', 'p95'], heightCells(result, result.heights));
  }
  section('Offers');
  printTable(
    ['offer', 'bought', 'by players', 'first day', 'sold out', 'wanted but refused (player-days)'],
    offers(result),
  );
}

function section(title: string, more?: string): void {
  print(`\n${colors.bold(title)}${more === undefined ? '' : ` (${more})`}`, { kind: 'heading', text: title, more });
}

/** Lines of blocks are for eyes: what reads a pipe has the numbers. */
const isTerminal = process.stdout.isTTY === true;

const mediansOf = ({ balances }: SimulationResult, persona: number, currency: number): number[] =>
  balances.p50.flatMap((median, row) =>
    balances.persona[row] === persona && balances.currency[row] === currency ? [median ?? 0] : [],
  );

const whole = (units: number, decimals: number): string => unitsFormat(Math.round(units), decimals);
const dayCell = (day: number | null, none: string): string | number => (day === null ? none : dayShown(day));
const percent = (share: number): string => `${(100 * share).toFixed(1)}%`;
/** Of a few players no figure says much. */
const FEW = 30;
const count = (happened: number, n: number): string => `${happened} of ${n}${n < FEW ? ' (few)' : ''}`;

const between = (low: number | null, high: number | null): string =>
  low === null ? 'later' : `${dayShown(low)} to ${dayCell(high, 'later')}`;

const goalCells = ({ personas }: SimulationResult, goals: NonNullable<SimulationResult['goals']>): Cells[] =>
  goals.name.map((name, row) => {
    const { n, happened, median, medianLow, medianHigh } = goals.reached;
    return [
      name,
      personas[goals.persona[row]!]!.name,
      count(happened[row]!, n[row]!),
      dayCell(median[row]!, 'later'),
      between(medianLow[row]!, medianHigh[row]!),
    ];
  });

const heightCells = (
  { personas, days }: SimulationResult,
  { day, name, persona, p5, p50, p95 }: NonNullable<SimulationResult['heights']>,
): Cells[] =>
  name.flatMap((track, row) =>
    day[row] === days - 1
      ? [[track, personas[persona[row]!]!.name, ...[p5, p50, p95].map((column) => column[row] ?? '-')]]
      : [],
  );

/** How a run stands to its targets, a row for each. */
export const targetCells = ({ targets, currencies }: Pick<SimulationResult, 'targets' | 'currencies'>): Cells[] =>
  targets.map((row) => [
    `${MARK_SIGNS[row.mark]} ${markText(row)}`,
    row.name,
    targetBounds(row, currencies),
    targetFigure(row, currencies),
    targetDecides(row),
  ]);

function lastBalances(result: SimulationResult): Cells[] {
  const { balances, personas, currencies, days } = result;
  return balances.day.flatMap((day, row) => {
    if (day !== days - 1) return [];
    const currency = currencies[balances.currency[row]!]!;
    const show = (value: number | null) => (value === null ? '-' : whole(value, currency.decimals));
    return [
      [
        personas[balances.persona[row]!]!.name,
        balances.n[row]!,
        currency.name,
        show(balances.p5[row]!),
        show(balances.p50[row]!),
        show(balances.p95[row]!),
        show(balances.mean[row]!),
        ...(isTerminal ? [sparkline(mediansOf(result, balances.persona[row]!, balances.currency[row]!))] : []),
      ],
    ];
  });
}

const money = (result: SimulationResult): Cells[] =>
  moneyRows(result).map(({ currency, first, last, decimals, gini, prices, dropped }) => [
    currency,
    whole(first, decimals),
    whole(last, decimals),
    gini,
    prices,
    whole(dropped, decimals),
  ]);

/** The five largest ways in and out of each currency. */
function topFlows(result: SimulationResult): Cells[] {
  const rows: Cells[] = [];
  for (const [currency, { name, decimals }] of result.currencies.entries()) {
    for (const direction of ['in', 'out'] as const) {
      const sums = flowSums(result, currency, direction);
      const total = sums.reduce((sum, { units }) => sum + units, 0);
      for (const { cause, units } of sums.slice(0, 5))
        rows.push([name, direction, cause, whole(units, decimals), percent(units / total)]);
    }
  }
  return rows;
}

const pay = (result: SimulationResult): Cells[] =>
  payRows(result).map(({ activity, persona, currency, plays, perMinute }) => [
    activity,
    persona,
    currency,
    plays,
    perMinute,
  ]);

function owned({ items, personas }: SimulationResult): Cells[] {
  const { owned: own, afforded } = items;
  return items.item.flatMap((_, row) =>
    own.happened[row]! > 0
      ? [
          [
            items.name[row]!,
            personas[items.persona[row]!]!.name,
            afforded.happened[row] === 0 ? '-' : dayCell(afforded.median[row]!, 'later'),
            count(own.happened[row]!, own.n[row]!),
            dayCell(own.median[row]!, '-'),
            between(own.medianLow[row]!, own.medianHigh[row]!),
          ],
        ]
      : [],
  );
}

const dry = ({ dry: table, personas }: SimulationResult): Cells[] =>
  table.persona.map((persona, row) => [
    personas[persona]!.name,
    `${table.wants[row]!.length} ${table.wants[row]!.length === 1 ? 'thing' : 'things'}`,
    count(table.happened[row]!, table.n[row]!),
    dayCell(table.median[row]!, '-'),
    between(table.medianLow[row]!, table.medianHigh[row]!),
  ]);

const offers = (result: SimulationResult): Cells[] =>
  offerSums(result).map(({ name, times, players, of, firstDay, soldOutShare, refused }) => [
    name,
    times,
    players === 0 ? 0 : `${players} (${percent(players / of)})`,
    dayCell(firstDay, '-'),
    soldOutShare === null ? '' : percent(soldOutShare),
    Object.entries(refused)
      .map(([code, times]) => `${code} ${times}`)
      .join(', '),
  ]);
