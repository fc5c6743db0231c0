/** What the room asks of the thread that plays beside it, and what comes back. */
import type { SensitivityResult, TuneProgress, TuneResult } from '../../../core/balance/index.js';
import type { EconomyDocument } from '../../../core/document/index.js';
import type { Lever, LeverOffered } from '../../../core/levers/index.js';
import type { Comparison, SimulationResult, WayRow } from '../../../core/simulation/index.js';

/** One run: a scenario with its size, and levers that stand elsewhere than in the draft. */
export interface PlayAsked {
  scenario: string;
  days?: number;
  players?: number;
  seed?: number;
  /** Levers as the address names them, and where each stands. */
  levers: readonly { spec: string; value: number }[];
  /** By persona, where the mix is another than the scenario's. */
  mix?: Record<string, number>;
}

/** A lever with what the draft has, or why it is none. */
export type LeverRead = ({ ok: true; now: number } & Lever) | { ok: false; spec: string; why: string };

/** A scenario that can be played as it is asked for, and what it is. */
export interface ScenarioRead {
  players: number;
  days: number;
  seed: number;
  mix: { persona: string; name: string; weight: number }[];
}

/** A value that would be another in the draft. */
export interface Moved {
  pointer: string;
  words: string;
  before: unknown;
  after: unknown;
}

export interface SearchAsked {
  play: PlayAsked;
  levers: readonly string[];
  targets: readonly string[];
  players: { small: number; full: number };
}

/** Each with the answer that it gets. */
export interface Orders {
  /** A newer one of these ends the one before: that answers with nothing. */
  play: { asked: PlayAsked; answer: SimulationResult };
  levers: { asked: { scenario: string; specs: readonly string[] }; answer: LeverRead[] };
  offered: { asked: null; answer: LeverOffered[] };
  scenario: { asked: PlayAsked; answer: ScenarioRead };
  /** What the levers come to in the document. */
  set: { asked: PlayAsked; answer: Moved[] };
  /** What every way of playing pays, with the levers where they are. */
  ways: { asked: PlayAsked; answer: WayRow[] };
  compare: { asked: readonly SimulationResult[]; answer: Comparison };
  tune: { asked: SearchAsked; answer: TuneResult };
  sensitivity: { asked: SearchAsked; answer: SensitivityResult };
}
export type OrderKind = keyof Orders;

export type Order =
  | { kind: 'document'; document: EconomyDocument }
  /** Whatever is searched for ends with the best so far. */
  | { kind: 'stop' }
  | { [K in OrderKind]: { kind: K; id: number; asked: Orders[K]['asked'] } }[OrderKind];

export type Answer =
  | { kind: 'progress'; id: number; done: number; of: number; best?: TuneProgress['best'] }
  | { kind: 'done'; id: number; answer: Orders[OrderKind]['answer'] }
  /** A newer one came. */
  | { kind: 'left'; id: number }
  | { kind: 'failed'; id: number; why: string };
