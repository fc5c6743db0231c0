/** How a run stands to the targets of its economy. How each measure is worked out is told in docs/method.md. */
import { MEASURES } from '../document/index.js';
import type { Target } from '../economy/index.js';
import { priceChange } from './priceChange.js';
import type { Step } from './engine/slots.js';
import type { RunSetup } from './scenario.js';
import type { SimulationResult, TargetRow } from './result.js';
import jstat from 'jstat';
import {
  Lives,
  Z95,
  fewestForPercentile,
  meanOfSums,
  partWithInterval,
  percentileWithInterval,
  quotientOf,
  ratioWithInterval,
  survivalEstimate,
  tidy,
  tidyOrNone,
} from './statistics.js';
import type { Mean, Survival } from './statistics.js';

/** What is measured on, before it is judged. */
export type Measurable = Omit<SimulationResult, 'targets'>;

/** Over how many days at the end of a run its net flow is looked at. */
const FLOW_DAYS = 7;

/** Targets that are meant for the scenario. */
export const targetsOf = ({ economy, scenarioId }: Pick<RunSetup, 'economy' | 'scenarioId'>): Target[] =>
  [...economy.targets.values()].filter(({ scenario }) => scenario === undefined || scenario === scenarioId);

/** Ends of days, from 0, at which what each player holds must be kept for the targets. */
export function walletDays(setup: RunSetup): { currency: string; day: number }[] {
  const last = setup.days - 1;
  const wanted = targetsOf(setup).flatMap((target) => {
    if (target.measure === 'wallet') return [{ currency: target.currency, day: (target.day ?? setup.days) - 1 }];
    if (target.measure !== 'net-flow') return [];
    return [flowStart(setup.days), last].map((day) => ({ currency: target.currency, day }));
  });
  const distinct = new Map(wanted.map((one) => [`${one.currency} ${one.day}`, one]));
  return [...distinct.values()].filter(({ day }) => day >= 0 && day <= last);
}

/** The end of the day, from 0, from which on the net flow is looked at. */
const flowStart = (days: number): number => Math.max(0, days - 1 - FLOW_DAYS);

/** One bound of a target: how far the figure is on the good side of it (below 0 where it is missed), with its interval. */
interface Edge {
  side: 'under' | 'over';
  margin: number;
  least: number | null;
  most: number | null;
  /** Of days: how many they are beyond the bound, as a part of it, up to 1. */
  late?: number;
  /** The bound lies behind the run's last day. */
  unseen?: boolean;
}

/** A figure, with the bounds that it is held against. */
export interface TargetFigure {
  value: number | null;
  low: number | null;
  high: number | null;
  n: number;
  edges: Edge[];
}
type Measured = TargetFigure | { why: string };

/** Every target that is meant for the run, in the order written. */
export const targetsJudge = (targets: readonly Target[], result: Measurable): TargetRow[] =>
  targets.map((target) => targetRow(target, result, targetMeasure(target, result, membersOf(target, result))));

/** The players that a target is about, by their place in the run. */
export function membersOf({ persona }: Pick<Target, 'persona'>, { personas, players }: Measurable): Int32Array {
  const wanted = personas.findIndex(({ id }) => id === persona);
  const all = Int32Array.from(players.persona.keys());
  return persona === undefined ? all : all.filter((player) => players.persona[player] === wanted);
}

/**
 * The figure of a target over some players of a run, each as often as it is listed, so that players can be drawn again
 * and again from them. `why` where there is nothing to measure. O(players + days).
 */
export function targetMeasure(target: Target, result: Measurable, members: Int32Array): Measured {
  if (members.length === 0) return { why: 'nobody of that persona plays in this run' };
  const day = 'day' in target ? target.day : undefined;
  if (day !== undefined && day > result.days) return { why: `the run has ${result.days} days only` };
  const figure = FIGURES[target.measure](target as never, result, members);
  if ('why' in figure) return figure;
  if (figure.mean === null && figure.edges === undefined) return { why: 'there was nothing to measure' };
  const { mean: value, low, high, n } = figure;
  return { value, low, high, n, edges: figure.edges ?? edgesOf(target, figure as Told) };
}

type Told = Mean & { mean: number };
type Figure = (Mean & { edges?: Edge[] }) | { why: string };
type Of<M, T = Target> = T extends { measure: infer N } ? (M extends N ? T : never) : never;
type Work<M extends Target['measure']> = (target: Of<M>, result: Measurable, members: Int32Array) => Figure;

const times = (mean: Mean, factor: number): Mean => {
  const scaled = (value: number | null): number | null => value && value * factor;
  return { mean: scaled(mean.mean), low: scaled(mean.low), high: scaled(mean.high), n: mean.n };
};

const currencyOf = ({ currencies }: Measurable, id: string): number => currencies.findIndex((one) => one.id === id);

const FIGURES: { [M in Target['measure']]: Work<M> } = {
  'days-to-own': (target, result, members) => daysUntil(target, result, members, result.players.ownedDay[target.item]),
  'days-to-afford': (target, result, members) =>
    daysUntil(target, result, members, result.players.affordedDay[target.item]),

  'days-to-goal': (target, result, members) =>
    daysUntil(target, result, members, result.players.goalDay?.[target.goal]),

  'days-to-level': (target, result, members) =>
    daysUntil(target, result, members, result.players.levelDay?.[levelKey(target)]),

  owners: ({ item, day }, result, members) => {
    const at = (day ?? result.days) - 1;
    const { share, shareLow, shareHigh, n } = waiting(result, members, result.players.ownedDay[item]);
    return times({ mean: share[at]!, low: shareLow[at]!, high: shareHigh[at]!, n }, 100);
  },

  wallet: ({ currency, day, percentile }, result, members) => {
    const scale = 10 ** result.currencies[currencyOf(result, currency)]!.decimals;
    const held = walletOf(result, currency, (day ?? result.days) - 1);
    const there = members.filter((player) => held[player] !== null);
    return times(
      percentileWithInterval(Float64Array.from(there, (player) => held[player]!).sort(), percentile),
      1 / scale,
    );
  },

  'net-flow': ({ currency }, result, members) => {
    const [start, end] = [flowStart(result.days), result.days - 1];
    if (start === end) return { why: 'a run of one day shows no flow' };
    const [before, after] = [walletOf(result, currency, start), walletOf(result, currency, end)];
    const added: number[] = [];
    const held: number[] = [];
    for (const player of members) {
      const [units, now] = [before[player]!, after[player]!];
      // Who is not there at both ends shows no flow.
      if (units === null || now === null) continue;
      added.push((now - units) / (end - start));
      held.push((now + units) / 2);
    }
    return times(ratioWithInterval(added, held), 100);
  },

  refused: ({ reason }, result, members) => {
    const days = result.players.reasonDays[reason];
    if (!days) return { why: `there is no reason "${reason}"` };
    const of = (column: readonly number[]) => Float64Array.from(members, (player) => column[player]!);
    return times(partWithInterval(of(days), of(result.players.shopDays)), 100);
  },

  pay: ({ activity, than, currency, persona }, result) => {
    const one = payOf(result, activity, currency, persona);
    return quotientOf(one, payOf(result, than, currency, persona));
  },

  prices: ({ currency }, { prices, currencies }, members) => {
    const index = prices.index.filter((_, row) => currencies[prices.currency[row]!]!.id === currency);
    const n = members.length;
    const change = priceChange(index);
    if (!change) return { mean: null, low: null, high: null, n };
    const rise = 100 * (change.ratio ** (7 / change.days) - 1);
    // Prices move it, not players: there is nothing to be unsure of.
    return { mean: rise, low: rise, high: rise, n };
  },
};

/** What the days of goals and levels are kept by: a goal's id, a level with its track. */
export const stepKey = (step: Step): string =>
  step.kind === 'goal' ? step.goal.id : levelKey({ track: step.track.id, level: step.level });
export const levelKey = ({ track, level }: { track: string; level: number }): string => `${track} ${level}`;

/** By player, null of those who were gone. */
const walletOf = ({ players, currencies }: Measurable, currency: string, day: number): readonly (number | null)[] =>
  players.wallets.find((one) => one.day === day && currencies[one.currency]!.id === currency)!.units;

/** What an activity pays a minute, over the personas that are looked at, by how often each played it. */
function payOf({ activities, currencies, personas }: Measurable, id: string, currency: string, persona?: string): Mean {
  let plays = 0;
  let sum = 0;
  let variance = 0;
  for (const [row, activity] of activities.activity.entries()) {
    if (activity !== id || currencies[activities.currency[row]!]!.id !== currency) continue;
    if (persona !== undefined && personas[activities.persona[row]!]!.id !== persona) continue;
    const [often, pay, high] = [activities.plays[row]!, activities.perMinute[row]!, activities.high[row]!];
    plays += often;
    sum += often * pay;
    variance += high === null ? Infinity : (often * (high - pay)) ** 2;
  }
  if (plays === 0) return meanOfSums(0, 0, 0);
  const [mean, half] = [sum / plays, Math.sqrt(variance) / plays];
  return Number.isFinite(half)
    ? { mean, low: mean - half, high: mean + half, n: plays }
    : { mean, low: null, high: null, n: plays };
}

function waiting(
  { players: { lastDay }, days }: Measurable,
  members: Int32Array,
  dayOf: readonly (number | null)[] | undefined,
  quantile?: number,
): Survival {
  const lives = new Lives(days);
  for (const player of members) lives.add(dayOf?.[player] ?? null, lastDay[player]!);
  return survivalEstimate(lives, quantile);
}

/**
 * Days from 1. Whether so many percent are there by the last day that is well is asked of the share who are there then:
 * it moves with every player, where a day stands still and jumps.
 */
function daysUntil(
  { percentile, from, to }: Pick<Of<'days-to-own'>, 'percentile' | 'from' | 'to'>,
  result: Measurable,
  members: Int32Array,
  dayOf: readonly (number | null)[] | undefined,
): Figure {
  const wanted = percentile / 100;
  const { share, shareLow, shareHigh, median, low, high, n } = waiting(result, members, dayOf, wanted);
  const shown = (day: number | null): number | null => (day === null ? null : day + 1);
  const edges: Edge[] = [];
  if (to !== undefined) {
    // What lies behind the last day is not seen: nothing says that it is missed.
    const at = Math.min(Math.floor(to), result.days) - 1;
    const seen = to < result.days + 1;
    edges.push({
      side: 'over',
      margin: at < 0 ? -1 : share[at]! - wanted,
      least: at < 0 ? -1 : shareLow[at]! - wanted,
      most: at < 0 ? -1 : seen ? shareHigh[at]! - wanted : 1,
      unseen: !seen,
      late: apart(shown(median) ?? result.days + 1, to),
    });
  }
  const before = Math.min(Math.ceil(from ?? 0) - 1, result.days) - 1;
  if (before >= 0)
    edges.push({
      side: 'under',
      margin: wanted - share[before]! - HAIR,
      least: wanted - shareHigh[before]! - HAIR,
      most: wanted - shareLow[before]! - HAIR,
      late: apart(shown(median) ?? from!, from!),
    });
  return { mean: shown(median), low: shown(low), high: shown(high), n, edges };
}

/** How far a day is from a bound, as a part of that bound, up to 1. */
const apart = (day: number, bound: number): number => Math.min(1, Math.abs(day - bound) / bound);

/** Exactly so many percent there before the first good day are too many. */
const HAIR = 1e-9;

function edgesOf({ from, to }: Target, { mean, low, high }: Told): Edge[] {
  const minus = (one: number | null, other: number | null) => (one === null || other === null ? null : one - other);
  return [
    ...(to === undefined
      ? []
      : [{ side: 'over' as const, margin: to - mean, least: minus(to, high), most: minus(to, low) }]),
    ...(from === undefined
      ? []
      : [{ side: 'under' as const, margin: mean - from, least: minus(low, from), most: minus(high, from) }]),
  ];
}

/** By how much a figure counts as one step outside: days are in shares of players already. */
function scaleOf({ measure, from, to }: Target): number {
  if (MEASURES[measure].unit === 'days') return 1;
  if (from !== undefined && to !== undefined && to > from) return to - from;
  return Math.abs(to ?? from ?? 0) || 1;
}

/**
 * How far a figure is outside the bounds of its target, below 0 under them; 0 within. Of days it is the mean of the share
 * of players who lack and of how late it is, so that it falls on the way to the bound even where all players are alike.
 */
export function targetOff(target: Target, { edges }: TargetFigure): number {
  const missed = edges.find(({ margin }) => margin < 0);
  if (!missed) return 0;
  const far = -missed.margin / scaleOf(target);
  const off = missed.late === undefined ? far : (far + missed.late) / 2;
  return missed.side === 'over' ? off : -off;
}

/** How near a figure is to a bound, against how unsure it is: 0 where its interval is clear of them, 1 where it touches one. */
export function targetLean({ edges }: TargetFigure): number {
  let lean = 0;
  for (const { margin, least } of edges) {
    if (margin < 0 || least === null) return 1;
    if (least < 0) lean = Math.max(lean, 1 - margin / (margin - least));
  }
  return lean;
}

function targetRow(target: Target, result: Measurable, figure: Measured): TargetRow {
  const { unit } = MEASURES[target.measure];
  const about = {
    id: target.id,
    name: target.name,
    unit,
    currency: unit === 'money' && 'currency' in target ? currencyOf(result, target.currency) : null,
    from: target.from ?? null,
    to: target.to ?? null,
  };
  if ('why' in figure) return { ...about, mark: 'unknown', why: figure.why };
  const { value, low, high, n, edges } = figure;
  const missed = edges.find(({ most }) => most !== null && most < 0);
  const open = edges.filter(({ least }) => least === null || least < 0);
  const mark = missed ? missed.side : open.length === 0 ? 'met' : 'undecided';
  // Whoever is not there by the run's last day may be there by the bound: however many play, it is not seen.
  if (mark === 'undecided' && open.some(({ unseen, margin }) => unseen && margin < 0))
    return { ...about, mark: 'unknown', why: `the run ends after ${result.days} days, and day ${target.to} is well` };
  return {
    ...about,
    mark,
    value: tidyOrNone(value),
    low: tidyOrNone(low),
    high: tidyOrNone(high),
    n,
    off: tidy(targetOff(target, figure)),
    decides: mark === 'undecided' ? playersToDecide(target, open, result.players.persona.length) : null,
  };
}

const MOST_PLAYERS = 1_000_000;

/** So sure that nine of ten who follow it find it decided, also where it turned out nearer to the bound than it seemed. */
const SURE = 0.92;
/** As many as an interval of few players needs to have both bounds. */
const FEWEST = 30;

/** How many would decide each of the bounds that are open; null where that is more than can be played. */
function playersToDecide(target: Target, edges: readonly Edge[], players: number): number | null {
  let most = target.measure === 'wallet' ? fewestForPercentile(target.percentile) : 0;
  for (const { margin, least, most: upper } of edges) {
    const half = margin >= 0 ? least && margin - least : upper && upper - margin;
    most = Math.max(most, half === null ? Math.max(FEWEST, 2 * players) : players * timesToDecide(margin, half));
  }
  if (!(most <= MOST_PLAYERS)) return null;
  const digits = 10 ** Math.max(0, Math.floor(Math.log10(most)) - 1);
  return Math.ceil(most / digits) * digits;
}

/**
 * By how many times more players a bound is decided with the chance `SURE`, whichever side it then lies on. The figure of
 * this run is unsure itself (normal, around `margin`, by `half` an interval of 95%), and so is that of the next, less by
 * the root of how many more play: found by halving.
 */
function timesToDecide(margin: number, half: number): number {
  const unsure = half / Z95;
  const decided = (times: number): number => {
    const next = unsure / Math.sqrt(times);
    const both = Math.hypot(unsure, next);
    return 1 - jstat.normal.cdf(Z95 * next, margin, both) + jstat.normal.cdf(-Z95 * next, margin, both);
  };
  let [low, high] = [1, 2];
  while (decided(high) < SURE && high < MOST_PLAYERS) high *= 2;
  for (let step = 0; step < 30; step++) {
    const middle = (low + high) / 2;
    if (decided(middle) < SURE) low = middle;
    else high = middle;
  }
  return high;
}
