/** The playing time of an amount: what earning it takes players of a persona who begin with nothing and buy nothing else. */
import type { Basket } from '../amount/index.js';
import type { AssetEarnings, PersonaEarnings } from './types.js';

/** Minutes with their 95 % interval: the same three times where they are worked out, no bound where a run tells none. */
export interface Minutes {
  mean: number;
  low: number;
  high: number | null;
}

export type PlayingTime =
  | {
      kind: 'earned';
      /** Of play; never less than one play takes on average. */
      minutes: Minutes;
      /** By activity, the one played most first; those that are not played are left out. */
      plays: { activity: string; name: string; times: number }[];
      /**
       * From 1: by its end it is earned, by half of the players where they were played, with the 95 % interval; null
       * where that lies after the days looked at.
       */
      day: { half: number | null; low: number | null; high: number | null };
      /** Worked out: expected, and no run of made-up players. */
      exact: boolean;
      /** It takes longer than the days looked at, and is told by the pace of the last of them. */
      beyond: boolean;
      /** What of it takes longest. */
      asset: string;
    }
  /** It comes by itself, without play. */
  | { kind: 'waits'; ms: number; asset: string }
  /** Play never brings these, or no longer. */
  | { kind: 'never'; assets: string[] }
  | { kind: 'nothing' };

const DAY_MS = 86_400_000;
/** By the pace of so many last days it is told how it goes on; whole weeks, since weekdays differ. */
const PACE_DAYS = 14;

/**
 * Of several assets, which the same play brings side by side, the one that takes longest. An item that is had sooner
 * for its worth is counted as that.
 */
export function playingTime(earnings: PersonaEarnings, basket: Readonly<Basket>): PlayingTime {
  const asked = Object.entries(asMoney(earnings, basket)).filter(([, units]) => units > 0);
  if (asked.length === 0) return { kind: 'nothing' };
  const times = asked.map(([asset, units]) => assetTime(earnings, asset, units));
  const never = times.flatMap((time) => (time.kind === 'never' ? time.assets : []));
  if (never.length > 0) return { kind: 'never', assets: never };
  return times.reduce((longest, time) => (timeOrder(time) > timeOrder(longest) ? time : longest));
}

function asMoney(earnings: PersonaEarnings, basket: Readonly<Basket>): Basket {
  const money: Basket = {};
  const add = (asset: string, units: number): void => {
    money[asset] = (money[asset] ?? 0) + units;
  };
  for (const [asset, units] of Object.entries(basket)) {
    const worth = Object.entries(earnings.worths[asset] ?? {}).map(([one, each]): [string, number] => [
      one,
      each * units,
    ]);
    const bought =
      worth.length === 0 ? Infinity : Math.max(...worth.map(([one, all]) => timeOrder(assetTime(earnings, one, all))));
    if (bought < timeOrder(assetTime(earnings, asset, units))) for (const [one, all] of worth) add(one, all);
    else add(asset, units);
  }
  return money;
}

/** Minutes of play, which playing times are put in order by: waiting costs none, and what play never brings comes last. */
export function timeOrder(time: PlayingTime): number {
  if (time.kind === 'earned') return time.minutes.mean;
  return time.kind === 'never' ? Infinity : 0;
}

function assetTime(earnings: PersonaEarnings, asset: string, units: number): PlayingTime {
  const earned = earnings.assets[asset];
  const refill = earned?.refill;
  if (refill && units <= refill.upTo)
    return { kind: 'waits', ms: Math.ceil(units / refill.units) * refill.everyMs, asset };
  const days = earned && daysFor(earned.mean, units);
  if (days === undefined) return { kind: 'never', assets: [asset] };
  const { mean, played } = earned!;
  const plays = earnings.plays
    .map(({ activity, name, times }) => ({ activity, name, times: columnAt(times, days) }))
    .filter(({ times }) => times > 0)
    .sort((a, b) => b.times - a.times);
  const count = plays.reduce((sum, { times }) => sum + times, 0);
  // What another currency turns into when it ends, say.
  if (count === 0) return { kind: 'waits', ms: Math.ceil(days) * DAY_MS, asset };
  // Nobody plays a part of a race.
  const whole = count < 1 ? 1 / count : 1;
  const minutes = columnAt(earnings.minutes, days) * whole;
  const at = Math.min(Math.ceil(days), mean.length) - 1;
  const rate = mean[at]! / earnings.minutes[at]!;
  const beyond = days > mean.length;
  return {
    kind: 'earned',
    minutes: {
      mean: minutes,
      low: played ? (minutes * rate) / played.rateHigh[at]! : minutes,
      high: played ? (played.rateLow[at]! > 0 ? (minutes * rate) / played.rateLow[at]! : null) : minutes,
    },
    plays: plays.map((play) => ({ ...play, times: play.times * whole })),
    day: beyond ? { half: Math.ceil(days), low: null, high: null } : dayBy(earned!, units),
    exact: !played,
    beyond,
    asset,
  };
}

/** After how many days a player has come to so many units on average, in parts; undefined where it stands still before. */
function daysFor(mean: readonly number[], units: number): number | undefined {
  const day = mean.findIndex((so) => so >= units);
  if (day < 0) {
    const pace = paceOf(mean);
    return pace > 0 ? mean.length + (units - mean.at(-1)!) / pace : undefined;
  }
  const before = mean[day - 1] ?? 0;
  return day + (units - before) / (mean[day]! - before);
}

/** A day of the last ones, on average. */
const paceOf = (column: readonly number[]): number => (column.at(-1)! - column.at(-1 - PACE_DAYS)!) / PACE_DAYS;

/** What a column has come to after so many days, evenly within a day. */
function columnAt(column: readonly number[], days: number): number {
  if (days > column.length) return column.at(-1)! + (days - column.length) * paceOf(column);
  const day = Math.ceil(days) - 1;
  const before = column[day - 1] ?? 0;
  return before + (days - day) * (column[day]! - before);
}

/** The day by whose end it is earned, and the bounds of that. */
function dayBy(
  { mean, played }: AssetEarnings,
  units: number,
): { half: number | null; low: number | null; high: number | null } {
  const first = (column: readonly number[]): number | null => {
    const day = column.findIndex((so) => so >= units);
    return day < 0 ? null : day + 1;
  };
  if (played) return { half: first(played.half), low: first(played.halfHigh), high: first(played.halfLow) };
  const day = first(mean);
  return { half: day, low: day, high: day };
}
