// Throughput and latency of the service under more and more callers: purchases, storefronts, both mixed, and these while
// a designer saves and a simulation runs. The load comes from autocannon, on loopback, for a few seconds each.
import { spawn } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import autocannon from 'autocannon';
import { loadDemo } from './support.mjs';

const MAIN = fileURLToPath(new URL('../dist/service/main.js', import.meta.url));
const SECONDS = Number(process.env.DIMESTALL_LOAD_SECONDS ?? 4);
const CALLERS = [1, 10, 100, 1000];
const PLAYERS = 200;

const folder = mkdtempSync(join(tmpdir(), 'dimestall-load-'));
const access = join(folder, 'client.json');
const child = spawn(
  process.execPath,
  [MAIN, 'serve', '--data', join(folder, 'stall.sqlite'), '--port', '0', '--token-file', access, '--log', 'silent'],
  { stdio: ['ignore', 'pipe', 'inherit'] },
);
await new Promise((ready) => child.stdout.on('data', (chunk) => String(chunk).includes('listens on') && ready()));
const { url, token } = JSON.parse(readFileSync(access, 'utf8'));
const headers = { Authorization: `Bearer ${token}`, 'Content-Type': 'application/json' };

async function ask(method, path, body, more = {}) {
  const response = await fetch(`${url}/api/v1${path}`, {
    method,
    headers: { ...headers, ...more },
    ...(body === undefined ? {} : { body: JSON.stringify(body) }),
  });
  const text = await response.text();
  if (!response.ok) throw new Error(`${response.status}: ${text.slice(0, 300)}`);
  return text === '' ? undefined : JSON.parse(text);
}

const { document } = loadDemo();
document.currencies.shells.start = 1_000_000_000;
delete document.currencies.shells.cap;
document.items.glide_wax.carry = 1_000_000_000;
delete document.items.glide_wax.stack;
let { revision } = await ask('PUT', '/draft', document, { 'If-Match': '"0"' });
await ask('POST', '/releases', { note: 'load' });
for (let player = 0; player < PLAYERS; player++) await ask('POST', '/players', { id: `p${player}` });

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
      for (let level = 0; goes; level++) {
        const patch = [{ op: 'replace', path: '/items/storm_frame/description', value: `Save ${level}` }];
        ({ revision } = await ask('PATCH', '/draft', patch, { 'If-Match': `"${revision}"` }));
      }
    })();
    return () => ((goes = false), work);
  },
  'a simulation running': () => {
    const begun = ask('POST', '/runs', { scenario: 'first_month', days: 3000, players: 2000 });
    return async () => ask('DELETE', `/runs/${(await begun).id}`);
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

child.kill('SIGTERM');
await new Promise((done) => child.once('exit', done));
rmSync(folder, { recursive: true, force: true });
