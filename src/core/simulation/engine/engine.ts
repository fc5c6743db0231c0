/** Plays a run with the engine, in one block. */
import { ResultMaker } from '../maker.js';
import type { Simulator } from '../reference.js';
import type { SimulationResult } from '../result.js';
import { crowdSize } from '../scenario.js';
import type { RunSetup } from '../scenario.js';
import { Block } from './block.js';
import { ownStocks } from './shared.js';
import { slotsMake } from './slots.js';
import { TOTAL } from '../tally.js';

/** A day at a time, between which whoever drives it may do something else, or leave it. `onPart` is told of days and parts of them. */
export function* simulateDays(
  setup: RunSetup,
  onPart: (days: number) => void = () => undefined,
): Generator<number, SimulationResult, undefined> {
  const slots = slotsMake(setup);
  const maker = new ResultMaker(setup, slots);
  const block = new Block(setup, slots, { from: 0, to: crowdSize(setup) }, ownStocks());
  for (let day = 0; day < setup.days; day++) {
    const { tally, holdings } = block.day(day, (share) => onPart(day + share));
    maker.dayEnds(day, tally, holdings);
    yield day + 1;
  }
  const { tally, ends } = block.end();
  return maker.result(tally, ends);
}

/** O(players x days x sessions x offers), without a state of its own for each day. */
export const simulateEngine: Simulator = (setup, { onProgress } = {}) => {
  const days = simulateDays(setup, onProgress);
  let day = days.next();
  while (!day.done) {
    onProgress?.(day.value);
    day = days.next();
  }
  return day.value;
};

/** What the players of a run did, counted: by activity and by offer, of those that came up at all. */
export interface RunCounts {
  playerDays: number;
  sessions: number;
  plays: Record<string, number>;
  bought: Record<string, number>;
}

/** Plays a run for its counts alone. */
export function simulateCounts(setup: RunSetup): RunCounts {
  const slots = slotsMake(setup);
  const block = new Block(setup, slots, { from: 0, to: crowdSize(setup) }, ownStocks());
  for (let day = 0; day < setup.days; day++) block.day(day);
  const { totals, plays, times } = block.end().tally;
  const counted = (ids: readonly string[], column: Float64Array): Record<string, number> => {
    const counts: Record<string, number> = {};
    column.forEach((count, at) => {
      const id = ids[at % ids.length]!;
      if (count > 0) counts[id] = (counts[id] ?? 0) + count;
    });
    return counts;
  };
  return {
    playerDays: totals[TOTAL.playerDays]!,
    sessions: totals[TOTAL.sessions]!,
    plays: counted([...slots.activities.keys()], plays),
    bought: counted(
      slots.deals.map(({ offer }) => offer.id),
      times,
    ),
  };
}
