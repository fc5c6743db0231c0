// What cases cost: a thousand of them played, and a save of a draft that has them beside the same without.
// Goals: 1,000 within 2 s; at most 5 % longer for the one who saves.
import { casesProposed, casesRun } from '../dist/core/cases/index.js';
import { UNTOUCHED, purchaseCheck } from '../dist/core/trade/index.js';
import { playerMadeUp } from '../dist/core/player/index.js';
import { compare, loadDemo, secondsOf, serveDemo } from './support.mjs';

const { economy, document } = loadDemo();
const now = Date.UTC(2027, 3, 28, 12);
const proposed = casesProposed(economy, [...economy.offers.keys()], now);
const MANY = 1000;
const cases = Object.fromEntries(
  Array.from({ length: MANY }, (_, place) => {
    const { id, case: one } = proposed[place % proposed.length];
    return [`${id}_${place}`, one];
  }),
);
const player = playerMadeUp(economy, { attributes: { level: 3 }, holds: { shells: 1400 } }, now);
await compare('Cases, each with a player and one to three purchases', 'a second', {
  cases: async () => MANY / (await secondsOf(() => casesRun(economy, { ...document, cases }))),
  'plain checks': async () =>
    MANY /
    (await secondsOf(() => {
      for (let one = 0; one < MANY; one++) purchaseCheck(economy, player, UNTOUCHED, { offer: 'storm_frame' }, now);
    })),
});

const SAVES = 10;
const plain = await serveDemo();
const full = await serveDemo();
try {
  await plain.save({ ...plain.document, cases: {} });
  await full.save({ ...full.document, cases });
  const seconds = (save) => async () =>
    SAVES /
    (await secondsOf(async () => {
      for (let one = 0; one < SAVES; one++) await save();
    }));
  await compare(`Saves of the demo, without cases and with ${MANY}`, 'a second', {
    'with cases': seconds(full.save),
    without: seconds(plain.save),
  });
} finally {
  await plain.stop();
  await full.stop();
}
