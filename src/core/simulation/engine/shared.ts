/** Stock that all players share: the one thing that connects the players of a run. */
import type { Level } from '../../schedule/index.js';
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

/** For one block that plays all players: nobody else touches it. */
export function ownStocks({ sharedStocks }: Slots): SharedStock {
  const levels: (Level | undefined)[] = Array.from({ length: sharedStocks }, () => undefined);
  const nothing = (): void => undefined;
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
