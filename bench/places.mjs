// A place in a ranking of 100,000 players, with one balance in ten changing, against a plain count over SQLite's index
// (goal: at most twice its time).
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import Sqlite from 'better-sqlite3';
import { orderAdd, orderRemove, placeOf } from '../dist/core/ranking/index.js';
import { compare, secondsOf } from './support.mjs';

const PLAYERS = 100_000;
const READS = 10_000;
const PLAIN_READS = 200;
const CHANGE_EVERY = 10;
const folder = mkdtempSync(join(tmpdir(), 'dimestall-bench-'));

/** Any numbers, the same in each run. */
let state = 15;
const drawn = (below) => (state = (state * 48_271) % 2_147_483_647) % below;
const SCORES = 1_000_000;
const scores = Array.from({ length: PLAYERS }, () => 1 + drawn(SCORES));

let order;
for (let player = 0; player < PLAYERS; player++) order = orderAdd(order, { who: `p${player}`, score: scores[player] });
const inTree = [...scores];
async function tree() {
  const seconds = await secondsOf(() => {
    for (let read = 0; read < READS; read++) {
      const player = drawn(PLAYERS);
      if (read % CHANGE_EVERY === 0) {
        const who = `p${player}`;
        order = orderRemove(order, { who, score: inTree[player] });
        inTree[player] = 1 + drawn(SCORES);
        order = orderAdd(order, { who, score: inTree[player] });
      }
      placeOf(order, inTree[player]);
    }
  });
  return READS / seconds;
}

const raw = new Sqlite(join(folder, 'places.sqlite'));
raw.exec(
  'PRAGMA journal_mode = WAL; CREATE TABLE balances (player INTEGER PRIMARY KEY, units INTEGER NOT NULL) STRICT; CREATE INDEX by_units ON balances (units)',
);
const insert = raw.prepare('INSERT INTO balances VALUES (?, ?)');
raw.transaction(() => scores.forEach((score, player) => insert.run(player, score)))();
const change = raw.prepare('UPDATE balances SET units = ? WHERE player = ?');
const count = raw
  .prepare('SELECT count(*) FROM balances WHERE units > (SELECT units FROM balances WHERE player = ?)')
  .pluck();
async function plain() {
  const seconds = await secondsOf(() => {
    // One transaction, so that no disk is waited for.
    raw.transaction(() => {
      for (let read = 0; read < PLAIN_READS; read++) {
        const player = drawn(PLAYERS);
        if (read % CHANGE_EVERY === 0) change.run(1 + drawn(SCORES), player);
        count.get(player);
      }
    })();
  });
  return PLAIN_READS / seconds;
}

await compare(
  `Places among ${PLAYERS.toLocaleString('en')} players, one balance in ${CHANGE_EVERY} changing (goal: a ratio of 0.5 or more)`,
  'places/s',
  { 'the tree of a ranking': tree, "a plain count over SQLite's index": plain },
);
rmSync(folder, { recursive: true, force: true });
