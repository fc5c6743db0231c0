/** One process writes a database, and nothing is answered that is not on disk. */
import { existsSync, renameSync, statSync, chmodSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import Sqlite from 'better-sqlite3';
import { runProcess } from '../support/cli.js';
import { demoDocument } from '../support/economy.js';
import { Served } from '../support/served.js';
import { problemOf, scratchFolder, startStall } from '../support/stall.js';
import type { Stall } from '../support/stall.js';

describe('a service that runs', () => {
  let served: Served;
  beforeAll(async () => {
    served = await Served.demo();
  });
  afterAll(() => served.end());

  const verify = () => runProcess(['verify', '--data', served.data]);
  const buy = (key: string) =>
    served.client.call('POST /purchases', { body: { player: 'mateo', offer: 'wax_1' }, key });

  test('a second one on its file is refused in a sentence; one that was killed is no obstacle', async () => {
    const second = await runProcess(['serve', '--data', served.data, '--port', '0']);
    expect(second).toMatchObject({ code: 1, out: '' });
    expect(second.err).toMatch(/is in use by a service that runs.*Stop that one first/);
    await served.stop('SIGKILL');
    await served.start();
    expect((await served.client.call('GET /session')).role).toBe('admin');
  });

  test('token and verify look on beside it, and what it is at goes on', async () => {
    const run = await served.client.call('POST /runs', {
      body: { scenario: 'first_month', days: 3000, players: 2000 },
    });
    await buy('beside');
    expect((await verify()).out).toMatch(/all agree/);
    expect((await runProcess(['token', '--data', served.data, '--role', 'read'])).code).toBe(0);
    expect(['waiting', 'running']).toContain(
      (await served.client.call('GET /runs/{run}', { params: { run: run.id } })).status,
    );
    await served.client.call('DELETE /runs/{run}', { params: { run: run.id } });
  });

  test('a database that another process locks for long costs nobody more than the wait, and answers 503', async () => {
    const other = new Sqlite(served.data);
    other.exec('BEGIN IMMEDIATE');
    const refused = fetch(`${served.url}/api/v1/players`, {
      method: 'POST',
      headers: { Authorization: `Bearer ${served.token}`, 'Content-Type': 'application/json' },
      body: JSON.stringify({ id: 'late' }),
    });
    const attempts = Promise.all(
      Array.from({ length: 30 }, async (_, n) => (await problemOf(buy(`locked-${n}`))).kind),
    );
    // It answers meanwhile.
    for (let n = 0; n < 5; n++) expect((await fetch(`${served.url}/healthz`)).status).toBe(200);
    expect(new Set(await attempts)).toEqual(new Set(['storage']));
    const { status, headers } = await refused;
    expect([status, headers.get('retry-after')]).toEqual([503, '5']);
    other.exec('ROLLBACK');
    other.close();
    expect((await buy('locked-0')).purchase).toBeGreaterThan(0);
    expect((await verify()).out).toMatch(/all agree/);
  });

  test('a file that is taken away while it runs: nothing is answered as done that is not there', async () => {
    renameSync(served.data, `${served.data}.away`);
    expect(await problemOf(buy('gone'))).toMatchObject({ kind: 'storage', status: 503 });
    renameSync(`${served.data}.away`, served.data);
    expect((await buy('back')).purchase).toBeGreaterThan(0);
  });

  test('its files are the owner’s alone, whatever they were before', async () => {
    await served.stop();
    const access = join(served.folder.path, 'client.json');
    for (const file of [served.data, access]) chmodSync(file, 0o644);
    await served.start();
    await served.client.call('POST /players', { body: { id: 'mode' } });
    for (const file of [served.data, `${served.data}-wal`, `${served.data}-shm`, access])
      expect([file, (statSync(file).mode & 0o777).toString(8)]).toEqual([file, '600']);
  });

  test('a token file that is something else is told, and left alone', async () => {
    await served.stop();
    const access = join(served.folder.path, 'client.json');
    writeFileSync(access, 'not json');
    await expect(served.start()).rejects.toThrow(/does not hold a token, as --token-file wrote it/);
  });
});

describe('a file that cannot be used', () => {
  let folder: ReturnType<typeof scratchFolder>;
  beforeEach(() => {
    folder = scratchFolder();
  });
  afterEach(() => folder.remove());

  test.each(['verify', 'token'])('%s makes no database where there is none', async (command) => {
    const data = join(folder.path, 'mistyped.sqlite');
    expect(await runProcess([command, '--data', data])).toMatchObject({
      code: 1,
      err: `There is no database ${data}. Name it with --data.\n`,
    });
    expect(existsSync(data)).toBe(false);
  });

  test('one of a newer version is told, and not touched', async () => {
    const data = join(folder.path, 'stall.sqlite');
    await (await startStall({ data, publish: false })).stop();
    const raw = new Sqlite(data);
    raw.exec("INSERT INTO __drizzle_migrations (hash, created_at) VALUES ('later', 9999999999999)");
    raw.close();
    for (const command of ['serve', 'verify', 'token']) {
      const told = await runProcess([command, '--data', data, ...(command === 'serve' ? ['--port', '0'] : [])]);
      expect([told.code, told.err]).toEqual([1, expect.stringContaining('of a newer version of Dime Stall')]);
    }
  });
});

describe('a disk that is full', () => {
  let stall: Stall;
  let folder: ReturnType<typeof scratchFolder>;
  beforeEach(async () => {
    folder = scratchFolder();
    stall = await startStall({ data: join(folder.path, 'stall.sqlite') });
  });
  afterEach(async () => {
    await stall.stop();
    folder.remove();
  });
  const full = (isFull: boolean) => {
    const { raw } = stall.service.database;
    raw.pragma(`max_page_count = ${isFull ? (raw.pragma('page_count', { simple: true }) as number) : 1_000_000}`);
  };
  /** Fills what is free in the pages that there are, so that the next row of any size needs another. */
  const fill = async () => {
    full(true);
    for (let n = 0; n < 40; n++)
      await stall
        .as('game')
        .call('POST /players', { body: { id: `fill-${n}`, name: 'x'.repeat(100) } })
        .catch(() => undefined);
  };

  test('a run is not begun, and says why', async () => {
    await fill();
    // More than the free rest of a page.
    const set = Object.fromEntries(
      Object.keys(demoDocument().items!).map((id) => [`/items/${id}/name`, 'x'.repeat(100)]),
    );
    const refused = await problemOf(stall.as('design').call('POST /runs', { body: { scenario: 'first_month', set } }));
    expect(refused).toMatchObject({ kind: 'storage', status: 503 });
    full(false);
    expect((await stall.as('read').call('GET /runs')).items).toEqual([]);
  });

  test('a run that ends while nothing can be written is kept, tried again, and told', async () => {
    const { id } = await stall
      .as('design')
      .call('POST /runs', { body: { scenario: 'racers_only', days: 30, players: 60 } });
    await fill();
    const until = async (isSo: () => boolean | Promise<boolean>) => {
      while (!(await isSo())) await new Promise((done) => setTimeout(done, 20));
    };
    await until(() => stall.service.faults.count > 0);
    expect((await stall.as('read').call('GET /runs/{run}', { params: { run: id } })).status).toBe('running');
    full(false);
    await until(
      async () => (await stall.as('read').call('GET /runs/{run}', { params: { run: id } })).status === 'done',
    );
    expect((await stall.as('read').call('GET /runs/{run}/result', { params: { run: id } })).players).toBeDefined();
    expect(await (await fetch(`${stall.url}/metrics`)).text()).toMatch(/dimestall_faults_total [1-9]/);
  });
});

test('a refusal that comes after its work has begun to write undoes that work, and nobody else’s', async () => {
  const stall = await startStall();
  const { writer, database, trail } = stall.service;
  const { Problem } = await import('../../src/service/problem.js');
  const results = await Promise.allSettled([
    writer.submit(() => trail.add('ada', 'first', 'kept')),
    writer.submit(() => {
      trail.add('ada', 'second', 'undone');
      throw new Problem('bad-request', 'too late');
    }),
    writer.submit(() => trail.add('ada', 'third', 'kept')),
  ]);
  expect(results.map((result) => (result.status === 'rejected' ? (result.reason as Error).message : 'done'))).toEqual([
    'done',
    'too late',
    'done',
  ]);
  expect(database.raw.prepare("SELECT action FROM trail WHERE who = 'ada' ORDER BY id").pluck().all()).toEqual([
    'first',
    'third',
  ]);
  await stall.stop();
});

test('a batch whose last key belongs to another request has taken nothing of what came before', async () => {
  const stall = await startStall();
  await stall.as('game').call('POST /players', { body: { id: 'mateo' } });
  await stall.as('support').call('POST /players/{player}/grants', {
    params: { player: 'mateo' },
    body: { gives: { glide_wax: 5 }, reason: 'test' },
    key: 'g',
  });
  const use = (...uses: { id: string; times: number }[]) =>
    stall
      .as('game')
      .call('POST /uses', { body: { player: 'mateo', uses: uses.map((one) => ({ ...one, item: 'glide_wax' })) } });
  await use({ id: 'a', times: 1 });
  expect((await problemOf(use({ id: 'b', times: 1 }, { id: 'c', times: 1 }, { id: 'a', times: 2 }))).kind).toBe(
    'key-reused',
  );
  const { stacks } = await stall.as('read').call('GET /players/{player}', { params: { player: 'mateo' } });
  expect(stacks.find(({ item }) => item === 'glide_wax')!.units).toBe(4);
  await stall.stop();
});

test('a clock that steps back two days and forth again lets nobody buy more', async () => {
  const stall = await startStall();
  await stall.as('game').call('POST /players', { body: { id: 'mateo' } });
  await stall.as('support').call('POST /players/{player}/grants', {
    params: { player: 'mateo' },
    body: { gives: { shells: 100_000, ribbons: 1000, pearls: 1000 }, reason: 'test' },
    key: 'g',
  });
  const { economy } = stall.service.sources.live();
  const limited = [...economy.offers.values()].find(({ limits }) => limits.some(({ period }) => period === 'day'))!;
  const most = limited.limits.find(({ period }) => period === 'day')!.most;
  let bought = 0;
  let press = 0;
  const { nowMs } = stall.clock;
  for (const days of [0, -2, 0, -2, -1, 0]) {
    stall.clock.nowMs = nowMs + days * 86_400_000;
    for (let n = 0; n < most + 1; n++) {
      const result = await stall
        .as('game')
        .call('POST /purchases', { body: { player: 'mateo', offer: limited.id }, key: `k${press++}` })
        .catch(() => undefined);
      if (result) bought++;
    }
  }
  expect([limited.id, bought]).toEqual([limited.id, most]);
  await stall.stop();
});

test('sums beyond what numbers hold exactly are checked exactly, and grants are bounded', async () => {
  const stall = await startStall();
  const { raw } = stall.service.database;
  await stall.as('game').call('POST /players', { body: { id: 'mateo' } });
  const grant = (units: number, key: string) =>
    stall.as('support').call('POST /players/{player}/grants', {
      params: { player: 'mateo' },
      body: { gives: { sea_glass: units }, reason: 'test' },
      key,
    });
  expect((await problemOf(grant(2 ** 53 - 1, 'huge'))).status).toBe(422);
  const { integrityCheck } = await import('../../src/service/index.js');
  // As a ledger of years may have it: in and out by a grant and an odd unit more than a number can tell apart.
  const move = raw.prepare(
    "INSERT INTO movements (player, at_ms, asset, units, from_account, to_account, cause, release) VALUES ('mateo', 0, 'shells', ?, ?, ?, 'test', 1)",
  );
  for (const units of [2 ** 53 - 1, 2 ** 53 - 1, 3]) move.run(units, 'world:test', 'player:mateo');
  for (const units of [3, 2 ** 53 - 1, 2 ** 53 - 1]) move.run(units, 'player:mateo', 'world:test');
  expect(integrityCheck(stall.service.database).faults).toEqual([]);
  await stall.stop();
});
