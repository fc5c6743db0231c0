import { FairQueue } from './fairQueue.js';
import { WorkMeter } from './workMeter.js';

/** Keeps the thread busy for some milliseconds. */
function work(ms: number): void {
  const until = performance.now() + ms;
  while (performance.now() < until);
}

describe('a fair queue', () => {
  const filled = (): FairQueue<string> => {
    const queue = new FairQueue<string>();
    for (const one of ['a1', 'a2', 'a3', 'b1', 'c1', 'c2']) queue.push(one[0]!, one);
    return queue;
  };
  const taken = (queue: FairQueue<string>): string[] => {
    const all: string[] = [];
    for (let one = queue.shift(); one !== undefined; one = queue.shift()) all.push(one);
    return all;
  };

  test('gives one of each holder in turn, the oldest first, as it tells before', () => {
    const order = ['a1', 'b1', 'c1', 'a2', 'c2', 'a3'];
    expect(filled().inOrder()).toEqual(order);
    expect(filled().clear()).toEqual(order);
    expect(taken(filled())).toEqual(order);
  });

  test('who comes later waits for one turn of each, not for all that waits', () => {
    const queue = filled();
    expect(queue.shift()).toBe('a1');
    queue.push('d', 'd1');
    expect(taken(queue)).toEqual(['b1', 'c1', 'a2', 'd1', 'c2', 'a3']);
  });

  test('counts what waits, of all and of each', () => {
    const queue = filled();
    expect([queue.size, queue.sizeOf('a'), queue.sizeOf('z')]).toEqual([6, 3, 0]);
    queue.take('b1');
    queue.take('a2');
    queue.take('z1');
    expect([queue.size, queue.sizeOf('a'), queue.sizeOf('b')]).toEqual([4, 2, 0]);
    // Whoever's was taken has had a turn.
    expect(queue.inOrder()).toEqual(['c1', 'a1', 'c2', 'a3']);
    queue.clear();
    expect([queue.size, queue.shift()]).toEqual([0, undefined]);
  });
});

describe('the meter of work', () => {
  const SLICE_MS = 15;

  test('puts on a bill what is done for it, and nothing of what it waits for', async () => {
    const meter = new WorkMeter();
    const bill = { holder: 'a', ms: 0 };
    await meter.turn(bill, async () => {
      work(5);
      await new Promise((resolve) => setTimeout(resolve, 500));
    });
    expect(bill.ms).toBeGreaterThanOrEqual(5);
    expect(bill.ms).toBeLessThan(500);
    meter.run({ holder: 'b', ms: 0 }, () => expect(meter.current.holder).toBe('b'));
    expect(meter.current.holder).toBe('');
  });

  test('who has asked for much lets others go before the rest of it', async () => {
    const meter = new WorkMeter();
    const order: string[] = [];
    const turn = (name: string, ms: number): Promise<void> =>
      Promise.resolve(meter.turn({ holder: name[0]!, ms: 0 }, () => work(ms))).then(() => void order.push(name));
    const all = ['a1', 'a2', 'a3', 'a4'].map((name) => turn(name, SLICE_MS));
    all.push(turn('b1', 0));
    await Promise.all(all);
    expect(order).toEqual(['a1', 'a2', 'b1', 'a3', 'a4']);
  });

  test('between slices the event loop turns: who knocks meanwhile is heard', async () => {
    const meter = new WorkMeter();
    const order: string[] = [];
    const all = [1, 2, 3].map((n) =>
      Promise.resolve(meter.turn({ holder: 'a', ms: 0 }, () => work(SLICE_MS))).then(() => void order.push(`a${n}`)),
    );
    setImmediate(() => order.push('knock'));
    await Promise.all(all);
    expect(order.indexOf('knock')).toBeLessThan(order.length - 1);
  });

  test('what throws is told to who asked, and is on the bill', async () => {
    const meter = new WorkMeter();
    const bill = { holder: 'a', ms: 0 };
    const broken = (): never => {
      work(SLICE_MS);
      throw new Error('broken');
    };
    expect(() => meter.turn(bill, broken)).toThrow('broken');
    await expect(meter.turn(bill, broken)).rejects.toThrow('broken');
    expect(bill.ms).toBeGreaterThanOrEqual(2 * SLICE_MS);
  });
});
