/**
 * The players of a run in columns: one row for each player, one column for each slot. What nobody has touched is 0
 * everywhere, so that columns of things that are never met cost no memory.
 */
import type { Value } from '../../formula/index.js';
import type { Stack } from '../../player/index.js';
import type { Level } from '../../schedule/index.js';
import type { Slots } from './slots.js';

/** Nothing is due: what `null` is to the live rules. */
const NONE = NaN;
const ABSENT: Stack[] = [];

type Column = Float64Array | Int32Array | Uint8Array;

export interface CrowdState {
  columns: Readonly<Record<string, Column>>;
  attributes: readonly Value[];
  timed: readonly Stack[][];
}

export class Crowd {
  readonly assets: number;
  readonly items: number;
  readonly counters: number;
  readonly stocks: number;
  /** What is held of each asset, `player * assets + asset`. */
  readonly units: Float64Array;
  /** Since when a currency's refill runs, `player * currencies + currency`; NaN while nothing is due. */
  readonly since: Float64Array;
  /** What came in of each asset, what a player begins with left out. */
  readonly earned: Float64Array;
  /** The day on which each item was had first, and could be paid for first, from 1; 0 where never: `player * items + item`. */
  readonly ownedDay: Int32Array;
  readonly affordedDay: Int32Array;
  /** The day on which a goal or level was reached first, from 1; 0 where never: `player * steps + step`. */
  readonly stepDay: Int32Array;
  /** By `2 * (player * counters + counter)`: how often within a period, and beside it when that began, epoch ms. */
  readonly count: Float64Array;
  /** What is left of a player's own stock, one more than there is; 0 while it is untouched. */
  readonly stockLeft: Float64Array;
  readonly stockSince: Float64Array;
  /** The last day on which an offer was wanted and refused, from 1; 0 where never. */
  readonly refusedDay: Int32Array;
  /** On how many days a player went shopping, and the last of them, from 1. */
  readonly shopDays: Int32Array;
  readonly shopDay: Int32Array;
  /** The same of days on which something was refused for a watched reason, `player * watched + reason`. */
  readonly reasonDays: Int32Array;
  readonly reasonDay: Int32Array;
  readonly persona: Int32Array;
  /** Which of its persona each is. */
  readonly number: Int32Array;
  readonly lastDay: Int32Array;
  readonly gone: Uint8Array;
  /** Until when the last session went on: the next begins no sooner. */
  readonly busyUntil: Float64Array;
  /** The two lanes of what every draw of a player is keyed by. */
  readonly luckHigh: Int32Array;
  readonly luckLow: Int32Array;
  /** `player * attributes + attribute`. */
  readonly attributes: Value[] = [];
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
    this.items = this.assets - slots.currencies;
    this.ownedDay = new Int32Array(players * this.items);
    this.affordedDay = new Int32Array(players * this.items);
    this.stepDay = new Int32Array(players * slots.steps.length);
    this.count = new Float64Array(2 * players * this.counters);
    this.stockLeft = new Float64Array(players * this.stocks);
    this.stockSince = new Float64Array(players * this.stocks);
    this.refusedDay = new Int32Array(players * slots.deals.length);
    this.shopDays = new Int32Array(players);
    this.shopDay = new Int32Array(players);
    this.reasonDays = new Int32Array(players * slots.watched.length);
    this.reasonDay = new Int32Array(players * slots.watched.length);
    this.persona = new Int32Array(players);
    this.number = new Int32Array(players);
    this.lastDay = new Int32Array(players).fill(lastDay);
    this.gone = new Uint8Array(players);
    this.busyUntil = new Float64Array(players);
    this.luckHigh = new Int32Array(players);
    this.luckLow = new Int32Array(players);
  }

  /** The columns by name. */
  private columns(): [string, Column][] {
    return Object.entries(this).filter((one): one is [string, Column] => ArrayBuffer.isView(one[1]));
  }

  save(): CrowdState {
    return { columns: Object.fromEntries(this.columns()), attributes: this.attributes, timed: this.timed };
  }

  restore({ columns, attributes, timed }: CrowdState): void {
    for (const [name, column] of this.columns()) column.set(columns[name]!);
    this.attributes.push(...attributes);
    this.timed.push(...structuredClone(timed));
  }

  /** Where a counter of a player lies in `count`. */
  countAt(player: number, counter: number): number {
    return 2 * (player * this.counters + counter);
  }

  timedOf(player: number): Stack[] {
    return this.timed[player] ?? ABSENT;
  }

  /** What is left of a player's own stock; undefined while it is untouched. */
  stock(player: number, stock: number): Level | undefined {
    const at = player * this.stocks + stock;
    return this.stockLeft[at] === 0
      ? undefined
      : { units: this.stockLeft[at]! - 1, sinceMs: levelSince(this.stockSince[at]!) };
  }

  stockSet(player: number, stock: number, { units, sinceMs }: Level): void {
    const at = player * this.stocks + stock;
    this.stockLeft[at] = units + 1;
    this.stockSince[at] = sinceOf(sinceMs);
  }
}

export const levelSince = (since: number): number | null => (Number.isNaN(since) ? null : since);
export const sinceOf = (sinceMs: number | null): number => sinceMs ?? NONE;

/** Bytes of the columns for each player: what `Crowd` allocates, without the players' attributes. */
export const bytesPerPlayer = ({ assets, currencies, counters, ownStocks, deals, watched, steps }: Slots): number =>
  // Held and earned; the two first days; since when; counters and stock with their times; refusals.
  assets.length * (8 + 8) +
  (assets.length - currencies) * (4 + 4) +
  currencies * 8 +
  counters * (8 + 8) +
  ownStocks * (8 + 8) +
  deals.length * 4 +
  // The days of goals and levels.
  steps.length * 4 +
  // Days of shopping, and of watched reasons.
  (1 + watched.length) * (4 + 4) +
  // Persona, number, last day, whether gone, busy until, luck.
  (4 + 4 + 4 + 1 + 8 + 4 + 4);
