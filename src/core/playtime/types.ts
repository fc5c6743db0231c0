/** What players who buy nothing earn by the end of each day: what the playing time of any price is read from. */
import type { Basket } from '../amount/index.js';

/** Columns by day, from the first: what came by its end. */
export interface PersonaEarnings {
  persona: string;
  name: string;
  /** When the first day begins, epoch ms. */
  startMs: number;
  /** How many were played; 0 where all was worked out. */
  players: number;
  /** Minutes of play of one player, on average. */
  minutes: number[];
  /** How often one player played each activity, on average. */
  plays: { activity: string; name: string; times: number[] }[];
  /** What a piece of an item is worth, where that is said. */
  worths: Record<string, Basket>;
  /** By currency or item; what never comes is not there. */
  assets: Record<string, AssetEarnings>;
}

/** Smallest units by day of one player, more than was held at the start. */
export interface AssetEarnings {
  mean: number[];
  /** Left out where the mean is worked out, and not played. */
  played?: {
    /** Units for each minute of play so far: the 95 % interval of the mean. */
    rateLow: number[];
    rateHigh: number[];
    /** What half of the players had come to, at most so far, with the 95 % interval. */
    half: number[];
    halfLow: number[];
    halfHigh: number[];
  };
  /** Where it comes back by itself: `units` every `everyMs`, up to `upTo`. */
  refill?: { units: number; everyMs: number; upTo: number };
}
