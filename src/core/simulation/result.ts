/**
 * What a run gives: columnar data, the same bytes for the same set-up. Days count from 0, the first one's noon being
 * `startMs`'s day; amounts are smallest units; `persona` and `currency` index the lists of the result. Intervals are of
 * 95%; how each figure is made is told in docs/results.md.
 */
import type { TargetUnit } from '../document/index.js';

type Maybe = number | null;

/** Of the structure of results and of the luck that they rest on: raised when either changes. */
export const RESULT_VERSION = 3;

/** `open`, `use`, `collect`: of a thing; `sell`: to a shop; `share`: to teams; `money`: offers for real money. */
export type UnplayedAct = 'open' | 'use' | 'collect' | 'sell' | 'share' | 'money';
/** Columns; `units`: how many were bought; null where it is not about a thing. */
export interface Unplayed {
  act: UnplayedAct[];
  name: string[];
  units: (number | null)[];
}

/** How a run stands to a target. Bounds and figures are as people write them: days from 1, percent, display units, times. */
export type TargetRow = {
  id: string;
  name: string;
  unit: TargetUnit;
  /** Of the money that it is told in, where it is money. */
  currency: Maybe;
  from: Maybe;
  to: Maybe;
} & (
  | { mark: 'unknown'; why: string }
  | {
      /** `under` and `over`: the figure is certainly below or above what is well; `undecided`: it may be either. */
      mark: 'met' | 'under' | 'over' | 'undecided';
      /** Null where it comes to pass after the run for so many. */
      value: Maybe;
      low: Maybe;
      high: Maybe;
      /** How many players it rests on. */
      n: number;
      /** How far outside the bounds, below 0 under them; 0 within. A share of players for days, else relative. */
      off: number;
      /** How many players in the run would decide it, about; null where it is decided, or no number would. */
      decides: Maybe;
    }
);

/** A time in days of those for whom it came to pass, with players who leave or run out of days as not seen to the end. */
interface Waiting {
  /** Players that it rests on, and for how many of them it came to pass. */
  n: number[];
  happened: number[];
  /** Null where fewer than half of them would get there within the run. */
  median: Maybe[];
  medianLow: Maybe[];
  medianHigh: Maybe[];
  /** Over the days of the run: whoever does not get there counts with all of them. */
  mean: Maybe[];
  meanLow: Maybe[];
  meanHigh: Maybe[];
}

export interface SimulationResult {
  version: typeof RESULT_VERSION;
  scenario: string;
  name: string;
  economy: string;
  zone: string;
  seed: number;
  startMs: number;
  days: number;
  personas: { id: string; name: string; players: number }[];
  currencies: { id: string; name: string; decimals: number }[];
  /** One row for each day, persona and currency, at the end of the day; null where nobody is left, and an interval of one player's too. */
  balances: {
    day: number[];
    persona: number[];
    currency: number[];
    p5: Maybe[];
    p25: Maybe[];
    p50: Maybe[];
    p75: Maybe[];
    p95: Maybe[];
    mean: Maybe[];
    meanLow: Maybe[];
    meanHigh: Maybe[];
    n: number[];
  };
  /** One row for each day and currency: what all who are left hold together, and how unevenly (Gini's coefficient). */
  supply: {
    day: number[];
    currency: number[];
    units: number[];
    gini: Maybe[];
    giniLow: Maybe[];
    giniHigh: Maybe[];
    n: number[];
  };
  /** Sums over all players: `in` is what came to players, `out` what left them, by cause such as `earning:race_prize`. */
  flows: {
    day: number[];
    persona: number[];
    currency: number[];
    direction: ('in' | 'out')[];
    cause: string[];
    units: number[];
  };
  /** How often something passed a cap, and how much was dropped. */
  caps: { day: number[]; persona: number[]; currency: number[]; times: number[]; dropped: number[] };
  /** One row for each offer and persona that bought or wanted it. `refused` counts player-days by reason. */
  offers: {
    offer: string[];
    name: string[];
    persona: number[];
    times: number[];
    players: number[];
    /** Of the persona's players, from 0 to 1. */
    share: Maybe[];
    shareLow: Maybe[];
    shareHigh: Maybe[];
    refused: Record<string, number>[];
  };
  /** One row for each offer that was bought at all: the first day, and where players share its stock, when that was first sold out and for how much of the run. */
  sales: {
    offer: string[];
    name: string[];
    times: number[];
    firstDay: number[];
    soldOutMs: Maybe[];
    soldOutShare: Maybe[];
  };
  /** One row for each item and persona that owned or could pay for it. `share[row][day]`: who own it by then. */
  items: {
    item: string[];
    name: string[];
    persona: number[];
    share: number[][];
    owned: Waiting;
    afforded: Waiting;
  };
  /** Where there are goals, one row for each and persona. `share[row][day]`: who have reached it by then. */
  goals?: { goal: string[]; name: string[]; persona: number[]; share: number[][]; reached: Waiting };
  /** Where there are tracks, one row for each level that anybody reached, and persona. */
  levels?: { track: string[]; name: string[]; level: number[]; persona: number[]; reached: Waiting };
  /** Where there are tracks, how high players are at the end of each day, of those who are left. */
  heights?: {
    day: number[];
    track: string[];
    name: string[];
    persona: number[];
    p5: Maybe[];
    p25: Maybe[];
    p50: Maybe[];
    p75: Maybe[];
    p95: Maybe[];
    n: number[];
  };
  /** What all purchases of the run would have cost at each day's prices, against the first prices known: `index`; and what was `spent` on the day. */
  prices: { day: number[]; currency: number[]; index: number[]; spent: number[] };
  /** What an activity pays a minute, in smallest units. */
  activities: {
    activity: string[];
    name: string[];
    persona: number[];
    currency: number[];
    plays: number[];
    perMinute: number[];
    low: Maybe[];
    high: Maybe[];
  };
  /** Days until a persona has all that it wants, by persona; `wants` lists that. */
  dry: { persona: number[]; wants: string[][] } & Waiting;
  /** One row for each player, in a fixed order, so that two runs can be compared player by player. `balance[currency][player]`. */
  players: {
    persona: number[];
    lastDay: number[];
    balance: number[][];
    ownedDay: Record<string, Maybe[]>;
    affordedDay: Record<string, Maybe[]>;
    /** The day on which each reached a goal first; and a level, by `TRACK LEVEL`. */
    goalDay?: Record<string, Maybe[]>;
    levelDay?: Record<string, Maybe[]>;
    /** On how many days each went shopping, and on how many something was refused, by reason: of reasons that targets look at. */
    shopDays: number[];
    reasonDays: Record<string, number[]>;
    /** What each held at the end of days that targets look at; null of who had left. */
    wallets: { currency: number; day: number; units: Maybe[] }[];
  };
  /** What made-up players do not do, though the economy has it; left out where there is nothing. */
  unplayed?: Unplayed;
  /** How the run stands to each target of the economy that is meant for it. */
  targets: TargetRow[];
  totals: { playerDays: number; sessions: number; events: number; purchases: number; movements: number };
}
