// Throughput and latency of the service under more and more callers: purchases, storefronts, both mixed, and these while
// a designer saves and a simulation runs. The load comes from autocannon, on loopback, for a few seconds each.
import autocannon from 'autocannon';
import { serveDemo } from './support.mjs';

const SECONDS = Number(process.env.DIMESTALL_LOAD_SECONDS ?? 4);
const CALLERS = [1, 10, 100, 1000];
const PLAYERS = 200;

const { url, headers, must, save, stop: stopService } = await serveDemo();
for (let player = 0; player < PLAYERS; player++) await must('POST', '/players', { id: `p${player}` });

let press = 0;
const player = () => `p${press % PLAYERS}`;
const purchase = {
  method: 'POST',
  path: '/api/v1/purchases',
  setupRequest: (request) => ({
    ...request,
    headers: { ...headers, 'Idempotency-Key': `k${++press}` },
    body: JSON.stringify({ player: player(), offer: 'wax_1' }),
  }),
};
const front = {
  method: 'GET',
  setupRequest: (request) => ({
    ...request,
    headers,
    path: `/api/v1/shops/pier_stall/front?player=p${++press % PLAYERS}`,
  }),
};
const LOADS = {
  purchases: [purchase],
  storefront: [front],
  'nine storefronts to a purchase': [...Array(9).fill(front), purchase],
};

/** What goes on beside the load until it is stopped. */
const BESIDE = {
  nothing: () => async () => undefined,
  'drafts being saved': () => {
    let goes = true;
    const work = (async () => {
      while (goes) await save();
    })();
    return () => ((goes = false), work);
  },
  'a simulation running': () => {
    const begun = must('POST', '/runs', { scenario: 'first_month', days: 3000, players: 2000 });
    return async () => must('DELETE', `/runs/${(await begun).id}`);
  },
};

const number = (value) => (value >= 100 ? Math.round(value).toLocaleString('en') : value.toFixed(1));
console.log('| load | beside it | callers | per second | p50 ms | p97.5 ms | p99 ms | worst ms | failed |');
console.log('|---|---|---:|---:|---:|---:|---:|---:|---:|');
for (const [load, requests] of Object.entries(LOADS))
  for (const [beside, begin] of Object.entries(BESIDE)) {
    if (beside !== 'nothing' && load !== 'nine storefronts to a purchase') continue;
    for (const connections of CALLERS) {
      const stop = begin();
      const {
        latency,
        requests: done,
        errors,
        non2xx,
      } = await autocannon({ url, connections, duration: SECONDS, requests });
      await stop();
      const figures = [done.average, latency.p50, latency.p97_5, latency.p99, latency.max].map(number);
      console.log(`| ${load} | ${beside} | ${connections} | ${figures.join(' | ')} | ${errors + non2xx} |`);
    }
  }

await stopService();
