/** Prices one above the other: how much longer each takes, and by when who buys from the lowest on owns them all. */
import { MAX_UNITS, unitsPreferred } from '../amount/index.js';
import type { Basket } from '../amount/index.js';
import { playingTime, timeOrder } from './playingTime.js';
import type { PlayingTime } from './playingTime.js';
import type { PersonaEarnings } from './types.js';

/** One way to pay for an offer. */
export interface Rung {
  offer: string;
  name: string;
  /** JSON pointer of the offer. */
  pointer: string;
  shop: string;
  /** `SHOP/SHELF`. */
  shelf: string;
  /** The group of the one thing that it gives. */
  group: string | undefined;
  pay: string;
  price: Basket;
  /** What a formula says for a player of the persona as it joins. */
  byFormula: boolean;
  /** JSON pointer of the one amount that the price is, where that is written as a number. */
  amountAt: string | undefined;
  time: PlayingTime;
  /** Under each sale that lowers it, while that runs. */
  reduced: { sale: string; price: Basket; time: PlayingTime }[];
}

export interface Step extends Rung {
  /** How many times the playing time of the rung below; none for the first, and where that takes none. */
  factor: number | undefined;
  /** The day, from 1, by whose end somebody owns it who buys one after the other from the lowest on; undefined where that is not foreseen. */
  ownedDay: number | undefined;
}

/** The least playing time first. */
export function rungSteps(earnings: PersonaEarnings, rungs: readonly Rung[]): Step[] {
  const owned: Basket = {};
  const sorted = [...rungs].sort((a, b) => timeOrder(a.time) - timeOrder(b.time));
  return sorted.map((rung, place) => {
    const before = place === 0 ? 0 : timeOrder(sorted[place - 1]!.time);
    for (const asset in rung.price) owned[asset] = (owned[asset] ?? 0) + rung.price[asset]!;
    const time = playingTime(earnings, owned);
    return {
      ...rung,
      factor: before > 0 ? timeOrder(rung.time) / before : undefined,
      ownedDay: time.kind === 'earned' ? (time.day.half ?? undefined) : 1,
    };
  });
}

/** How far a price may be from what was pointed at, to be a number that people like. */
const NEAR = 0.015;

/** The price in an asset that takes about so many minutes of play; undefined where play does not bring the asset. */
export function priceTaking(earnings: PersonaEarnings, asset: string, minutes: number): number | undefined {
  const minutesOf = (units: number): number => timeOrder(playingTime(earnings, { [asset]: units }));
  if (playingTime(earnings, { [asset]: 1 }).kind !== 'earned') return undefined;
  let [low, high] = [1, 2];
  while (high < MAX_UNITS && minutesOf(high) < minutes) [low, high] = [high, high * 2];
  while (high - low > Math.max(1, low / 1000)) {
    const middle = Math.floor((low + high) / 2);
    if (minutesOf(middle) < minutes) low = middle;
    else high = middle;
  }
  return unitsPreferred(high, 0, NEAR);
}
