// What playing times cost: what a persona earns, beside the same players in a run that shops too; and the ladder of a
// large catalog, beside compiling it.
// Goal: what is told while a price is typed costs less than compiling the economy.
import { economyCompile } from '../dist/core/economy/index.js';
import { earningsOf, ladderOf, playingTime } from '../dist/core/playtime/index.js';
import { scenarioResolve, simulateEngine } from '../dist/core/simulation/index.js';
import { largeDocument } from './large.mjs';
import { compare, loadDemo, secondsOf } from './support.mjs';

const { economy, document } = loadDemo();
const START = Date.UTC(2027, 2, 1);
const PLAYER_DAYS = 200 * 60;
const setup = scenarioResolve(document, 'first_month', { players: 200, days: 60 }).value;
const only = { ...setup, crowd: [{ persona: 'weekender', players: 200 }] };
await compare('Player-days of 200 Weekenders over 60 days', 'a second', {
  'earning alone': async () => PLAYER_DAYS / (await secondsOf(() => earningsOf(economy, 'weekender', START))),
  'a run that shops': async () => PLAYER_DAYS / (await secondsOf(() => simulateEngine(only))),
});

const large = largeDocument(5000);
const whole = {
  ...document,
  items: { ...document.items, ...large.items },
  shops: { ...document.shops, ...large.shops },
};
const compiled = economyCompile(whole).economy;
const { earnings } = earningsOf(compiled, 'weekender', START);
const { rungs, apart } = ladderOf(whole, compiled, earnings);
await compare(`The ladder of ${rungs.length + apart.length} offers`, 'a second', {
  'the ladder': async () => 1 / (await secondsOf(() => ladderOf(whole, compiled, earnings))),
  'compiling the economy': async () => 1 / (await secondsOf(() => economyCompile(whole))),
});

const PRICES = 10_000;
await compare('Single prices, as they are typed', 'a second', {
  'playing times': async () =>
    PRICES /
    (await secondsOf(() => {
      for (let units = 1; units <= PRICES; units++) playingTime(earnings, { shells: units });
    })),
});
