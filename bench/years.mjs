// What years of players and movements cost: a database of many players beside one of few, both made by the store's own
// code, and each question asked of the service on it. Arguments: players of the large one (100,000), movements of each
// player (50), players of the small one (10,000), and a folder to make and keep the databases in.
import { spawn } from 'node:child_process';
import { existsSync, mkdirSync, mkdtempSync, readFileSync, rmSync, statSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import Sqlite from 'better-sqlite3';
import { serviceCreate } from '../dist/service/index.js';
import { loadDemo, median } from './support.mjs';

const MANY = Number(process.argv[2] ?? 100_000);
const EACH = Number(process.argv[3] ?? 50);
const FEW = Number(process.argv[4] ?? 10_000);
const kept = process.argv[5];
const folder = kept ?? mkdtempSync(join(tmpdir(), 'dimestall-years-'));
mkdirSync(folder, { recursive: true });
const MAIN = fileURLToPath(new URL('../dist/service/main.js', import.meta.url));
const DAY_MS = 86_400_000;
const ROUNDS = 15;

const idOf = (number) => `player_${number}`;

/** Players with what they begin with, and movements that leave them with it: what comes in by a race goes out at a shop. */
async function make(data, players) {
  const { document } = loadDemo();
  document.rankings.most_shells = { name: 'Most shells', by: 'balance', currency: 'shells' };
  const endMs = Date.now();
  let nowMs = endMs - 300 * DAY_MS;
  const service = serviceCreate({ data, logLevel: 'silent', now: () => nowMs });
  await service.writer.submit(() => service.draft.save(service.draft.prepare(document, 0), 'bench', 'bench'));
  await service.publish({ note: 'bench', channel: 'live', revision: 1, atMs: undefined }, 'bench');
  for (let from = 0; from < players; from += 1000)
    await Promise.all(
      Array.from({ length: Math.min(1000, players - from) }, (_, n) =>
        service.support.create(idOf(from + n), `Player ${from + n}`, {}, 'bench'),
      ),
    );
  const { raw } = service.database;
  const rounds = Math.floor(EACH / 2);
  const purchase = JSON.stringify({ release: 1, verdict: { allowed: true, offer: 'wax_1', times: 1 }, progress: {} });
  const handled = raw.prepare(
    "INSERT INTO handled (kind, number, player, key, request, at_ms, answer) VALUES ('purchase', ?, ?, ?, ?, ?, ?)",
  );
  for (let round = 0; round < rounds; round++) {
    nowMs += Math.floor((300 * DAY_MS) / (rounds + 1));
    raw.exec('BEGIN');
    for (let n = 0; n < players; n++) {
      const player = idOf(n);
      const units = 5 + ((n * 7919) % 40);
      service.ledger.append(player, 1, nowMs, [
        { asset: 'shells', units, from: 'world:play', to: `player:${player}`, cause: 'event:race_finished' },
        { asset: 'shells', units, from: `player:${player}`, to: 'shop:lantern_wagon', cause: 'purchase:wax_1' },
      ]);
      // What is kept of requests is kept for a part of the time.
      if (round === rounds - 1) handled.run(n + 1, player, `press ${n}`, '["wax_1",1,null,null]', nowMs, purchase);
      if (round >= rounds - 2)
        service.rankingStore.earn({
          contest: { holder: 'player', by: 'earned', currency: 'shells', every: 'week', startMs: 0, endMs: Infinity },
          who: player,
          units,
        });
      if (n % 20_000 === 19_999) raw.exec('COMMIT; BEGIN');
    }
    raw.exec('COMMIT');
  }
  service.database.close();
}

const seconds = async (work) => {
  const start = performance.now();
  await work();
  return (performance.now() - start) / 1000;
};

const run = (...args) =>
  new Promise((done, failed) => {
    const child = spawn(process.execPath, [MAIN, ...args], { stdio: ['ignore', 'ignore', 'inherit'] });
    child.once('exit', (code) => (code === 0 ? done() : failed(new Error(`${args[0]} ended with ${code}`))));
  });

async function measure(players) {
  const data = join(folder, `${players}.sqlite`);
  if (!existsSync(data))
    console.log(`  ${players} players made in ${(await seconds(() => make(data, players))).toFixed(0)} s`);
  const figures = { 'MB of the file': statSync(data).size / 1e6 };
  const access = join(folder, 'client.json');
  rmSync(access, { force: true });
  let child;
  figures['start, ms'] =
    1000 *
    (await seconds(async () => {
      child = spawn(
        process.execPath,
        [
          MAIN,
          'serve',
          '--data',
          data,
          '--port',
          '0',
          '--token-file',
          access,
          '--log',
          'silent',
          '--work-per-second',
          '1000000',
        ],
        { stdio: ['ignore', 'pipe', 'inherit'] },
      );
      await new Promise((ready) => child.stdout.on('data', (text) => String(text).includes('listens on') && ready()));
    }));
  while (!existsSync(access)) await new Promise((soon) => setTimeout(soon, 5));
  const { url, token } = JSON.parse(readFileSync(access, 'utf8'));
  const ask = async (method, path, body, more = {}) => {
    const response = await fetch(`${url}/api/v1${path}`, {
      method,
      headers: { Authorization: `Bearer ${token}`, 'Content-Type': 'application/json', ...more },
      ...(body === undefined ? {} : { body: JSON.stringify(body) }),
    });
    const text = await response.text();
    if (response.status >= 300) throw new Error(`${path}: ${text.slice(0, 300)}`);
  };
  /** Of players that nobody asked for before, all over the file. */
  let asked = 0;
  const somebody = () => idOf((asked++ * 7_919_017) % players);
  const each = async (name, work) => {
    const times = [];
    for (let round = 0; round < ROUNDS; round++) times.push(await seconds(work));
    figures[`${name}, ms`] = median(times) * 1000;
  };
  await each('player', () => ask('GET', `/players/${somebody()}`));
  await each('ledger of a player', () => ask('GET', `/players/${somebody()}/ledger`));
  await each('storefront', () => ask('GET', `/shops/pier_stall/front?player=${somebody()}`));
  await each('purchase', () =>
    ask(
      'POST',
      '/purchases',
      { player: somebody(), offer: 'wax_1' },
      { 'Idempotency-Key': `bench ${asked} ${Date.now()}` },
    ),
  );
  await each('search by a part of a name', () =>
    ask('GET', `/players?search=layer%20${players - 1 - asked++}&limit=5`),
  );
  figures['ranking, first time, ms'] = 1000 * (await seconds(() => ask('GET', '/rankings/most_shells')));
  await each('ranking, then', () => ask('GET', '/rankings/most_shells'));
  const copy = join(folder, 'backup.sqlite');
  rmSync(copy, { force: true });
  figures['backup with its check, s'] = await seconds(() => run('backup', copy, '--data', data));
  child.kill('SIGTERM');
  await new Promise((done) => child.once('exit', done));
  figures['verify, s'] = await seconds(() => run('verify', '--data', data));
  rmSync(copy, { force: true });
  const database = new Sqlite(data, { readonly: true });
  for (const { name, bytes } of database
    .prepare(
      `SELECT coalesce(nullif(tbl_name, ''), name) AS name, sum(pgsize) AS bytes
       FROM dbstat JOIN sqlite_schema USING (name) GROUP BY 1 ORDER BY 2 DESC LIMIT 8`,
    )
    .all())
    figures[`bytes for each player, ${name}`] = bytes / players;
  database.close();
  return figures;
}

const few = await measure(FEW);
const many = await measure(MANY);
const told = (value) =>
  value === undefined ? '' : value >= 100 ? Math.round(value).toLocaleString('en') : value.toFixed(1);
console.log(
  `\nYears of ${EACH} movements for each player\n${''.padEnd(42)}${`${FEW.toLocaleString('en')}`.padStart(12)}${MANY.toLocaleString('en').padStart(12)}   ratio`,
);
for (const name of Object.keys(many))
  console.log(
    `  ${name.padEnd(40)}${told(few[name]).padStart(12)}${told(many[name]).padStart(12)}   ${few[name] ? (many[name] / few[name]).toFixed(2) : ''}`,
  );
if (kept === undefined) rmSync(folder, { recursive: true });
