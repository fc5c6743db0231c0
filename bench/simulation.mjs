// Player-days per second of the engine beside the reference simulator on the demo's first month; how the engine's time
// grows with players, days and with things that nobody meets; and what a second thread brings.
import { fork, spawnSync } from 'node:child_process';
import { once } from 'node:events';
import { fileURLToPath } from 'node:url';
import { scenarioResolve, simulateEngine, simulateReference } from '../dist/core/simulation/index.js';
import { compare, loadDemo, median, secondsOf } from './support.mjs';

const cli = fileURLToPath(new URL('../dist/cli/main.js', import.meta.url));
const demo = fileURLToPath(new URL('../demo/saltwind-cove/', import.meta.url));
const { document } = loadDemo();
const rateOf = (simulate, players, days, economy = document) => {
  const { value } = scenarioResolve(economy, 'first_month', { players, days });
  return async () => {
    let result;
    const seconds = await secondsOf(() => {
      result = simulate(value);
    });
    return result.totals.playerDays / seconds;
  };
};
const BESIDE = 'DIMESTALL_BENCH_BESIDE';
if (process.env[BESIDE]) {
  // A process of its own, to see how much two at once lose on this machine by themselves.
  const rate = rateOf(simulateEngine, 1500, 30);
  await rate();
  process.send('ready');
  await once(process, 'message');
  process.send(await rate());
  process.exit();
}

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

/** The demo with 5,000 more tails, which a shop sells that opens after the month. */
const grown = structuredClone(document);
const tails = Array.from({ length: 5000 }, (_, n) => `more_${n}`);
for (const id of tails) grown.items[id] = { name: id, kind: 'durable', carry: 1, worth: { shells: 100 } };
grown.shops.later = {
  name: 'Later',
  from: '2028-01-01',
  shelves: { all: { name: 'All', offers: Object.fromEntries(tails.map((id) => [id, { gives: id }])) } },
};
await compare(
  'Things that nobody meets (a ratio near 1: they cost nothing)',
  'player-days/s',
  {
    'the demo': rateOf(simulateEngine, 1000, 30),
    'with 5,000 more things': rateOf(simulateEngine, 1000, 30, grown),
  },
  3,
);

/** As a process of its own, so that neither has an engine that is warm already. */
const threads = (workers) => async () => {
  const players = 10_000;
  const seconds = await secondsOf(() => {
    const { status } = spawnSync(
      process.execPath,
      [
        ...[cli, 'simulate', 'first_month', '--folder', demo, '--players', String(players)],
        ...['--workers', String(workers), '--json'],
      ],
      { stdio: ['ignore', 'ignore', 'ignore'] },
    );
    // A target that is missed ends it with 1.
    if (status !== 0 && status !== 1) throw new Error(`the run ended with ${status}`);
  });
  return (players * 30) / seconds;
};
await compare(
  'Threads of a command, from its start to the result on paper, 10,000 players',
  'player-days/s',
  { 'two workers': threads(2), 'one worker': threads(1) },
  3,
);

/** How many times as much two processes do that have nothing to do with each other: more than that no thread can bring. */
async function besides(count) {
  const children = Array.from({ length: count }, () =>
    fork(new URL(import.meta.url), { env: { ...process.env, [BESIDE]: '1' } }),
  );
  await Promise.all(children.map((child) => once(child, 'message')));
  const told = children.map((child) => once(child, 'message'));
  for (const child of children) child.send('go');
  return (await Promise.all(told)).reduce((sum, [rate]) => sum + rate, 0);
}
const gains = [];
for (let round = 0; round < 3; round++) {
  const alone = await besides(1);
  gains.push((await besides(2)) / alone);
}
console.log(`\nTwo processes of their own do ${median(gains).toFixed(2)} times what one does on this machine.`);
