/** Cases as they are played: amounts in smallest units, instants in epoch ms. */
import type { Value } from '../formula/index.js';
import type { Profile } from '../player/index.js';
import type { RehearsalStep } from '../rehearsal/index.js';

/** Every number from the one to the other, both included. */
export interface Bound {
  from: number;
  to: number;
}

/** What must hold; what is not named may be anything. */
export interface Expectation {
  /** The codes of the refusal; none where it must be allowed. */
  verdict?: readonly string[];
  /** Exactly these currencies. */
  price?: Readonly<Record<string, Bound>>;
  holds?: Readonly<Record<string, Bound>>;
  attributes?: Readonly<Record<string, Value>>;
  levels?: Readonly<Record<string, Bound>>;
  goals?: Readonly<Record<string, 'reached' | 'open'>>;
  shows?: readonly string[];
  hides?: readonly string[];
  /** By language. */
  says?: Readonly<Record<string, string>>;
}

export interface Case {
  id: string;
  name: string;
  atMs: number;
  seed: number;
  profile: Profile;
  steps: readonly RehearsalStep[];
  /** What must hold before any step, and then after each of them; nothing where it is undefined. */
  expects: readonly (Expectation | undefined)[];
}

/** Why a case cannot be played at all. */
export interface CaseProblem {
  pointer: string;
  message: string;
  fix: string;
}
