/**
 * No walk through a market that the audit finds sound gains without end. script/fuzz --walk COUNT SEED walks more, or
 * again with the seed that failed.
 */
import { walkMarkets } from '../support/walk.js';

const [count, seed] = (process.env['DIMESTALL_WALK'] ?? '150 31').split(' ').map(Number) as [number, number];

test(
  `no walk through ${count} markets gains without end (seed ${seed})`,
  () => {
    const { sound, gained } = walkMarkets(count, seed);
    expect(gained).toEqual([]);
    // It is of no use where hardly any market is sound.
    expect(sound).toBeGreaterThan(count / 8);
  },
  60_000 + count * 500,
);
