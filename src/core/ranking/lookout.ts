/** What is found about one point of a ranking by looking at everybody once, in whatever order they come. */
import type { Units } from '../amount/index.js';
import { orderCompare } from './order.js';
import type { Scored } from './order.js';

export class Lookout {
  /** Everybody. */
  of = 0;
  /** How many have more than the point. */
  higher = 0;
  /** How many stand before it. */
  before = 0;
  /** How many stand behind it. */
  after = 0;
  /** Those next before the point, and next behind it, the nearest first; `most` of each. */
  readonly ahead: Scored[] = [];
  readonly behind: Scored[] = [];

  constructor(
    private readonly point: Scored,
    private readonly most: { ahead: number; behind: number },
  ) {}

  /** Somebody who was not looked at yet. */
  add(who: string, score: Units): void {
    const one = { who, score };
    const side = orderCompare(one, this.point);
    this.of++;
    if (side < 0) {
      this.before++;
      if (score > this.point.score) this.higher++;
      nearest(this.ahead, one, this.most.ahead, -1);
    } else if (side > 0) {
      this.after++;
      nearest(this.behind, one, this.most.behind, 1);
    }
  }
}

/** Puts one among the nearest, and drops who is one too many. `direction`: 1 where those that stand first are nearest, else -1. */
function nearest(found: Scored[], one: Scored, most: number, direction: 1 | -1): void {
  const isFull = found.length >= most;
  if (isFull && (most === 0 || direction * orderCompare(one, found.at(-1)!) > 0)) return;
  let at = found.length;
  while (at > 0 && direction * orderCompare(one, found[at - 1]!) < 0) at--;
  found.splice(at, 0, one);
  if (isFull) found.pop();
}
