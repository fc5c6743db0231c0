/** What players work towards, compiled: goals and levels, teams and rankings. */
import type { Basket, Fraction, Units } from '../amount/index.js';
import type { Formula, Value } from '../formula/index.js';
import type { Limit } from '../schedule/index.js';

/** What brings a goal nearer. `by` is 1 where it is left out. */
export type GoalCounts =
  | { kind: 'events'; event: string; when: Formula | undefined; by: number | Formula }
  | { kind: 'purchases'; offers: ReadonlySet<string> }
  | { kind: 'earned' | 'spent'; currency: string }
  | { kind: 'owned'; items: ReadonlySet<string>; distinct: boolean }
  | { kind: 'attribute'; attribute: string };

export interface Goal {
  id: string;
  name: string;
  description: string | undefined;
  counts: GoalCounts;
  /** In smallest units where it counts money. */
  target: number;
  /** How long what is counted counts, and within what it can be reached once. */
  period: Limit;
  after: string | undefined;
  /** A part of its target: players see it from there on. */
  shownFrom: number;
  gives: Basket;
  loot: string | undefined;
  share: Share;
  sets: ReadonlyMap<string, Value>;
}

/** What members of a team work towards together: it adds up what each of them does, and pays the team. */
export interface TeamGoal extends Goal {
  /** Its kind. */
  team: string;
  counts: Exclude<GoalCounts, { kind: 'owned' | 'attribute' }>;
}

/** The part of money that goes to the team of each kind. */
export type Share = ReadonlyMap<string, Fraction>;

export interface TeamKind {
  id: string;
  name: string;
  description: string | undefined;
  /** Members at most. */
  most: number;
}

/** What places are given by; of an amount earned and of a goal only what was counted in this period. */
export type RankedBy =
  | { kind: 'balance'; currency: string }
  | { kind: 'earned'; currency: string; period: Limit }
  | { kind: 'goal'; goal: string; money: string | undefined; period: Limit };

export interface Ranking {
  id: string;
  name: string;
  description: string | undefined;
  /** Who has places: players, or the teams of a kind. */
  of: { kind: 'players' } | { kind: 'teams'; team: string };
  by: RankedBy;
}

/** A level with what must have been earned in all to reach it. */
export interface TrackLevel {
  level: number;
  costs: Units;
  from: Units;
  gives: Basket;
}

export interface Track {
  id: string;
  name: string;
  currency: string;
  attribute: string;
  /** Where new players are. */
  start: number;
  /** The lowest first. */
  levels: readonly TrackLevel[];
}
