/**
 * Who is first, kept in order while scores change: a weight-balanced tree that counts what is below each node, so that
 * a place is found by one way down. After Hirai and Yamamoto, "Balancing weight-balanced trees", Journal of Functional
 * Programming 21(3), 2011, with their parameters (3, 2). Never altered in place.
 */
import type { Units } from '../amount/index.js';

export interface Scored {
  who: string;
  score: Units;
}

interface Node {
  readonly one: Scored;
  readonly left: Order;
  readonly right: Order;
  readonly size: number;
}
/** Undefined where nobody is in it. */
export type Order = Node | undefined;

const DELTA = 3;
const RATIO = 2;

export const orderSize = (order: Order): number => order?.size ?? 0;

const node = (one: Scored, left: Order, right: Order): Node => ({
  one,
  left,
  right,
  size: orderSize(left) + orderSize(right) + 1,
});

/** Below 0 where `a` stands before `b`: the higher score, and of equal ones the id that comes first. */
export const orderCompare = (a: Scored, b: Scored): number =>
  b.score - a.score || (a.who < b.who ? -1 : a.who > b.who ? 1 : 0);

/** One side may have become heavier by one, or the other lighter. */
function balanced(one: Scored, left: Order, right: Order): Node {
  const [leftWeight, rightWeight] = [orderSize(left) + 1, orderSize(right) + 1];
  if (right && DELTA * leftWeight < rightWeight) {
    const inner = right.left;
    return inner && orderSize(inner) + 1 >= RATIO * (orderSize(right.right) + 1)
      ? node(inner.one, node(one, left, inner.left), node(right.one, inner.right, right.right))
      : node(right.one, node(one, left, inner), right.right);
  }
  if (left && DELTA * rightWeight < leftWeight) {
    const inner = left.right;
    return inner && orderSize(inner) + 1 >= RATIO * (orderSize(left.left) + 1)
      ? node(inner.one, node(left.one, left.left, inner.left), node(one, inner.right, right))
      : node(left.one, left.left, node(one, inner, right));
  }
  return node(one, left, right);
}

/** With one more, who is not in it. O(log n). */
export function orderAdd(order: Order, one: Scored): Node {
  if (!order) return node(one, undefined, undefined);
  return orderCompare(one, order.one) < 0
    ? balanced(order.one, orderAdd(order.left, one), order.right)
    : balanced(order.one, order.left, orderAdd(order.right, one));
}

/** Above this many, building stops between the parts, for whoever else is to be served. */
const PART = 2048;

/**
 * All of some pages, in order. Each page may stand in any order, and is sorted where it is; nobody is in two of them.
 * O(n log n), without anything but the tree being left behind; it stops after each part of the work.
 */
export function* orderOf(pages: readonly Scored[][]): Generator<undefined, Order, undefined> {
  let sorted: readonly Scored[][] = pages;
  for (const page of pages) {
    page.sort(orderCompare);
    yield;
  }
  while (sorted.length > 1) {
    const merged: Scored[][] = [];
    for (let at = 0; at < sorted.length; at += 2) merged.push(yield* merge(sorted[at]!, sorted[at + 1] ?? []));
    sorted = merged;
  }
  const all = sorted[0] ?? [];
  return yield* build(all, 0, all.length);
}

function* merge(a: readonly Scored[], b: readonly Scored[]): Generator<undefined, Scored[], undefined> {
  const merged: Scored[] = [];
  let [atA, atB] = [0, 0];
  while (atA < a.length || atB < b.length) {
    const isA = atB === b.length || (atA < a.length && orderCompare(a[atA]!, b[atB]!) < 0);
    merged.push(isA ? a[atA++]! : b[atB++]!);
    if (merged.length % PART === 0) yield;
  }
  return merged;
}

function* build(all: readonly Scored[], from: number, to: number): Generator<undefined, Order, undefined> {
  if (to - from <= PART) return built(all, from, to);
  const middle = (from + to) >> 1;
  const left = yield* build(all, from, middle);
  yield;
  return node(all[middle]!, left, yield* build(all, middle + 1, to));
}

function built(all: readonly Scored[], from: number, to: number): Order {
  if (from === to) return undefined;
  const middle = (from + to) >> 1;
  return node(all[middle]!, built(all, from, middle), built(all, middle + 1, to));
}

/** Without one who is in it with exactly this score. O(log n). */
export function orderRemove(order: Order, one: Scored): Order {
  if (!order) return undefined;
  const side = orderCompare(one, order.one);
  if (side < 0) return balanced(order.one, orderRemove(order.left, one), order.right);
  if (side > 0) return balanced(order.one, order.left, orderRemove(order.right, one));
  if (!order.left) return order.right;
  if (!order.right) return order.left;
  const next = first(order.right);
  return balanced(next, order.left, orderRemove(order.right, next));
}

const first = (order: Node): Scored => (order.left ? first(order.left) : order.one);

/** How many stand before: with `one` of no id, how many have a higher score. O(log n). */
export function orderBefore(order: Order, one: Scored): number {
  let before = 0;
  for (let at = order; at;) {
    if (orderCompare(at.one, one) < 0) {
      before += orderSize(at.left) + 1;
      at = at.right;
    } else at = at.left;
  }
  return before;
}

/** Those who stand at `from` (the first is 0) and after it, `count` at most. O(log n + count). */
export function orderSlice(order: Order, from: number, count: number): Scored[] {
  const found: Scored[] = [];
  walk(order, 0);
  return found;

  function walk(at: Order, start: number): void {
    if (!at || found.length >= count || start + at.size <= from) return;
    walk(at.left, start);
    const place = start + orderSize(at.left);
    if (place >= from && found.length < count) found.push(at.one);
    walk(at.right, place + 1);
  }
}
