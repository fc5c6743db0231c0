// The reference simulator's player-days per second, and how its time grows with players and days. A fast engine is to
// be measured against it later.
import { scenarioResolve, simulateReference } from '../dist/core/simulation/index.js';
import { compare, loadDemo, secondsOf } from './support.mjs';

const { document } = loadDemo();
const rateOf = (players, days) => async () => {
  const { value } = scenarioResolve(document, 'first_month', { players, days });
  let result;
  const seconds = await secondsOf(() => {
    result = simulateReference(value);
  });
  return result.totals.playerDays / seconds;
};
await compare(
  'Reference simulator (a ratio near 1: time grows linearly)',
  'player-days/s',
  {
    '200 players, 15 days': rateOf(200, 15),
    '400 players, 15 days': rateOf(400, 15),
    '200 players, 30 days': rateOf(200, 30),
  },
  3,
);
