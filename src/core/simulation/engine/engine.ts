/** Plays a run with the engine, in one block. */
import { ResultMaker } from '../maker.js';
import type { Simulator } from '../reference.js';
import { crowdSize } from '../scenario.js';
import { Block } from './block.js';
import { ownStocks } from './shared.js';
import { slotsMake } from './slots.js';

/** O(players x days x sessions x offers), without a state of its own for each day. */
export const simulateEngine: Simulator = (setup, { onProgress } = {}) => {
  const slots = slotsMake(setup);
  const maker = new ResultMaker(setup, slots);
  const block = new Block(setup, slots, { from: 0, to: crowdSize(setup) }, ownStocks());
  for (let day = 0; day < setup.days; day++) {
    const { tally, holdings } = block.day(day, (share) => onProgress?.(day + share));
    maker.dayEnds(day, tally, holdings);
    onProgress?.(day + 1);
  }
  const { tally, ends } = block.end();
  return maker.result(tally, ends);
};
