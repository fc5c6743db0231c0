/** What is counted for a player, by one kind of key for each thing counted: the only place where these keys are put together. */
import type { Counter } from '../schedule/index.js';

export type CounterKey =
  | `offer ${string} ${string}`
  | `earning ${string} ${string}`
  | `opened ${string}`
  | `yield ${string}`
  | `loot ${string}`;
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
};
