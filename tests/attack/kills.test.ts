/** Killed at any moment under load; script/soak ROUNDS does it more often. */
import { kills } from '../support/kills.js';

const rounds = Number(process.env['DIMESTALL_KILLS'] ?? 12);

test(
  `${rounds} kills under a mixed load lose nothing that was answered and double nothing`,
  async () => {
    expect(await kills(rounds)).toBeGreaterThanOrEqual(rounds * 20);
  },
  60_000 + rounds * 10_000,
);
