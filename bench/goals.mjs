// Events that move five goals each, through the service's writer, against raw better-sqlite3 making the same row changes
// in groups of the same size, both with synchronous=FULL (goal: at least half); and a storefront with goals in play
// beside one without.
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { databaseOpen, serviceCreate } from '../dist/service/index.js';
import { frontMake } from '../dist/core/storefront/index.js';
import { economyCompile } from '../dist/core/economy/index.js';
import { playerCreate } from '../dist/core/player/index.js';
import { UNTOUCHED } from '../dist/core/trade/index.js';
import { compare, loadDemo, secondsOf } from './support.mjs';

const GROUP = 50;
const GROUPS = 100;
const GOALS = 5;
const folder = mkdtempSync(join(tmpdir(), 'dimestall-bench-'));

const { document: demo } = loadDemo();
const document = structuredClone(demo);
// No row but theirs: rankings would keep another.
delete document.rankings;
delete document.tracks;
delete document.texts;
document.earning = { prize: { name: 'Prize', on: 'race_finished', gives: { shells: 1 } } };
document.goals = Object.fromEntries(
  Array.from({ length: GOALS }, (_, number) => [
    `goal_${number}`,
    { name: `Goal ${number}`, counts: 'events', event: 'race_finished', target: 1_000_000_000 },
  ]),
);

const service = serviceCreate({ data: join(folder, 'service.sqlite'), logLevel: 'silent' });
const prepared = service.draft.prepare(document, 0);
await service.writer.submit(() => service.draft.save(prepared, 'bench', 'bench'));
await service.publish({ note: 'bench', channel: 'live', revision: 1, atMs: undefined }, 'bench');
for (let player = 0; player < GROUP; player++) await service.support.create(`p${player}`, `p${player}`, {}, 'bench');

let number = 0;
const race = () => ({ id: `race ${number++}`, name: 'race_finished', fields: { place: 3, difficulty: 2 } });
async function throughWriter() {
  const seconds = await secondsOf(async () => {
    for (let group = 0; group < GROUPS; group++)
      await Promise.all(Array.from({ length: GROUP }, (_, player) => service.events.report(`p${player}`, [race()])));
  });
  return (GROUP * GROUPS) / seconds;
}

// The rows that one such event changes: a movement, a balance, five counters, the event itself; and the look whether it
// was handled.
const raw = databaseOpen(join(folder, 'raw.sqlite')).raw;
for (let player = 0; player < GROUP; player++)
  raw
    .prepare('INSERT INTO players (id, name, started_ms, attributes) VALUES (?, ?, 0, ?)')
    .run(`p${player}`, `p${player}`, '{}');
const seen = raw.prepare("SELECT number, request, answer FROM handled WHERE player = ? AND kind = 'event' AND key = ?");
const balance = raw.prepare(
  'INSERT INTO balances VALUES (?, ?, ?, ?) ON CONFLICT DO UPDATE SET units = excluded.units, since_ms = excluded.since_ms',
);
const counter = raw.prepare(
  'INSERT INTO counters VALUES (?, ?, ?, ?) ON CONFLICT DO UPDATE SET count = excluded.count, start_ms = excluded.start_ms',
);
const movement = raw.prepare(
  'INSERT INTO movements (player, asset, units, from_account, to_account, cause, release, at_ms) VALUES (?, ?, ?, ?, ?, ?, ?, ?)',
);
const handled = raw.prepare(
  `INSERT INTO handled (kind, number, player, key, request, at_ms, answer)
   VALUES ('event', (SELECT coalesce(max(number), 0) + 1 FROM handled WHERE kind = 'event'), ?, ?, '', ?, ?) RETURNING number`,
);
const [{ repeated: _, ...answer }] = await service.events.report('p0', [race()]);
const answerText = JSON.stringify(answer);

let rawNumber = 0;
async function rawRows() {
  const seconds = await secondsOf(async () => {
    for (let group = 0; group < GROUPS; group++) {
      raw.exec('BEGIN IMMEDIATE');
      for (let index = 0; index < GROUP; index++) {
        const player = `p${index}`;
        const now = Date.now();
        const key = `race ${rawNumber++}`;
        seen.get(player, key);
        balance.run(player, 'shells', rawNumber, null);
        for (let goal = 0; goal < GOALS; goal++) counter.run(player, `goal goal_${goal}`, rawNumber, 0);
        movement.run(player, 'shells', 1, 'world:earning', `player:${player}`, 'earning:prize', 1, now);
        handled.get(player, key, now, answerText);
      }
      raw.exec('COMMIT');
    }
  });
  return (GROUP * GROUPS) / seconds;
}

await compare(`Events that move five goals, in groups of ${GROUP} (goal: a ratio of 0.5 or more)`, 'events/s', {
  "through the service's writer": throughWriter,
  'raw better-sqlite3, same rows': rawRows,
});

const FRONTS = 300;
const fronts = (of) => {
  const { economy } = economyCompile(of);
  const nowMs = Date.UTC(2027, 2, 1, 9);
  const { player } = playerCreate(economy, 'oda', 'Oda', nowMs);
  const shop = economy.shops.get('pier_stall');
  return async () =>
    FRONTS /
    (await secondsOf(() => {
      for (let front = 0; front < FRONTS; front++) frontMake(economy, shop, player, UNTOUCHED, nowMs + front);
    }));
};
await compare('A storefront made, with twelve goals and a track in play', 'fronts/s', {
  'with goals': fronts({
    ...demo,
    goals: Object.fromEntries(
      Array.from({ length: 12 }, (_, place) => [
        `goal_${place}`,
        { name: 'Goal', counts: 'owned', groups: ['tails'], distinct: true, target: 3 },
      ]),
    ),
    tracks: {
      flyer: { name: 'Flyer', earns: 'shells', attribute: 'level', further: { to: 20, costs: '=10 * level' } },
    },
  }),
  without: fronts(demo),
});
await service.runs.close();
service.database.close();
raw.close();
rmSync(folder, { recursive: true });
