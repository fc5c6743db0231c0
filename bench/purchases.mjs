// Purchases per second through the service's writer, against raw better-sqlite3 making the same row changes in groups
// of the same size, both with synchronous=FULL. Goal: at least half.
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { serviceCreate } from '../dist/service/index.js';
import { databaseOpen } from '../dist/service/index.js';
import { compare, loadDemo, secondsOf } from './support.mjs';

const GROUP = 50;
const GROUPS = 100;
const folder = mkdtempSync(join(tmpdir(), 'dimestall-bench-'));

// No rows but those of a purchase: what counts towards goals is measured in goals.mjs.
const { goals: _goals, tracks: _tracks, rankings: _rankings, texts: _texts, ...document } = loadDemo().document;
document.currencies.shells.start = Number.MAX_SAFE_INTEGER;
delete document.currencies.shells.cap;
document.items.glide_wax.carry = Number.MAX_SAFE_INTEGER;
delete document.items.glide_wax.stack;

const service = serviceCreate({ data: join(folder, 'service.sqlite'), logLevel: 'silent' });
const prepared = service.draft.prepare(document, 0);
await service.writer.submit(() => service.draft.save(prepared, 'bench', 'bench'));
await service.publish({ note: 'bench', channel: 'live', revision: 1, atMs: undefined }, 'bench');
for (let player = 0; player < GROUP; player++) await service.support.create(`p${player}`, `p${player}`, {}, 'bench');

let press = 0;
async function throughWriter() {
  const seconds = await secondsOf(async () => {
    for (let group = 0; group < GROUPS; group++) {
      await Promise.all(
        Array.from({ length: GROUP }, (_, player) =>
          service.purchases.buy(`p${player}`, { offer: 'wax_1' }, `press ${press++}`),
        ),
      );
    }
  });
  return (GROUP * GROUPS) / seconds;
}

// The rows that one such purchase changes: two movements, a balance, a stack, a counter, the purchase itself; and the
// look whether its key was used.
const raw = databaseOpen(join(folder, 'raw.sqlite')).raw;
for (let player = 0; player < GROUP; player++)
  raw
    .prepare('INSERT INTO players (id, name, started_ms, attributes) VALUES (?, ?, 0, ?)')
    .run(`p${player}`, `p${player}`, '{}');
const seen = raw.prepare(
  "SELECT number, request, answer FROM handled WHERE player = ? AND kind = 'purchase' AND key = ?",
);
const balance = raw.prepare(
  'INSERT INTO balances VALUES (?, ?, ?, ?) ON CONFLICT DO UPDATE SET units = excluded.units, since_ms = excluded.since_ms',
);
const stack = raw.prepare(
  'INSERT INTO stacks VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?) ON CONFLICT DO UPDATE SET item = excluded.item, units = excluded.units, place = excluded.place, cause = excluded.cause, uses_left = excluded.uses_left, expires_ms = excluded.expires_ms, paid = excluded.paid',
);
const till = raw.prepare(
  'INSERT INTO tills VALUES (?, ?, ?, ?) ON CONFLICT DO UPDATE SET units = excluded.units, since_ms = excluded.since_ms',
);
const counter = raw.prepare(
  'INSERT INTO counters VALUES (?, ?, ?, ?) ON CONFLICT DO UPDATE SET count = excluded.count, start_ms = excluded.start_ms',
);
const movement = raw.prepare(
  'INSERT INTO movements (player, asset, units, from_account, to_account, cause, release, at_ms) VALUES (?, ?, ?, ?, ?, ?, ?, ?)',
);
const purchase = raw.prepare(
  `INSERT INTO handled (kind, number, player, key, request, at_ms, answer)
   VALUES ('purchase', (SELECT coalesce(max(number), 0) + 1 FROM handled WHERE kind = 'purchase'), ?, ?, ?, ?, ?) RETURNING number`,
);
const { answer } = await service.purchases.buy('p0', { offer: 'wax_1' }, 'sample');
const answerText = JSON.stringify({ release: answer.release, verdict: answer.verdict });

let rawPress = 0;
async function rawRows() {
  const seconds = await secondsOf(async () => {
    for (let group = 0; group < GROUPS; group++) {
      raw.exec('BEGIN IMMEDIATE');
      for (let index = 0; index < GROUP; index++) {
        const player = `p${index}`;
        const now = Date.now();
        const key = `press ${rawPress++}`;
        seen.get(player, key);
        balance.run(player, 'shells', 1_000_000 - rawPress, null);
        till.run('pier_stall', 'shells', 1500 + rawPress, null);
        stack.run(player, 1, 'glide_wax', rawPress, 'bag', 'purchase:wax_1', null, null, '{"shells":15}');
        counter.run(player, 'offer wax_1 lifetime', rawPress, 0);
        movement.run(player, 'shells', 15, `player:${player}`, 'till:pier_stall', 'purchase:wax_1', 1, now);
        movement.run(player, 'glide_wax', 1, 'shop:pier_stall', `player:${player}`, 'purchase:wax_1', 1, now);
        purchase.get(player, key, '["wax_1",1,null,null]', now, answerText);
      }
      raw.exec('COMMIT');
    }
  });
  return (GROUP * GROUPS) / seconds;
}

await compare(`Purchases in groups of ${GROUP} (goal: a ratio of 0.5 or more)`, 'purchases/s', {
  "through the service's writer": throughWriter,
  'raw better-sqlite3, same rows': rawRows,
});
await service.runs.close();
service.database.close();
raw.close();
rmSync(folder, { recursive: true });
