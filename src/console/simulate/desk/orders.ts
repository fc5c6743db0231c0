/** What the room asks of the thread that plays beside it, and what comes back. */
import type { SensitivityResult, TuneProgress, TuneResult } from '../../../core/balance/index.js';
import type { EconomyDocument } from '../../../core/document/index.js';
import type { TrackLevel } from '../../../core/economy/index.js';
import type { FitResult } from '../../../core/fit/index.js';
import type { BrokenLine, Recorded } from '../../../core/log/index.js';
import type { ReportAbout } from '../../../core/report/index.js';
import type { Ladder, PersonaEarnings } from '../../../core/playtime/index.js';
import type { ReplayResult } from '../../../core/replay/index.js';
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

/** A log as a file, which is read beside the room. */
export interface LogAsked {
  log: Blob;
  /** By the values of this attribute. */
  by?: string;
  /** How many groups are looked for; as many as are apart where it is not said. */
  groups?: number;
  skipBroken: boolean;
}

/** Purchases that were read already. */
export interface RecordedAsked {
  recorded: readonly Recorded[];
  by?: string;
}

/** Lines that cannot be read, the first of `count`. */
export interface LogBroken {
  kind: 'broken';
  lines: readonly BrokenLine[];
  count: number;
}

export interface ReplayRead {
  kind: 'done';
  result: ReplayResult;
  /** For each reason the first purchase that would be refused, in words. */
  examples: string[];
  /** Every purchase with what becomes of it. */
  csv: string;
  skipped: number;
}

export interface FitRead {
  kind: 'done';
  result: FitResult;
  skipped: number;
}

/** Each with the answer that it gets. */
export interface Orders {
  /** A newer one of these ends the one before: that answers with nothing. */
  play: { asked: PlayAsked; answer: SimulationResult };
  levers: { asked: { scenario: string; specs: readonly string[] }; answer: LeverRead[] };
  offered: { asked: null; answer: LeverOffered[] };
  scenario: { asked: PlayAsked; answer: ScenarioRead };
  /** The levels of a track, those by formula as well. */
  levels: { asked: string; answer: readonly TrackLevel[] };
  /** What the levers come to in the document. */
  set: { asked: PlayAsked; answer: Moved[] };
  /** What every way of playing pays, with the levers where they are. */
  ways: { asked: PlayAsked; answer: WayRow[] };
  /** What players of a persona earn who buy nothing, and how long every price on sale takes them. */
  playtime: { asked: { persona: string; startMs: number }; answer: { earnings: PersonaEarnings; ladder: Ladder } };
  compare: { asked: readonly SimulationResult[]; answer: Comparison };
  /** A page that opens without the service; the others are held against the run at `against`. */
  report: {
    asked: {
      runs: readonly { name: string; says: string; result: SimulationResult }[];
      against: number;
      about: Omit<ReportAbout, 'seed'>;
    };
    answer: string;
  };
  tune: { asked: SearchAsked; answer: TuneResult };
  sensitivity: { asked: SearchAsked; answer: SensitivityResult };
  replay: { asked: LogAsked | RecordedAsked; answer: ReplayRead | LogBroken };
  fit: { asked: LogAsked; answer: FitRead | LogBroken };
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
