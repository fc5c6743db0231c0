/** What owned items produce over time, until it is collected. */
import { MAX_UNITS } from '../amount/index.js';
import { itemYields } from '../economy/index.js';
import type { Economy, Item } from '../economy/index.js';
import { counterKey } from './counters.js';
import type { Counters } from './counters.js';
import { playerHolds, playerWith } from './state.js';
import type { Player } from './state.js';

type Writable<T> = { -readonly [K in keyof T]: T[K] };

/**
 * Yields gather as units x milliseconds, so that units which come or go in between count for just the time they were
 * owned. Called before stacks change, and before collecting.
 */
export function yieldsSettle(economy: Economy, player: Player, nowMs: number): Player {
  if (economy.yieldingItems.length === 0) return player;
  let counters: Writable<Counters> | undefined;
  for (const { id, yields } of economy.yieldingItems) {
    const units = playerHolds(economy, player, id);
    const counter = player.counters[counterKey.yield(id)];
    if (units === 0 && !counter) continue;
    const elapsed = counter ? Math.max(0, nowMs - counter.startMs) : 0;
    const most = Math.min(units * yields.upTo * yields.everyMs, MAX_UNITS);
    const count = Math.max(counter?.count ?? 0, Math.min((counter?.count ?? 0) + elapsed * units, most));
    (counters ??= { ...player.counters })[counterKey.yield(id)] = {
      count,
      startMs: Math.max(nowMs, counter?.startMs ?? nowMs),
    };
  }
  return counters ? playerWith(player, { counters }) : player;
}

/** How many whole intervals' yield of an item wait to be collected, and the player without them. */
export function yieldTake(
  economy: Economy,
  player: Player,
  item: Item,
  nowMs: number,
): { player: Player; times: number } {
  const settled = yieldsSettle(economy, player, nowMs);
  const counter = settled.counters[counterKey.yield(item.id)];
  const yields = itemYields(item);
  if (!counter || !yields) return { player: settled, times: 0 };
  const times = Math.floor(counter.count / yields.everyMs);
  const left = { ...counter, count: counter.count - times * yields.everyMs };
  const counters = { ...settled.counters, [counterKey.yield(item.id)]: left };
  return { player: playerWith(settled, { counters }), times };
}
