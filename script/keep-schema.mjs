// Keeps a database as this version makes it, for the tests of upgrades: run it before a migration is added.
// It is the demo with some people in it who have bought, played and saved.
import { spawn } from 'node:child_process';
import { once } from 'node:events';
import { mkdtempSync, readFileSync, readdirSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { brotliCompressSync, constants } from 'node:zlib';
import Sqlite from 'better-sqlite3';

const root = new URL('..', import.meta.url).pathname;
const folder = mkdtempSync(join(tmpdir(), 'dimestall-schema-'));
const PLAYERS = 30;
const PURCHASES_EACH = 6;
const SAVES = 5;

const service = spawn(process.execPath, [join(root, 'dist/cli/main.js'), 'demo', '--port', '0', '--data', folder], {
  stdio: ['ignore', 'pipe', 'inherit'],
});
let told = '';
await new Promise((resolve, reject) => {
  service.stdout.on('data', (chunk) => (told += chunk).includes('#token=') && resolve());
  service.once('exit', (code) => reject(new Error(`the demo ended with ${code}`)));
});
const { url, token } = JSON.parse(readFileSync(join(folder, 'client.json'), 'utf8'));

/** Refusals are part of it. */
async function call(method, path, body, headers = {}) {
  const answer = await fetch(`${url}/api/v1${path}`, {
    method,
    headers: { Authorization: `Bearer ${token}`, 'Content-Type': 'application/json', ...headers },
    ...(body ? { body: JSON.stringify(body) } : {}),
  });
  if (answer.status >= 500) throw new Error(`${method} ${path}: ${answer.status}`);
  return answer.json();
}

const { document } = await call('GET', '/draft');
const shelves = Object.values(document.shops).flatMap(({ shelves }) => Object.values(shelves));
const offers = shelves.flatMap(({ offers }) => Object.keys(offers));
for (let n = 0; n < PLAYERS; n++) {
  const player = `made_${n}`;
  await call('POST', '/players', { id: player, name: `Made ${n}` });
  const gift = { gives: { shells: 5000, pearls: 50 }, reason: 'start' };
  await call('POST', `/players/${player}/grants`, gift, { 'Idempotency-Key': `gift-${n}` });
  for (let m = 0; m < PURCHASES_EACH; m++) {
    const offer = offers[(n * 7 + m * 5) % offers.length];
    await call('POST', '/purchases', { player, offer }, { 'Idempotency-Key': `${player}-${m}` });
  }
  const events = [1, 2].map((place) => ({
    id: `${player}-${place}`,
    name: 'race_finished',
    fields: { place, difficulty: 3 },
  }));
  await call('POST', `/players/${player}/events`, { events });
}
for (let n = 0; n < SAVES; n++) {
  const draft = await call('GET', '/draft');
  const body = { ...draft.document, name: `Saltwind Cove ${n}` };
  await call('PUT', `/draft?why=save${n}`, body, { 'If-Match': `"${draft.revision}"` });
}
await call('POST', '/releases', { note: 'second' });
for (const { shop, shelf } of (await call('GET', '/rotations')).items.slice(0, 3))
  await call('POST', `/rotations/${shop}/${shelf}/records`, { redraw: true, why: 'kept' });
const { id } = await call('POST', '/runs', { scenario: 'racers_only', days: 2, players: 20, name: 'a run' });
await fetch(`${url}/api/v1/runs/${id}/progress`, { headers: { Authorization: `Bearer ${token}` } }).then((all) =>
  all.text(),
);

const ended = once(service, 'exit');
service.kill('SIGTERM');
await ended;

const file = join(folder, 'demo.sqlite');
const database = new Sqlite(file);
const schema = database.prepare('SELECT count(*) FROM __drizzle_migrations').pluck().get();
database.pragma('journal_mode = DELETE');
database.exec('VACUUM');
database.close();
const kept = join(root, 'tests/support/schemas', `${String(schema).padStart(2, '0')}.sqlite.br`);
writeFileSync(kept, brotliCompressSync(readFileSync(file), { params: { [constants.BROTLI_PARAM_LGWIN]: 24 } }));
rmSync(folder, { recursive: true });
process.stdout.write(`${kept}, beside ${readdirSync(join(root, 'tests/support/schemas')).length - 1} others\n`);
