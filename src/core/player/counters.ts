/** What is counted for a player, by one kind of key for each thing counted: the only place where these keys are put together. */
import type { Counter } from '../schedule/index.js';

export type CounterKey =
  | `offer ${string} ${string}`
  | `earning ${string} ${string}`
  | `opened ${string}`
  | `yield ${string}`
  | `loot ${string}`
  | `goal ${string}`
  | `reached ${string}`
  | `track ${string}`
  | `level ${string}`;
export type Counters = Readonly<Record<CounterKey, Counter>>;

export const counterKey = {
  /** Purchases of an offer within a limit's period; `lifetime` is always kept, since `bought(offer)` reads it. */
  offer: (offer: string, period: string): CounterKey => `offer ${offer} ${period}`,
  /** Payments of an earning rule within a limit's period, or since its cooldown began. */
  earning: (rule: string, period: string): CounterKey => `earning ${rule} ${period}`,
  /** Boxes of a kind that were opened: what the next one draws is keyed by it. */
  opened: (item: string): CounterKey => `opened ${item}`,
  /** Units x milliseconds gathered of an item's yield, since `startMs`. */
  yield: (item: string): CounterKey => `yield ${item}`,
  /** Openings of a loot table since its guaranteed entry came last. */
  loot: (table: string): CounterKey => `loot ${table}`,
  /** What counts towards a goal, in smallest units where it is money, within its period. */
  goal: (goal: string): CounterKey => `goal ${goal}`,
  /** How often a goal was reached within its period; there is none as long as it never was. */
  reached: (goal: string): CounterKey => `reached ${goal}`,
  /** Smallest units earned on a track. */
  track: (track: string): CounterKey => `track ${track}`,
  /** The highest level of a track that was paid for. */
  level: (track: string): CounterKey => `level ${track}`,
};
