/** What can be done in a rehearsal: each step has one verb, with what it is of. */
import type { Basket } from '../amount/index.js';
import type { Value } from '../formula/index.js';

/** Amounts are in smallest units. `times` is 1 where nothing is written. */
export type RehearsalStep =
  /** An offer; `pay` names one of several prices. */
  | { buy: string; times?: number; pay?: string }
  /** An item, to a shop. */
  | { sell: string; shop: string; times?: number }
  | { use: string; times?: number }
  /** `brings`: the luck in which that comes of it, a currency or an item. */
  | { open: string; times?: number; brings?: string }
  | { collect: string }
  | { event: string; fields?: Readonly<Record<string, Value>>; times?: number; brings?: string }
  /** An activity: what it needs is paid, it takes its minutes, and its events come as they usually do. */
  | { play: string; times?: number; brings?: string }
  | { give: Basket }
  | { take: Basket }
  /** Attributes. */
  | { set: Readonly<Record<string, Value>> }
  /** An ISO 8601 duration, `day` (the same time tomorrow), or `change` (until time alone changes something). */
  | { wait: string }
  /** An instant that is not before the last one, epoch ms. */
  | { until: number };

type KeysOf<T> = T extends unknown ? keyof T : never;
/** What may stand beside a verb. */
type Beside = 'times' | 'pay' | 'shop' | 'fields' | 'brings';
export type Verb = Exclude<KeysOf<RehearsalStep>, Beside>;
export type StepOf<V extends Verb> = Extract<RehearsalStep, Record<V, unknown>>;

/** What each verb takes beside what it is of. */
export const STEP_VERBS: { readonly [V in Verb]: readonly Beside[] } = {
  buy: ['times', 'pay'],
  sell: ['shop', 'times'],
  use: ['times'],
  open: ['times', 'brings'],
  collect: [],
  event: ['fields', 'times', 'brings'],
  play: ['times', 'brings'],
  give: [],
  take: [],
  set: [],
  wait: [],
  until: [],
};
export const VERBS = Object.keys(STEP_VERBS) as readonly Verb[];

/** The verb of a step. */
export const verbOf = (step: RehearsalStep): Verb => VERBS.find((verb) => verb in step)!;
