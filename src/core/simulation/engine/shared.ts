/** Stock that all players share: the one thing that connects the players of a run. */
import type { Level } from '../../schedule/index.js';
import { levelSince, sinceOf } from './crowd.js';
import type { Slots } from './slots.js';

export interface SharedStock {
  /** A day begins. */
  dayBegins(startMs: number): void;
  /** A player's session begins, planned for `startMs`: all before it are over in this block. */
  sessionBegins(startMs: number): void;
  /** All sessions of the day are over. */
  dayEnds(): void;
  /** What is left; undefined while it is untouched. */
  get(stock: number): Level | undefined;
  set(stock: number, level: Level): void;
}

const nothing = (): void => undefined;

/** For one block that plays all players: nobody else touches it. `levels` is what is left. */
export function ownStocks(levels: (Level | undefined)[] = []): SharedStock {
  return {
    dayBegins: nothing,
    sessionBegins: nothing,
    dayEnds: nothing,
    get: (stock) => levels[stock],
    set: (stock, level) => {
      levels[stock] = level;
    },
  };
}

/** What blocks on several threads share: how far into the day each is, and what is left of each stock. */
export interface SharedMemory {
  positions: SharedArrayBuffer;
  levels: SharedArrayBuffer;
}

const BEFORE = -(2 ** 31);
const AFTER = 2 ** 31 - 1;
/** A block waits for another most often for less than it takes to fall asleep. */
const SPINS = 2000;
const ASLEEP_MS = 1;

export const sharedMemory = ({ sharedStocks }: Slots, blocks: number): SharedMemory => ({
  positions: new SharedArrayBuffer(blocks * Int32Array.BYTES_PER_ELEMENT),
  levels: new SharedArrayBuffer(sharedStocks * 2 * Float64Array.BYTES_PER_ELEMENT),
});

/** Before any block begins the next day. */
export function dayOpens({ positions }: SharedMemory): void {
  const all = new Int32Array(positions);
  for (let block = 0; block < all.length; block++) Atomics.store(all, block, BEFORE);
}

/**
 * For one of several blocks, in the order of their players. Whoever looks at shared stock waits until every session that
 * comes before in the order (start, player, number) is over in all blocks: what comes of a run is the same for any number
 * of them.
 */
export function stocksBetween({ positions, levels }: SharedMemory, block: number): SharedStock {
  const all = new Int32Array(positions);
  const left = new Float64Array(levels);
  let dayStartMs = 0;
  let mine = BEFORE;
  const move = (position: number): void => {
    mine = position;
    Atomics.store(all, block, position);
    Atomics.notify(all, block);
  };
  const isBehind = (other: number, position: number): boolean =>
    position < mine || (position === mine && other < block);
  const waitTurn = (): void => {
    for (let other = 0; other < all.length; other++) {
      if (other === block) continue;
      for (let spins = 0; ; spins++) {
        const position = Atomics.load(all, other);
        if (!isBehind(other, position)) break;
        if (spins > SPINS) Atomics.wait(all, other, position, ASLEEP_MS);
      }
    }
  };
  return {
    dayBegins: (startMs) => {
      dayStartMs = startMs;
    },
    sessionBegins: (startMs) => move(Math.max(BEFORE + 1, Math.min(AFTER - 1, startMs - dayStartMs))),
    dayEnds: () => move(AFTER),
    get: (stock) => {
      waitTurn();
      // One more than there is, so that 0 is untouched.
      return left[2 * stock] === 0
        ? undefined
        : { units: left[2 * stock]! - 1, sinceMs: levelSince(left[2 * stock + 1]!) };
    },
    set: (stock, { units, sinceMs }) => {
      left[2 * stock] = units + 1;
      left[2 * stock + 1] = sinceOf(sinceMs);
    },
  };
}
