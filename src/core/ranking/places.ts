/** What a ranking is asked, and the answers from an order. */
import type { Units } from '../amount/index.js';
import { orderBefore, orderSize } from './order.js';
import type { Order, Scored } from './order.js';
import { placeOf, placesFrom } from './ranking.js';
import type { Placed } from './ranking.js';

/** How all stand who have a score: the higher before the lower, and of equal ones the id that comes first. */
export interface Places {
  /** How many they are. */
  readonly of: number;
  /** The first `count` of those who stand behind `last`, wherever that would stand by now; of all where it is undefined. */
  after(last: Scored | undefined, count: number): { items: Placed[]; isEnd: boolean };
  /** Somebody's place, and up to `count` before it and after it. Who has no score has no place, and stands behind all. */
  around(who: string, count: number): { score: Units; place: number | null; around: Placed[] };
}

/** Of an order that tells `scoreOf` everybody who is in it, and 0 of others. */
export const orderPlaces = (order: Order, scoreOf: (who: string) => Units): Places => ({
  of: orderSize(order),
  after: (last, count) => {
    // Nothing stands between an id and the same with a blank behind it.
    const from = last ? orderBefore(order, { ...last, who: `${last.who}\0` }) : 0;
    const items = placesFrom(order, from, count);
    return { items, isEnd: from + items.length >= orderSize(order) };
  },
  around: (who, count) => {
    const score = scoreOf(who);
    const before = orderBefore(order, { who, score });
    const from = Math.max(0, before - count);
    return {
      score,
      place: score > 0 ? placeOf(order, score) : null,
      around: placesFrom(order, from, before - from + count + 1),
    };
  },
});
