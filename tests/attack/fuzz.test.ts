/** Thousands of requests to every operation; script/fuzz COUNT SEED shoots more, or again with the seed that failed. */
import { fuzz } from '../support/fuzz.js';

const [count, seed] = (process.env['DIMESTALL_FUZZ'] ?? '2500 1').split(' ').map(Number) as [number, number];

test(
  `nothing breaks, waits or grows under ${count} requests (seed ${seed})`,
  async () => {
    expect(await fuzz(count, seed)).toEqual([]);
  },
  60_000 + count * 30,
);
