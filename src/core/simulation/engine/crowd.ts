/** The players of a run in columns: one row for each player, one column for each slot. */
import type { Stack } from '../../player/index.js';
import type { Value } from '../../formula/index.js';
import type { Counter, Level } from '../../schedule/index.js';
import type { Slots } from './slots.js';

/** Nothing is due, or nothing was taken yet: what `null` and `undefined` are to the live rules. */
const NONE = NaN;
const ABSENT: Stack[] = [];

export class Crowd {
  readonly assets: number;
  readonly counters: number;
  readonly stocks: number;
  /** What is held of each asset, `player * assets + asset`. */
  readonly units: Float64Array;
  /** Since when a currency's refill runs, `player * currencies + currency`; NaN while nothing is due. */
  readonly since: Float64Array;
  /** What came in of each asset, what a player begins with left out. */
  readonly earned: Float64Array;
  /** The day on which each asset was had first; -1 where never. */
  readonly firstDay: Int32Array;
  readonly count: Float64Array;
  readonly countStart: Float64Array;
  readonly stockUnits: Float64Array;
  readonly stockSince: Float64Array;
  /** The last day on which an offer was wanted and refused; -1 where never. */
  readonly refusedDay: Int32Array;
  readonly persona: Int32Array;
  readonly lastDay: Int32Array;
  readonly gone: Uint8Array;
  /** Until when the last session went on: the next begins no sooner. */
  readonly busyUntil: Float64Array;
  /** What every draw of a player is keyed by first. */
  readonly luck: Int32Array;
  readonly keys: string[];
  readonly attributes: Readonly<Record<string, Value>>[] = [];
  /** Stacks of items that expire. */
  readonly timed: Stack[][] = [];

  constructor(
    slots: Slots,
    readonly players: number,
    lastDay: number,
  ) {
    this.assets = slots.assets.length;
    this.counters = slots.counters;
    this.stocks = slots.ownStocks;
    this.units = new Float64Array(players * this.assets);
    this.since = new Float64Array(players * slots.currencies).fill(NONE);
    this.earned = new Float64Array(players * this.assets);
    this.firstDay = new Int32Array(players * this.assets).fill(-1);
    this.count = new Float64Array(players * this.counters);
    this.countStart = new Float64Array(players * this.counters);
    this.stockUnits = new Float64Array(players * this.stocks).fill(NONE);
    this.stockSince = new Float64Array(players * this.stocks).fill(NONE);
    this.refusedDay = new Int32Array(players * slots.deals.length).fill(-1);
    this.persona = new Int32Array(players);
    this.lastDay = new Int32Array(players).fill(lastDay);
    this.gone = new Uint8Array(players);
    this.busyUntil = new Float64Array(players);
    this.luck = new Int32Array(players);
    this.keys = [];
  }

  timedOf(player: number): Stack[] {
    return this.timed[player] ?? ABSENT;
  }

  counter(player: number, counter: number): Counter | undefined {
    const at = player * this.counters + counter;
    return this.count[at] === 0 ? undefined : { count: this.count[at]!, startMs: this.countStart[at]! };
  }

  counterSet(player: number, counter: number, { count, startMs }: Counter): void {
    const at = player * this.counters + counter;
    this.count[at] = count;
    this.countStart[at] = startMs;
  }

  /** What is left of a player's own stock; undefined while it is untouched. */
  stock(player: number, stock: number): Level | undefined {
    const at = player * this.stocks + stock;
    return Number.isNaN(this.stockUnits[at])
      ? undefined
      : { units: this.stockUnits[at]!, sinceMs: levelSince(this.stockSince[at]!) };
  }

  stockSet(player: number, stock: number, { units, sinceMs }: Level): void {
    const at = player * this.stocks + stock;
    this.stockUnits[at] = units;
    this.stockSince[at] = sinceMs ?? NONE;
  }
}

export const levelSince = (since: number): number | null => (Number.isNaN(since) ? null : since);
export const sinceOf = (sinceMs: number | null): number => sinceMs ?? NONE;

/** Bytes of the columns for each player: what `Crowd` allocates, without the players' names and attributes. */
export const bytesPerPlayer = ({ assets, currencies, counters, ownStocks, deals }: Slots): number =>
  // Held, earned and the first day; since when; counters and stock with their times; refusals.
  assets.length * (8 + 8 + 4) +
  currencies * 8 +
  counters * (8 + 8) +
  ownStocks * (8 + 8) +
  deals.length * 4 +
  // Persona, last day, whether gone, busy until, luck.
  (4 + 4 + 1 + 8 + 4);
