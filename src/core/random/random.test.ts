import { Luck, keyOf, keyOfText, keyWith, numberOf, randomOnce, randomStream, streamOf } from './index.js';

test('the same keys give the same numbers, for ever', () => {
  const stream = randomStream(7, 'racer', 3, 12);
  const numbers = [stream(), stream(), stream()];
  const again = randomStream(7, 'racer', 3, 12);
  expect([again(), again(), again()]).toEqual(numbers);
  // Written down so that a change of the generator cannot pass unseen: results would no longer compare.
  expect(numbers.map((number) => number.toFixed(9))).toMatchInlineSnapshot(`
[
  "0.266303037",
  "0.434578350",
  "0.285590835",
]
`);
  expect(randomOnce(7, 'racer', 3, 12).toFixed(9)).toMatchInlineSnapshot(`"0.199720126"`);
});

/** Standard deviations that a count lies from the one expected, by the normal approximation. */
const chiDeviations = (counts: ArrayLike<number>, expected: number): number => {
  const chi = Array.from(counts).reduce((sum, count) => sum + (count - expected) ** 2 / expected, 0);
  const freedom = counts.length - 1;
  return (chi - freedom) / Math.sqrt(2 * freedom);
};

test('a million keys that differ in a digit are a million keys: 32 bits would let a hundred meet', () => {
  const luck = new Luck();
  const base = keyOf(7, 'racer');
  const numbers = new Set<number>();
  for (let player = 0; player < 1000; player++)
    for (let day = 0; day < 1000; day++) numbers.add(luck.from(base).add(player).add(day).number());
  expect(numbers.size).toBe(1_000_000);
});

test('the order and the borders of keys matter, and large seeds are told apart', () => {
  const numbers = [
    randomOnce(1, 'ab', 'c'),
    randomOnce(1, 'a', 'bc'),
    randomOnce(1, 'abc'),
    randomOnce(1, 2, 3),
    randomOnce(1, 3, 2),
    randomOnce(1, 2),
    randomOnce(2, 1),
    randomOnce(1 + 2 ** 32, 2),
    randomOnce(1, ''),
    randomOnce(1),
  ];
  expect(new Set(numbers).size).toBe(numbers.length);
});

test('numbers of a stream are even, and so are pairs that follow each other', () => {
  const random = randomStream(42, 'visit');
  const pairs = new Float64Array(64 * 64);
  const tries = 400_000;
  let last = random();
  for (let i = 0; i < tries; i++) {
    const next = random();
    if (!(next >= 0 && next < 1)) throw new Error(`${next} is not from 0 to 1`);
    pairs[Math.floor(last * 64) * 64 + Math.floor(next * 64)]!++;
    last = next;
  }
  expect(Math.abs(chiDeviations(pairs, tries / pairs.length))).toBeLessThan(4);
});

test('first numbers of neighbouring keys are even, in each of their bits', () => {
  const buckets = new Float64Array(1000);
  const ones = new Float64Array(53);
  for (let player = 0; player < 200; player++)
    for (let day = 0; day < 500; day++) {
      const number = randomOnce(7, 'racer', player, day);
      buckets[Math.floor(number * buckets.length)]!++;
      let bits = number;
      for (let bit = 0; bit < 53; bit++) {
        bits *= 2;
        ones[bit]! += Math.floor(bits);
        bits -= Math.floor(bits);
      }
    }
  expect(Math.abs(chiDeviations(buckets, 100))).toBeLessThan(4);
  // A hundred thousand throws each: four and a half standard deviations.
  for (const count of ones) expect(Math.abs(count - 50_000)).toBeLessThan(4.5 * Math.sqrt(25_000));
});

test('a key that is put together in place is the same key', () => {
  const luck = new Luck();
  for (const id of ['storm_frame', 'wax_5', '']) {
    luck.from(keyOf(9, 'racer')).addKey(keyOfText(id)).add(5);
    const key = keyWith(keyOf(9), 'racer', id, 5);
    expect([luck.high, luck.low]).toEqual([key.high, key.low]);
    expect(luck.number()).toBe(numberOf(key));
    const stream = streamOf(key);
    expect([luck.next(), luck.next()]).toEqual([stream(), stream()]);
  }
});
