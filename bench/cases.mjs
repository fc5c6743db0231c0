// What cases cost: a thousand of them played, and saves of drafts that have them beside the same without.
// Goals: 1,000 within 2 s; at most 5 % longer for the one who saves.
import { casesProposed, casesRun } from '../dist/core/cases/index.js';
import { economyCompile } from '../dist/core/economy/index.js';
import { playerMadeUp } from '../dist/core/player/index.js';
import { UNTOUCHED, purchaseCheck } from '../dist/core/trade/index.js';
import { largeDocument } from './large.mjs';
import { compare, loadDemo, secondsOf, serveDemo } from './support.mjs';

const { economy, document } = loadDemo();
const now = Date.UTC(2027, 3, 28, 12);
const MANY = 1000;
const casesOf = (of) => {
  const proposed = casesProposed(of, [...of.offers.keys()].slice(0, 200), now);
  return Object.fromEntries(
    Array.from({ length: MANY }, (_, place) => {
      const { id, case: one } = proposed[place % proposed.length];
      return [`${id}_${place}`, one];
    }),
  );
};
const cases = casesOf(economy);
const player = playerMadeUp(economy, { attributes: { level: 3 }, holds: { shells: 1400 } }, now);
await compare('Cases, each with a player and one to three purchases', 'a second', {
  cases: async () => MANY / (await secondsOf(() => casesRun(economy, { ...document, cases }))),
  'plain checks': async () =>
    MANY /
    (await secondsOf(() => {
      for (let one = 0; one < MANY; one++) purchaseCheck(economy, player, UNTOUCHED, { offer: 'storm_frame' }, now);
    })),
});

const SAVES = 6;
const large = largeDocument(5000);
large.items.storm_frame = {
  name: 'Storm Frame',
  description: 'A frame.',
  kind: 'durable',
  carry: 1,
  worth: { shells: 1400 },
};
for (const [name, whole] of [
  ['the demo', document],
  ['5,000 items and 2,000 offers', large],
]) {
  const plain = await serveDemo();
  const full = await serveDemo();
  try {
    await plain.save({ ...whole, cases: {} });
    await full.save({ ...whole, cases: casesOf(economyCompile(whole).economy) });
    // Nobody saves again before the cases are played: that is waited for, and not counted.
    const rateOf =
      ({ save, must }) =>
      async () => {
        let seconds = 0;
        for (let one = 0; one < SAVES; one++) {
          seconds += await secondsOf(save);
          await must('GET', '/cases');
        }
        return SAVES / seconds;
      };
    await compare(`Saves of ${name}, with ${MANY} cases and without`, 'a second', {
      'with cases': rateOf(full),
      without: rateOf(plain),
    });
  } finally {
    await plain.stop();
    await full.stop();
  }
}
