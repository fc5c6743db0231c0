/** Made-up players, compiled: what they do and when, how they spend, and what a run of theirs is held against. */
import type { Basket } from '../amount/index.js';
import type { Formula, Value } from '../formula/index.js';

/** How a value is drawn for a made-up player; what each means is in `simulation/draw.ts`. */
export type DrawRule =
  | { kind: 'constant'; value: Value }
  | { kind: 'formula'; formula: Formula }
  | { kind: 'range'; from: number; to: number }
  | { kind: 'weights'; values: readonly { value: Value; weight: number }[] }
  /** The player's choice; drawn by weights where nobody chooses for pay. */
  | { kind: 'chosen'; values: readonly { value: Value; weight: number }[] }
  | { kind: 'poisson'; mean: number }
  | { kind: 'normal'; mean: number; deviation: number }
  | { kind: 'lognormal'; mu: number; sigma: number }
  | { kind: 'geometric'; chance: number };

/** Something that made-up players do: it takes time and what it needs, and reports events. */
export interface Activity {
  id: string;
  name: string;
  minutes: number;
  needs: Basket;
  emits: readonly { event: string; fields: readonly { field: string; draw: DrawRule }[] }[];
}

/** When made-up players play. */
export interface Sessions {
  /** How many on a day, Monday first: on average or (`fixed`) each time. */
  perDay: readonly number[];
  fixed: boolean;
  /** How long each is. */
  minutes: number;
  begins: SessionBegins;
}

/** In which hours sessions begin: evenly in so many from one on, or by shares that end, hour by hour, at `upTo` (the last at 1). */
export type SessionBegins =
  | { kind: 'evenly'; fromHour: number; hours: number }
  | { kind: 'hourly'; hours: readonly { hour: number; upTo: number }[] };

export interface Persona {
  id: string;
  name: string;
  attributes: readonly { attribute: string; draw: DrawRule }[];
  sessions: Sessions;
  plays: readonly { activity: Activity; weight: number }[];
  /** The currency for whose pay choices are made; by weights where there is none. */
  playsFor: string | undefined;
  spending: {
    policy: 'wishlist' | 'impulse';
    wishes: readonly string[];
    /** `wishlist`: how many days a side purchase may delay the wish. */
    delayDays: number;
    /** The chance that something affordable is bought on a visit. */
    chance: number;
    /** What is never spent. */
    keeps: Basket;
  };
  /** The chance to leave for good, each day. */
  leaves: number;
}

export interface Scenario {
  id: string;
  name: string;
  startMs: number;
  days: number;
  players: number;
  seed: number | undefined;
  mix: readonly { persona: string; weight: number }[];
}

/** What a target is of, with everything that it needs; `undefined` personas stand for all players. */
export type Measured =
  | { measure: 'days-to-own' | 'days-to-afford'; item: string; percentile: number }
  | { measure: 'days-to-goal'; goal: string; percentile: number }
  | { measure: 'days-to-level'; track: string; level: number; percentile: number }
  | { measure: 'owners'; item: string; day: number | undefined }
  | { measure: 'wallet'; currency: string; percentile: number; day: number | undefined }
  | { measure: 'net-flow'; currency: string }
  | { measure: 'refused'; reason: string }
  | { measure: 'pay'; activity: string; than: string; currency: string }
  | { measure: 'prices'; currency: string };

/** What a run is held against. Bounds are as written, both included: days from 1, percent, display units, times. */
export type Target = Measured & {
  id: string;
  name: string;
  /** The one scenario that it is meant for. */
  scenario: string | undefined;
  persona: string | undefined;
  from: number | undefined;
  to: number | undefined;
};
