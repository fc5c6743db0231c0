import { chmodSync, copyFileSync, mkdirSync, readFileSync, readdirSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import Sqlite from 'better-sqlite3';
import { drizzle } from 'drizzle-orm/better-sqlite3';
import { migrate } from 'drizzle-orm/better-sqlite3/migrator';
import { databaseOpen, integrityCheck, packageRoot } from '../../src/service/index.js';
import { databaseRestore } from '../../src/service/store/restore.js';
import { ReleaseStore } from '../../src/service/store/releaseStore.js';
import { Writer } from '../../src/service/store/writer.js';
import { demoDocument } from '../support/economy.js';
import { scratchFolder, startStall } from '../support/stall.js';

let folder: ReturnType<typeof scratchFolder>;
beforeEach(() => {
  folder = scratchFolder();
});
afterEach(() => folder.remove());

test('what was bought is there after a restart', async () => {
  const data = join(folder.path, 'stall.sqlite');
  const first = await startStall({ data });
  await first.as('game').call('POST /players', { body: { id: 'mateo', name: 'Mateo', attributes: { level: 3 } } });
  await first.as('game').call('POST /purchases', { body: { player: 'mateo', offer: 'wax_1', times: 2 }, key: 'k' });
  await first.as('game').call('POST /players/{player}/events', {
    params: { player: 'mateo' },
    body: { events: [{ id: 'e', name: 'chime_hung' }] },
  });
  const before = await first.as('read').call('GET /players/{player}', { params: { player: 'mateo' } });
  const front = await first
    .as('read')
    .call('GET /shops/{shop}/front', { params: { shop: 'pier_stall' }, query: { player: 'mateo' } });
  await first.stop();
  const second = await startStall({ data, publish: false });
  expect(await second.as('read').call('GET /players/{player}', { params: { player: 'mateo' } })).toEqual(before);
  expect(
    await second
      .as('read')
      .call('GET /shops/{shop}/front', { params: { shop: 'pier_stall' }, query: { player: 'mateo' } }),
  ).toEqual(front);
  expect(
    await second.as('game').call('POST /purchases', { body: { player: 'mateo', offer: 'wax_1', times: 2 }, key: 'k' }),
  ).toMatchObject({ purchase: 1 });
  expect(
    (
      await second.as('game').call('POST /players/{player}/events', {
        params: { player: 'mateo' },
        body: { events: [{ id: 'e', name: 'chime_hung' }] },
      })
    ).events[0]!.repeated,
  ).toBe(true);
  await second.stop();
});

describe('the writer', () => {
  const open = () => {
    const database = databaseOpen(':memory:');
    database.raw.exec('CREATE TABLE notes (id INTEGER PRIMARY KEY, text TEXT NOT NULL) STRICT');
    const rollbacks = { count: 0 };
    const writer = new Writer(database, {
      isRefusal: (error) => error instanceof RangeError,
      onRollback: () => {
        rollbacks.count++;
      },
    });
    const write = (text: string | null) =>
      writer.submit(() => database.raw.prepare('INSERT INTO notes (text) VALUES (?)').run(text).changes);
    const notes = () => database.raw.prepare('SELECT text FROM notes ORDER BY id').pluck().all();
    return { database, writer, rollbacks, write, notes };
  };

  test('work that fails unforeseen is undone alone; its group is kept', async () => {
    const { write, notes, rollbacks, database } = open();
    const results = await Promise.allSettled([write('a'), write(null), write('c')]);
    expect(results.map(({ status }) => status)).toEqual(['fulfilled', 'rejected', 'fulfilled']);
    expect(notes()).toEqual(['a', 'c']);
    expect(rollbacks.count).toBeGreaterThan(0);
    database.close();
  });

  test('a refusal goes to its caller and costs the group nothing', async () => {
    const { writer, write, notes, rollbacks, database } = open();
    const results = await Promise.allSettled([
      write('a'),
      writer.submit(() => {
        throw new RangeError('no');
      }),
      write('c'),
    ]);
    expect(results.map(({ status }) => status)).toEqual(['fulfilled', 'rejected', 'fulfilled']);
    expect([notes(), rollbacks.count, writer.committed]).toEqual([['a', 'c'], 0, { groups: 1, tasks: 3 }]);
    database.close();
  });

  test('nobody is answered before the commit', async () => {
    const { writer, database } = open();
    let inside: boolean | undefined;
    const answered = writer.submit(() => 1).then(() => database.raw.inTransaction);
    await writer.submit(() => {
      inside = database.raw.inTransaction;
    });
    expect([inside, await answered]).toEqual([true, false]);
    database.close();
  });

  test('whichever table of a purchase cannot be written, all of it is undone', async () => {
    const stall = await startStall();
    const { raw } = stall.service.database;
    await stall.as('game').call('POST /players', { body: { id: 'mateo' } });
    await stall.as('admin').call('POST /players/{player}/grants', {
      params: { player: 'mateo' },
      body: { gives: { shells: 1000 }, reason: 'test' },
      key: 'start',
    });
    const state = () => stall.as('read').call('GET /players/{player}', { params: { player: 'mateo' } });
    const written: string[] = [];
    const tables = raw
      .prepare("SELECT name FROM sqlite_master WHERE type = 'table' AND name NOT LIKE 'sqlite_%' ORDER BY name")
      .pluck()
      .all() as string[];
    for (const table of tables) {
      raw.exec(
        `CREATE TEMP TRIGGER fault BEFORE INSERT ON main.${table} BEGIN SELECT RAISE(ABORT, 'planted fault'); END`,
      );
      const before = await state();
      const response = await stall.raw('POST', '/purchases', {
        body: { player: 'mateo', offer: 'wax_1' },
        headers: { 'Idempotency-Key': table },
      });
      expect(await response.text()).not.toContain('planted');
      raw.exec('DROP TRIGGER fault');
      expect(integrityCheck(stall.service.database).faults).toEqual([]);
      if (response.status === 201) continue;
      written.push(table);
      expect(response.status).toBe(500);
      expect(await state()).toEqual(before);
      expect(
        (
          await stall.raw('POST', '/purchases', {
            body: { player: 'mateo', offer: 'wax_1' },
            headers: { 'Idempotency-Key': table },
          })
        ).status,
      ).toBe(201);
    }
    expect(written).toEqual(['balances', 'counters', 'handled', 'movements', 'stacks', 'tills']);
    await stall.stop();
  });

  test('a publication that is undone leaves nothing behind, not even in memory', async () => {
    const stall = await startStall();
    await stall.as('game').call('POST /players', { body: { id: 'mateo' } });
    const { raw } = stall.service.database;
    const publishAt = async (shells: number) => {
      const { revision } = await stall.as('read').call('GET /draft');
      await stall.as('design').call('PATCH /draft', {
        body: [{ op: 'replace', path: '/items/oak_reel/worth/shells', value: shells }],
        revision,
      });
      return stall.raw('POST', '/releases', { body: { note: `at ${shells}` } });
    };
    const price = async () =>
      (await stall.as('read').call('POST /checks', { body: { checks: [{ offer: 'oak_reel', player: 'mateo' }] } }))
        .verdicts[0]!.price!.total;
    raw.exec(
      "CREATE TEMP TRIGGER late BEFORE INSERT ON main.trail WHEN new.action = 'channel.point' BEGIN SELECT RAISE(ABORT, 'planted fault'); END",
    );
    expect((await publishAt(180)).status).toBe(500);
    expect(await price()).toEqual({ shells: 200 });
    raw.exec('DROP TRIGGER late');
    expect((await publishAt(190)).status).toBe(201);
    expect(await price()).toEqual({ shells: 190 });
    expect((await stall.as('read').call('GET /releases')).items.map(({ number, note }) => [number, note])).toEqual([
      [2, 'at 190'],
      [1, 'first'],
    ]);
    await stall.stop();
  });

  test('a full disk is told as such, and nothing is changed', async () => {
    const stall = await startStall({ data: join(folder.path, 'stall.sqlite') });
    await stall.as('game').call('POST /players', { body: { id: 'mateo' } });
    const { raw } = stall.service.database;
    raw.pragma(`max_page_count = ${raw.pragma('page_count', { simple: true }) as number}`);
    const document = demoDocument();
    document.items!['oak_reel']!.properties = { story: 'x'.repeat(500_000) };
    const response = await stall.raw('PUT', '/draft', { body: document, headers: { 'If-Match': '"1"' } });
    expect([response.status, await response.json()]).toEqual([
      503,
      expect.objectContaining({ type: 'urn:dimestall:storage' }),
    ]);
    expect(await stall.as('read').call('GET /draft')).toMatchObject({ revision: 1 });
    await stall.stop();
  });
});

/** A database as it was before a migration, filled with `rows`, and opened by today's service. */
function databaseSince(migration: string, path: string, rows: readonly string[]) {
  const all = join(packageRoot(), 'migrations');
  const before = join(folder.path, 'migrations');
  const journal = JSON.parse(readFileSync(join(all, 'meta', '_journal.json'), 'utf8')) as {
    entries: { tag: string }[];
  };
  const entries = journal.entries.slice(
    0,
    journal.entries.findIndex(({ tag }) => tag === migration),
  );
  mkdirSync(join(before, 'meta'), { recursive: true });
  writeFileSync(join(before, 'meta', '_journal.json'), JSON.stringify({ ...journal, entries }));
  for (const { tag } of entries) copyFileSync(join(all, `${tag}.sql`), join(before, `${tag}.sql`));
  const old = new Sqlite(path);
  migrate(drizzle(old), { migrationsFolder: before });
  for (const row of rows) old.exec(row);
  old.close();
  return databaseOpen(path);
}

describe('opening a database', () => {
  test('a file that is none is told, and left alone', () => {
    const path = join(folder.path, 'note.txt');
    writeFileSync(path, 'this is no database, but a note of some length '.repeat(50));
    expect(() => databaseOpen(path)).toThrow(/is not a database\. Move it away/);
  });

  test('one that cannot be written is told', () => {
    const path = join(folder.path, 'stall.sqlite');
    databaseOpen(path).close();
    chmodSync(path, 0o444);
    chmodSync(folder.path, 0o777);
    // Root may write everything, so the tests of root look as nobody does.
    const nobody = 65_534;
    const isRoot = process.getuid!() === 0;
    if (isRoot) process.seteuid!(nobody);
    try {
      expect(() => databaseOpen(path)).toThrow(/cannot be written\. Check the permissions/);
    } finally {
      if (isRoot) process.seteuid!(0);
    }
  });

  test('channels of a database from before they had moves come along', () => {
    const path = join(folder.path, 'old.sqlite');
    const again = databaseSince('0002_time', path, [
      "INSERT INTO releases (document, note, draft_revision, published_ms, published_by) VALUES ('{}', 'old', 1, 5, 'ana')",
      "INSERT INTO channels VALUES ('live', 1, 7, 'ana'), ('test', 1, 9, 'bo')",
    ]);
    expect(
      again.raw
        .prepare('SELECT channel, release, at_ms, scheduled, reached_ms, made_by FROM channel_moves ORDER BY id')
        .raw()
        .all(),
    ).toEqual([
      ['live', 1, 7, 0, 7, 'ana'],
      ['test', 1, 9, 0, 9, 'bo'],
    ]);
    again.close();
  });

  test('a pin from before pins had their time gets that of its period, by the beat of the release of then', () => {
    const shelf = (every: string) =>
      JSON.stringify({
        timeZone: 'Europe/Lisbon',
        shops: { wagon: { shelves: { tonight: { rotation: { show: 1, every, at: '09:00' }, offers: {} } } } },
      });
    const again = databaseSince('0006_periods', join(folder.path, 'old.sqlite'), [
      ...['day', 'week'].map(
        (every, index) => `INSERT INTO releases VALUES (${index + 1}, '${shelf(every)}', '', 1, 5, 'ana')`,
      ),
      `INSERT INTO channel_moves (channel, release, at_ms, scheduled, note, made_ms, made_by) VALUES
        ('live', 1, 10, 0, '', 10, 'ana'), ('live', 2, 20, 0, '', 20, 'ana')`,
      `INSERT INTO rotation_records (shelf, period, kind, offer, why, made_ms, made_by) VALUES
        ('wagon/tonight', 3, 'pin', 'kite', '', 15, 'ana'), ('wagon/tonight', 3, 'without', 'sail', '', 25, 'ana')`,
    ]);
    const periods = again.raw.prepare('SELECT start_ms, end_ms FROM rotation_records ORDER BY id').raw().all();
    const at = (text: string) => Date.parse(`2024-${text}T09:00Z`);
    expect(periods).toEqual([
      [at('01-04'), at('01-05')],
      [at('01-22'), at('01-29')],
    ]);
    again.close();
  });

  test('keys of a database from before they had one table are known, with the numbers that were told', async () => {
    const path = join(folder.path, 'old.sqlite');
    databaseSince('0004_handled', path, [
      "INSERT INTO players VALUES ('mateo', 'Mateo', 5, '{}')",
      `INSERT INTO purchases (id, player, key, request, offer, times, release, at_ms, answer) VALUES
        (7, 'mateo', 'k', '["wax_1",1,null,null]', 'wax_1', 1, 1, 6, '{"release":1,"verdict":{"offer":"wax_1"}}')`,
      `INSERT INTO acts (id, player, key, kind, request, release, at_ms, answer) VALUES
        (3, 'mateo', 'k', 'use', '["use","glide_wax",1,null,null]', 1, 7, '{"release":1,"verdict":{"allowed":true}}')`,
      `INSERT INTO grants (id, player, key, request, who, reason, at_ms, answer) VALUES
        (2, 'mateo', 'k', '[[["shells",5]],[],"sorry"]', 'ana', 'sorry', 8, '{"given":{"shells":5}}')`,
      `INSERT INTO events (player, id, name, at_ms, answer) VALUES
        ('mateo', 'e1', 'chime_hung', 9, '{"id":"e1","outcomes":[]}'), ('mateo', 'e2', 'chime_hung', 9,
          '{"id":"e2","outcomes":[{"rule":"a","paid":true,"given":{}},{"rule":"b","paid":false,"why":"when"}]}')`,
    ]).close();
    const stall = await startStall({ data: path });
    const { purchases, acts, events, support } = stall.service;
    expect([
      await purchases.buy('mateo', { offer: 'wax_1' }, 'k'),
      await acts.act('use', 'mateo', { item: 'glide_wax' }, 'k'),
      await support.grant('mateo', { gives: { shells: 5 }, takes: {}, reason: 'sorry' }, 'ana', 'k'),
      await events.report('mateo', [{ id: 'e2', name: 'chime_hung', fields: {} }]),
    ]).toEqual([
      { repeated: true, answer: { purchase: 7, release: 1, verdict: { offer: 'wax_1' } } },
      { repeated: true, answer: { act: 3, release: 1, verdict: { allowed: true }, keptOut: [] } },
      { repeated: true, answer: { grant: 2, given: { shells: 5 }, keptOut: [] } },
      // What they tell since is there too, empty.
      [
        {
          id: 'e2',
          repeated: true,
          outcomes: [
            { rule: 'a', paid: true, given: {}, keptOut: [] },
            { rule: 'b', paid: false, why: 'when' },
          ],
        },
      ],
    ]);
    const next = await support.grant('mateo', { gives: { shells: 1 }, takes: {}, reason: 'again' }, 'ana', 'k2');
    expect(next).toMatchObject({ repeated: false, answer: { grant: 3 } });
    await stall.stop();
  });

  test('drafts and releases that are stored get the names that fields have now', async () => {
    const document = JSON.stringify(demoDocument()).replaceAll('"picks"', '"rolls"');
    const path = join(folder.path, 'old.sqlite');
    const old = databaseSince('0006_periods', path, [
      `INSERT INTO draft_revisions VALUES (1, '${document.replaceAll("'", "''")}', 5, 'ana', 'first')`,
      `INSERT INTO releases VALUES (1, '${document.replaceAll("'", "''")}', '', 1, 5, 'ana')`,
    ]);
    const drafts = (raw: Sqlite.Database) => raw.prepare('SELECT document FROM draft_revisions').pluck().get();
    const expected = JSON.stringify(demoDocument());
    expect(drafts(old.raw) === expected).toBe(true);
    expect([...new ReleaseStore(old).texts()][0] === expected).toBe(true);
    old.close();
    // It runs once: what is written later is not looked at again.
    const again = databaseOpen(path);
    again.raw.exec('UPDATE draft_revisions SET document = replace(document, \'"picks"\', \'"rolls"\')');
    again.close();
    const third = databaseOpen(path);
    expect(String(drafts(third.raw)).includes('"rolls"')).toBe(true);
    third.close();
  });

  test('revisions that were all kept whole are kept as what they changed, and read as before', async () => {
    const path = join(folder.path, 'old.sqlite');
    const document = demoDocument();
    const states = [100, 200, 300, 300].map((units) => {
      document.items!['storm_frame']!.worth = { shells: units };
      return JSON.stringify(document);
    });
    const others = JSON.stringify({ name: 'Another cove', timeZone: 'UTC' });
    const rows = [...states, others, states[0]!].map(
      (text, index) => `(${index + 1}, '${text.replaceAll("'", "''")}', 5, 'ana', '')`,
    );
    databaseSince('0013_goal_parts', path, [
      'PRAGMA user_version = 3',
      `INSERT INTO draft_revisions VALUES ${rows.join(', ')}`,
    ]).close();
    const stall = await startStall({ data: path, publish: false });
    expect(
      stall.service.database.raw
        .prepare('SELECT splice_at IS NULL FROM draft_revisions ORDER BY revision')
        .pluck()
        .all(),
    ).toEqual([1, 0, 0, 0, 1, 1]);
    for (const [index, text] of [...states, others, states[0]!].entries())
      expect(JSON.stringify(stall.service.draft.revision(index + 1).document)).toBe(text);
    await stall.stop();
  });

  test('tills and shared stock of a database from before the ledger counted them agree with it from now on', async () => {
    const path = join(folder.path, 'old.sqlite');
    databaseSince('0005_tills', path, [
      "INSERT INTO players VALUES ('mateo', 'Mateo', 5, '{}')",
      `INSERT INTO stocks VALUES
        ('', 'till pier_stall shells', 700, 4), ('', 'storm_frame', 1, 3), ('', 'calm_charm', 0, 2), ('mateo', 'wax_1', 9, 1)`,
    ]).close();
    const stall = await startStall({ data: path });
    const { shared, players, database } = stall.service;
    expect(shared.get()).toEqual({
      tills: { pier_stall: { shells: { units: 700, sinceMs: 4 } } },
      stocks: { storm_frame: { units: 1, sinceMs: 3 }, calm_charm: { units: 0, sinceMs: 2 } },
    });
    expect(players.get('mateo')!.player.stocks).toEqual({ wax_1: { units: 9, sinceMs: 1 } });
    expect(integrityCheck(database).faults).toEqual([]);
    await stall.stop();
  });

  test('a backup is taken before a migration', () => {
    const path = join(folder.path, 'stall.sqlite');
    databaseOpen(path).close();
    const raw = new Sqlite(path);
    // As if the database came from before the last migration.
    const last = raw.prepare('SELECT max(rowid) FROM __drizzle_migrations').pluck().get() as number;
    raw.exec(`DELETE FROM __drizzle_migrations WHERE rowid = ${last}`);
    raw.close();
    expect(() => databaseOpen(path)).toThrow(/cannot be used/);
    const copy = `stall.sqlite.before-migration-${last - 1}`;
    expect(readdirSync(folder.path)).toContain(copy);
    // One that is left of a start that was cut off stands in nobody's way, and stays.
    expect(() => databaseOpen(path)).toThrow(/cannot be used: Failed to run/);
    expect(readdirSync(folder.path)).toContain(`${copy}-2`);
  });

  test('a database of something else is left as it is', () => {
    const path = join(folder.path, 'notes.sqlite');
    const other = new Sqlite(path);
    other.exec('CREATE TABLE notes (text)');
    other.close();
    expect(() => databaseOpen(path)).toThrow(/notes\.sqlite is none of Dime Stall\. Name another/);
    const raw = new Sqlite(path, { readonly: true });
    expect(raw.prepare('SELECT name FROM sqlite_master').pluck().all()).toEqual(['notes']);
    raw.close();
  });

  test('what was copied before a migration is restored as it is, and brought along again', async () => {
    const path = join(folder.path, 'old.sqlite');
    databaseSince('0005_tills', path, ["INSERT INTO players VALUES ('mateo', 'Mateo', 5, '{}')"]).close();
    const copy = readdirSync(folder.path).find((name) => name.startsWith('old.sqlite.before-migration'))!;
    const restored = join(folder.path, 'restored.sqlite');
    expect(await databaseRestore(join(folder.path, copy), restored, 0)).toMatchObject({
      older: true,
      faults: [],
      replaced: null,
    });
    const { raw, close } = databaseOpen(restored);
    expect(raw.prepare('SELECT id FROM players').pluck().all()).toEqual(['mateo']);
    close();
    const other = new Sqlite(join(folder.path, 'other.sqlite'));
    other.exec('CREATE TABLE notes (text)');
    other.close();
    await expect(databaseRestore(join(folder.path, 'other.sqlite'), restored, 0)).rejects.toThrow(
      /other\.sqlite is none of Dime Stall/,
    );
  });

  test('foreign keys hold and tables are strict', () => {
    const { raw, close } = databaseOpen(':memory:');
    expect(() => raw.exec("INSERT INTO balances VALUES ('nobody', 'shells', 5, NULL)")).toThrow(/FOREIGN KEY/);
    expect(() =>
      raw.exec(
        "INSERT INTO releases (document, note, draft_revision, published_ms, published_by) VALUES ('{}', '', 'many', 0, '')",
      ),
    ).toThrow(/cannot store TEXT/);
    close();
  });
});

describe('verify', () => {
  const planted: [string, string, RegExp][] = [
    [
      'a balance',
      "UPDATE balances SET units = units + 1 WHERE currency = 'shells'",
      /^player:mateo holds \d+ shells; its movements sum to \d+$/,
    ],
    [
      'a stack',
      "DELETE FROM stacks WHERE item = 'storm_frame'",
      /^player:mateo holds 0 storm_frame; its movements sum to 1$/,
    ],
    ['a till', 'UPDATE tills SET units = units - 5', /^till:pier_stall holds \d+ shells; its movements sum to \d+$/],
    ['a till that went', 'DELETE FROM tills', /^till:pier_stall holds 0 shells; its movements sum to \d+$/],
    [
      'shared stock',
      "UPDATE shared_stocks SET units = units + 1 WHERE offer = 'lantern_sail'",
      /^stock:lantern_sail holds \d+ offer:lantern_sail; its movements sum to \d+$/,
    ],
    [
      'a purchase without movements',
      "DELETE FROM movements WHERE cause = 'purchase:storm_frame'",
      /^1 purchases have no movement$/,
    ],
  ];
  test.each(planted)('%s that was changed by hand is found', async (_name, fault, found) => {
    const stall = await startStall();
    await stall.as('game').call('POST /players', { body: { id: 'mateo', attributes: { level: 9 } } });
    await stall.as('admin').call('POST /players/{player}/grants', {
      params: { player: 'mateo' },
      body: { gives: { shells: 2000, pearls: 50 }, reason: 'test' },
      key: 'start',
    });
    await stall.as('game').call('POST /purchases', { body: { player: 'mateo', offer: 'storm_frame' }, key: 'k' });
    await stall
      .as('game')
      .call('POST /purchases', { body: { player: 'mateo', offer: 'lantern_sail', pay: 'pearls' }, key: 'k2' });
    const { database } = stall.service;
    expect(integrityCheck(database).faults).toEqual([]);
    database.raw.exec(fault);
    expect(integrityCheck(database).faults).toContainEqual(expect.stringMatching(found));
    await stall.stop();
  });
});

/** Several rounds of: buy as fast as possible, kill without warning, start again and compare with the answers that were given. */
