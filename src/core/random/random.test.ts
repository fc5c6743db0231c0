import fc from 'fast-check';
import {
  firstOf,
  keyBegin,
  keyDigits,
  keyEnd,
  keyHash,
  keyNext,
  keyText,
  randomOnce,
  randomStream,
  streamOf,
} from './index.js';

test('the same keys give the same numbers, for ever', () => {
  const stream = randomStream(7, 'racer-3', 'play', 12);
  const numbers = [stream(), stream(), stream()];
  const again = randomStream(7, 'racer-3', 'play', 12);
  expect([again(), again(), again()]).toEqual(numbers);
  // Written down so that a change of the generator cannot pass unseen: results would no longer compare.
  expect(numbers.map((number) => number.toFixed(9))).toMatchInlineSnapshot(`
   [
     "0.142026797",
     "0.930385743",
     "0.557658646",
   ]
  `);
});

test('keys that differ in one place give other numbers', () => {
  const numbers = new Set<number>();
  for (let player = 0; player < 100; player++)
    for (let day = 0; day < 100; day++) numbers.add(randomOnce(7, `racer-${player}`, 'sessions', day));
  expect(numbers.size).toBe(10_000);
  expect(keyHash(1, ['ab', 'c'])).not.toBe(keyHash(1, ['a', 'bc']));
});

test('numbers over many keys are spread evenly from 0 to 1', () => {
  const buckets = new Array<number>(10).fill(0);
  for (let key = 0; key < 20_000; key++) {
    const number = randomOnce(42, 'visit', key);
    expect(number >= 0 && number < 1).toBe(true);
    buckets[Math.floor(number * 10)]!++;
  }
  // Chi-square with 9 degrees of freedom: 27.9 is its 99.9th percentile.
  const chi = buckets.reduce((sum, count) => sum + (count - 2000) ** 2 / 2000, 0);
  expect(chi).toBeLessThan(27.9);
});

test('keys that are hashed step by step give the same streams, and the first number needs none', () => {
  fc.assert(
    fc.property(fc.integer(), fc.string(), fc.nat(), (seed, text, whole) => {
      const hash = keyEnd(keyNext(keyDigits(keyNext(keyText(keyBegin(seed), text)), whole)));
      expect(hash).toBe(keyHash(seed, [text, whole]));
      expect(firstOf(hash)).toBe(streamOf(hash)());
      expect(firstOf(hash)).toBe(randomOnce(seed, text, whole));
    }),
  );
});
