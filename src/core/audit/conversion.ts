/** One way to turn some assets into others: what money loops are made of. */
import type { Opening } from '../schedule/index.js';

/** `takes` and `gives` in smallest units for one time; `gives` of a box is what it gives on average. */
export interface Conversion {
  words: string;
  pointer: string;
  takes: readonly [string, number][];
  gives: readonly [string, number][];
  /** What keeps it from being done without end, in words. */
  limits: string[];
  /** By chance, so that it pays only on average. */
  chance: boolean;
  /** A purchase: what it takes is money of a kind, so a circle may begin with it. */
  buys: boolean;
  /** It can be done while all of these are open. */
  opens: readonly Opening[];
  /** Goals and tracks that pay for it as well, by pointer. */
  rewards: readonly string[];
}
