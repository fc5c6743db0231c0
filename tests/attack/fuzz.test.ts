/** Thousands of requests to every operation; script/fuzz COUNT SEED shoots more, or again with the seed that failed. */
import { KEYS } from '../../src/contract/index.js';
import { UNASKED } from '../support/asks.js';
import { fuzz } from '../support/fuzz.js';

const [count, seed] = (process.env['DIMESTALL_FUZZ'] ?? '800 1').split(' ').map(Number) as [number, number];
/** Times that each operation is done as it is meant, and that it must at least be answered well. */
const rounds = Math.max(22, Math.ceil(count / 60));
const LEAST_WELL = 20;

test('every operation is in it', () => expect(UNASKED).toEqual([]));

test(
  `nothing breaks, waits or grows under ${count} requests and ${rounds} rounds of what is meant (seed ${seed})`,
  async () => {
    const { hits, well } = await fuzz(count, rounds, seed);
    expect(hits).toEqual([]);
    expect(KEYS.filter((key) => (well.get(key) ?? 0) < LEAST_WELL).map((key) => [key, well.get(key) ?? 0])).toEqual([]);
  },
  600_000 + count * 100 + rounds * 5000,
);
