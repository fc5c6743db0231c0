// Player-days per second of the engine beside the reference simulator on the demo's first month, and how the engine's
// time grows with players and days.
import { scenarioResolve, simulateEngine, simulateReference } from '../dist/core/simulation/index.js';
import { compare, loadDemo, secondsOf } from './support.mjs';

const { document } = loadDemo();
const rateOf = (simulate, players, days) => {
  const { value } = scenarioResolve(document, 'first_month', { players, days });
  return async () => {
    let result;
    const seconds = await secondsOf(() => {
      result = simulate(value);
    });
    return result.totals.playerDays / seconds;
  };
};
const rates = await compare(
  'Engine and reference on the first month (engine / reference: the more the better)',
  'player-days/s',
  {
    'reference, 100 players': rateOf(simulateReference, 100, 30),
    'engine, 100 players': rateOf(simulateEngine, 100, 30),
    'engine, 1,000 players': rateOf(simulateEngine, 1000, 30),
  },
  3,
);
console.log(`engine / reference = ${Math.round(rates['engine, 1,000 players'] / rates['reference, 100 players'])}`);
await compare(
  'Engine (a ratio near 1: time grows linearly)',
  'player-days/s',
  {
    '1,000 players, 15 days': rateOf(simulateEngine, 1000, 15),
    '10,000 players, 15 days': rateOf(simulateEngine, 10_000, 15),
    '1,000 players, 150 days': rateOf(simulateEngine, 1000, 150),
  },
  3,
);
