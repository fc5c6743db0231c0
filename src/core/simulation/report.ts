/** What a reader of results wants to know, as data and short texts: the command line and the console show the same. */
import { priceChange } from './priceChange.js';
import type { Difference } from './compare.js';
import type { Choices } from './pay.js';
import type { ScenarioOptions } from './scenario.js';
import type { SimulationResult, TargetRow, UnplayedAct } from './result.js';

export interface FlowSum {
  cause: string;
  /** Smallest units, over all days, players and personas. */
  units: number;
}

/** What came in, or went out, of one currency by cause, largest first. */
export function flowSums({ flows }: SimulationResult, currency: number, direction: 'in' | 'out'): FlowSum[] {
  const sums = new Map<string, number>();
  for (const [row, cause] of flows.cause.entries())
    if (flows.currency[row] === currency && flows.direction[row] === direction)
      sums.set(cause, (sums.get(cause) ?? 0) + flows.units[row]!);
  return [...sums].map(([cause, units]) => ({ cause, units })).sort((a, b) => b.units - a.units);
}

export interface OfferSum {
  id: string;
  name: string;
  times: number;
  players: number;
  /** Of those personas that bought or wanted it. */
  of: number;
  firstDay: number | null;
  /** Part of the run in which stock that all share was sold out; null where there is none. */
  soldOutShare: number | null;
  refused: Readonly<Record<string, number>>;
}

/** What was bought and wanted of each offer, over all personas. */
export function offerSums({ offers, sales, personas }: SimulationResult): OfferSum[] {
  const sums = new Map<string, OfferSum & { refused: Record<string, number> }>();
  for (const [row, offer] of offers.offer.entries()) {
    const sale = sales.offer.indexOf(offer);
    const sum = sums.get(offer) ?? {
      id: offer,
      name: offers.name[row]!,
      times: 0,
      players: 0,
      of: 0,
      firstDay: sales.firstDay[sale] ?? null,
      soldOutShare: sales.soldOutShare[sale] ?? null,
      refused: {},
    };
    sum.times += offers.times[row]!;
    sum.players += offers.players[row]!;
    sum.of += personas[offers.persona[row]!]!.players;
    for (const [code, count] of Object.entries(offers.refused[row]!))
      sum.refused[code] = (sum.refused[code] ?? 0) + count;
    sums.set(offer, sum);
  }
  return [...sums.values()];
}

export const METRIC_WORDS: Readonly<Record<Difference['metric'], string>> = {
  balance: 'wallet at the end',
  owned: 'share who own',
  'days-to-own': 'days to own',
};

type Shown = Pick<Difference, 'metric' | 'decimals'>;

/** A day as people count them, from 1; results count from 0. */
export const dayShown = (day: number): number => day + 1;

/** A figure of a comparison: a wallet in display units, a share in percent, a day. */
export const figureText = (shown: Shown, value: number): string =>
  figure(shown, shown.metric === 'days-to-own' ? dayShown(value) : value);

function figure({ metric, decimals }: Shown, value: number): string {
  if (metric === 'owned') return `${(100 * value).toFixed(1)}%`;
  const shown = value / 10 ** decimals;
  return shown.toFixed(Math.abs(shown) < 1 ? 2 : 1);
}

/** How far two figures are apart; shares differ by points, not by percent. */
export function distanceText(shown: Shown, value: number | null): string {
  return value === null ? '?' : figure(shown, value).replace('%', ' points');
}

const percentText = (share: number): string => `${(100 * share).toFixed(1)}%`;

export interface MoneyRow {
  currency: string;
  /** All that is held at the end of the first day and of the last, smallest units. */
  first: number;
  last: number;
  decimals: number;
  gini: string;
  prices: string;
  dropped: number;
}

/** Each currency as a whole; `-` where there is nothing to say. */
export function moneyRows({ supply, prices, caps, currencies, days }: SimulationResult): MoneyRow[] {
  return currencies.map(({ name, decimals }, currency) => {
    const on = (day: number) => supply.day.findIndex((one, row) => one === day && supply.currency[row] === currency);
    const last = on(days - 1);
    const [gini, low, high] = [supply.gini[last]!, supply.giniLow[last]!, supply.giniHigh[last]!];
    const change = priceChange(prices.index.filter((_, row) => prices.currency[row] === currency));
    return {
      currency: name,
      first: supply.units[on(0)]!,
      last: supply.units[last]!,
      decimals,
      gini:
        gini === null ? '-' : `${gini.toFixed(2)}${low === null ? '' : ` (${low.toFixed(2)} to ${high!.toFixed(2)})`}`,
      prices: change ? `${percentText(change.ratio)}, ${change.words}` : '-',
      dropped: caps.dropped.reduce((sum, units, row) => sum + (caps.currency[row] === currency ? units : 0), 0),
    };
  });
}

export interface PayRow {
  activity: string;
  persona: string;
  currency: string;
  plays: number;
  /** With its interval, in display units. */
  perMinute: string;
}

export function payRows({ activities, personas, currencies }: SimulationResult): PayRow[] {
  return activities.activity.map((_, row) => {
    const { name, decimals } = currencies[activities.currency[row]!]!;
    const show = (units: number) => (units / 10 ** decimals).toFixed(Math.abs(units) < 10 ** decimals ? 4 : 2);
    const [low, high] = [activities.low[row]!, activities.high[row]!];
    return {
      activity: activities.name[row]!,
      persona: personas[activities.persona[row]!]!.name,
      currency: name,
      plays: activities.plays[row]!,
      perMinute: `${show(activities.perMinute[row]!)}${low === null ? '' : ` (${show(low)} to ${show(high!)})`}`,
    };
  });
}

/** What the marks of targets say, and the sign that goes with each, so that colour need not tell them apart. */
export const MARK_WORDS: Readonly<Record<TargetRow['mark'], string>> = {
  met: 'met',
  under: 'too low',
  over: 'too high',
  undecided: 'undecided',
  unknown: 'not measured',
};
export const MARK_SIGNS: Readonly<Record<TargetRow['mark'], string>> = {
  met: '✓',
  under: '↓',
  over: '↑',
  undecided: '?',
  unknown: '–',
};
const EARLY_AND_LATE: Partial<Record<TargetRow['mark'], string>> = { under: 'too early', over: 'too late' };

/** "too late" of days, "too high" of the rest. */
export const markText = ({ mark, unit }: TargetRow): string =>
  (unit === 'days' ? EARLY_AND_LATE[mark] : undefined) ?? MARK_WORDS[mark];

/** Whether a run misses it, beyond doubt. */
export const targetMissed = ({ mark }: TargetRow): boolean => mark === 'under' || mark === 'over';

type Currencies = SimulationResult['currencies'];

/** A number in the unit of a target. */
export function targetNumber({ unit, currency }: TargetRow, currencies: Currencies, value: number): string {
  const shown = Number(value.toFixed(Math.abs(value) < 10 ? 2 : 1));
  switch (unit) {
    case 'days':
      return `day ${shown}`;
    case 'percent':
      return `${shown} %`;
    case 'times':
      return `${shown} times`;
    case 'money':
      return `${shown} ${currencies[currency!]!.name}`;
  }
}

/** What is well: "day 6 to 9", "up to 15 %", "at least 0.33 times". */
export function targetBounds(row: TargetRow, currencies: Currencies): string {
  const { from, to, unit } = row;
  const show = (value: number) => targetNumber(row, currencies, value);
  if (from !== null && to !== null) return unit === 'days' ? `day ${from} to ${to}` : `${from} to ${show(to)}`;
  if (to !== null) return unit === 'days' ? `by ${show(to)}` : `up to ${show(to)}`;
  return unit === 'days' ? `from ${show(from!)} on` : `at least ${show(from!)}`;
}

/** The figure with its interval, or why there is none. */
export function targetFigure(row: TargetRow, currencies: Currencies): string {
  if (row.mark === 'unknown') return row.why;
  const { value, low, high, unit } = row;
  const show = (one: number) => targetNumber(row, currencies, one);
  if (value === null) return low === null ? 'after the run' : `after the run (${show(low)} at the earliest)`;
  if (low === null && high === null) return show(value);
  const bare = (one: number | null) =>
    one === null ? 'later' : String(Number(one.toFixed(Math.abs(one) < 10 ? 2 : 1)));
  return low === high ? show(value) : `${show(value)} (${bare(low)} to ${bare(high)}${unit === 'percent' ? ' %' : ''})`;
}

/** How many players would decide what is undecided. */
export function targetDecides(row: TargetRow): string {
  if (row.mark !== 'undecided') return '';
  return row.decides === null
    ? 'more players would not decide it'
    : `about ${row.decides.toLocaleString('en')} players`;
}

/** Which targets a run misses beyond doubt, in a sentence; undefined where it misses none. */
export function targetsMissedText({
  targets,
  currencies,
}: Pick<SimulationResult, 'targets' | 'currencies'>): string | undefined {
  const missed = targets.filter(targetMissed);
  if (missed.length === 0) return undefined;
  const each = missed.map(
    (row) => `${row.name}: ${targetFigure(row, currencies)}, wanted ${targetBounds(row, currencies)}`,
  );
  return `${missed.length} of ${targets.length} targets missed. ${each.join('; ')}.`;
}

/** A way in words: "difficulty 3". */
export const choicesText = (choices: Choices): string =>
  Object.values(choices)
    .flatMap((fields) => Object.entries(fields).map(([field, value]) => `${field.replace(/_/g, ' ')} ${value}`))
    .join(', ');

/** How a run stands to its targets, in few words: "2 of 3 met, 1 missed"; nothing where it has none. */
export function marksText({ met, missed, open }: { met: number; missed: number; open: number }): string {
  const all = met + missed + open;
  if (all === 0) return '';
  return [`${met} of ${all} met`, ...(missed > 0 ? [`${missed} missed`] : [])].join(', ');
}

/** In what a run is not the scenario on the draft: where it ran, what was set in it, how many played, which luck. */
export const runDiffersText = ({ source, options, differs }: RunAskedFor): string =>
  [
    ...(source === 'draft' ? [] : [`on ${/^\d+$/.test(source) ? `release ${source}` : source}`]),
    ...(differs ?? Object.keys(options.set ?? {})),
    ...(options.players === undefined ? [] : [`${options.players.toLocaleString('en')} players`]),
    ...(options.seed === undefined ? [] : [`seed ${options.seed}`]),
  ].join(', ');

interface RunAskedFor {
  source: string;
  options: ScenarioOptions;
  /** What was set, in words. */
  differs?: readonly string[] | undefined;
}

/** One sentence for each kind, ready to be shown beside the figures. */
export function unplayedTexts({ unplayed }: Pick<SimulationResult, 'unplayed'>): string[] {
  if (!unplayed) return [];
  const of = (act: UnplayedAct): string[] =>
    unplayed.act.flatMap((one, row) => {
      const units = unplayed.units[row];
      return one !== act
        ? []
        : [units === null ? unplayed.name[row]! : `${units!.toLocaleString('en')} ${unplayed.name[row]!}`];
    });
  const words: Readonly<Record<UnplayedAct, (names: string) => string>> = {
    open: (names) => `Bought and never opened: ${names}.`,
    use: (names) => `Bought and never used: ${names}.`,
    collect: (names) => `What these yield is not collected: ${names}.`,
    sell: (names) => `Nothing is sold back: ${names}.`,
    share: (names) => `No share goes to a team, players keep it all: ${names}.`,
    money: (names) => `Offers for real money that nobody buys: ${names}.`,
  };
  return (Object.keys(words) as UnplayedAct[]).flatMap((act) =>
    of(act).length > 0 ? [words[act](of(act).join(', '))] : [],
  );
}
