import fc from 'fast-check';
import { orderAdd, orderBefore, orderOf, orderRemove, orderSize, orderSlice, placeOf, placesFrom } from './index.js';
import type { Order, Scored } from './index.js';

/** The same by sorting. */
const sorted = (scores: ReadonlyMap<string, number>): Scored[] =>
  [...scores].map(([who, score]) => ({ who, score })).sort((a, b) => b.score - a.score || (a.who < b.who ? -1 : 1));

const depth = (order: Order): number => (order ? 1 + Math.max(depth(order.left), depth(order.right)) : 0);

test('however scores change, the order is that of sorting, and every place and slice agrees', () => {
  const change = fc.record({
    who: fc.integer({ min: 0, max: 60 }).map(String),
    score: fc.integer({ min: 0, max: 12 }),
  });
  fc.assert(
    fc.property(fc.array(change, { maxLength: 300 }), fc.nat(70), fc.nat(20), (changes, from, count) => {
      const scores = new Map<string, number>();
      let order: Order;
      for (const { who, score } of changes) {
        const before = scores.get(who);
        if (before !== undefined) order = orderRemove(order, { who, score: before });
        scores.delete(who);
        if (score === 0) continue;
        scores.set(who, score);
        order = orderAdd(order, { who, score });
      }
      const all = sorted(scores);
      expect(orderSlice(order, 0, Infinity)).toEqual(all);
      expect(orderSlice(order, from, count)).toEqual(all.slice(from, from + count));
      all.forEach((one, index) => expect(orderBefore(order, one)).toBe(index));
      for (const { score, place } of placesFrom(order, 0, Infinity))
        expect(place).toBe(1 + all.filter((other) => other.score > score).length);
      // Weight-balanced by 3: no deeper than log to the base of 4/3.
      expect(depth(order)).toBeLessThanOrEqual(1 + Math.log(orderSize(order) + 1) / Math.log(4 / 3));
    }),
    { numRuns: 300, seed: 15 },
  );
});

describe('of pages that were read', () => {
  const whole = (pages: Scored[][]): { order: Order; stops: number } => {
    const steps = orderOf(pages);
    for (let stops = 0; ; stops++) {
      const step = steps.next();
      if (step.done) return { order: step.value, stops };
    }
  };

  test('the order is that of sorting, whatever stands where', () => {
    const page = fc.array(fc.integer({ min: 1, max: 9 }), { maxLength: 30 });
    fc.assert(
      fc.property(fc.array(page, { maxLength: 9 }), (written) => {
        const pages = written.map((scores, at) => scores.map((score, n) => ({ who: `${n % 7} ${at} ${n}`, score })));
        const all = sorted(new Map(pages.flat().map(({ who, score }) => [who, score])));
        const { order } = whole(pages);
        expect(orderSlice(order, 0, Infinity)).toEqual(all);
        all.forEach((one, index) => expect(orderBefore(order, one)).toBe(index));
      }),
      { numRuns: 200, seed: 33 },
    );
  });

  test('it is as shallow as can be, stops on the way, and changes like any other', () => {
    const PAGES = 60;
    const pages = Array.from({ length: PAGES }, (_, at) =>
      Array.from({ length: 500 }, (_, n) => ({ who: `${at} ${n}`, score: ((at * 500 + n) * 7919) % 10_007 })),
    );
    const all = sorted(new Map(pages.flat().map(({ who, score }) => [who, score])));
    const { order, stops } = whole(pages);
    expect(depth(order)).toBe(Math.ceil(Math.log2(PAGES * 500)));
    expect(stops).toBeGreaterThan(PAGES + 10);
    let changed = order;
    for (const one of all.slice(0, 9000)) changed = orderRemove(changed, one);
    expect(orderSlice(changed, 0, Infinity)).toEqual(all.slice(9000));
    expect(depth(changed)).toBeLessThan(30);
  });
});

test('ties are told as ties', () => {
  const scores = { ada: 50, ben: 40, cleo: 40, dag: 10 };
  let order: Order;
  for (const [who, score] of Object.entries(scores)) order = orderAdd(order, { who, score });
  expect(placesFrom(order, 0, 9).map(({ who, place }) => [who, place])).toEqual([
    ['ada', 1],
    ['ben', 2],
    ['cleo', 2],
    ['dag', 4],
  ]);
  expect(placeOf(order, 45)).toBe(2);
  expect(placeOf(order, 0)).toBe(5);
});

test('ascending scores, the worst that there is for a tree, leave it shallow', () => {
  let order: Order;
  for (let score = 1; score <= 5000; score++) order = orderAdd(order, { who: String(score), score });
  expect(depth(order)).toBeLessThan(30);
});
