/** Cut off at any moment under a load of everything that writes; script/soak ROUNDS does it more often. */
import { DEEDS } from '../support/deeds.js';
import { soak } from '../support/soak.js';
import { WRITING } from '../support/writing.js';

const rounds = Number(process.env['DIMESTALL_SOAK'] ?? 6);

test('every operation that writes is in the load', () => {
  expect(Object.keys(DEEDS).sort()).toEqual([...WRITING].sort());
});

test(
  `${rounds} cuts of the power under a mixed load: what was answered is there, once, and comes to the same sums`,
  async () => {
    const { answered } = await soak(rounds);
    expect(WRITING.filter((key) => !answered.has(key))).toEqual([]);
  },
  60_000 + rounds * 15_000,
);
