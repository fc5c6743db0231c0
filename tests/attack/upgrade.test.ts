/** Databases of every version before this one are brought along, and the way back from there. */
import { createServer } from 'node:net';
import type { AddressInfo } from 'node:net';
import { readFileSync, readdirSync, statSync } from 'node:fs';
import { join } from 'node:path';
import { setTimeout as delay } from 'node:timers/promises';
import Sqlite from 'better-sqlite3';
import { integrityCheck, packageRoot } from '../../src/service/index.js';
import { databaseRollback } from '../../src/service/store/restore.js';
import { runProcess } from '../support/cli.js';
import { SCHEMAS, olderDatabase, rowsOf } from '../support/olderDatabase.js';
import { Served } from '../support/served.js';
import { startStall } from '../support/stall.js';

const { entries } = JSON.parse(readFileSync(join(packageRoot(), 'migrations/meta/_journal.json'), 'utf8')) as {
  entries: unknown[];
};
const NOW_SCHEMA = entries.length;
/** Came in one version with the next. */
const NEVER_RELEASED = [3];

let served: Served;
beforeEach(() => {
  served = new Served();
});
afterEach(() => served.end());

const rollback = (...more: string[]) => runProcess(['rollback', '--data', served.data, ...more]);
const copiesOf = () => readdirSync(served.folder.path).filter((name) => name.includes('.before-migration-'));

test('there is a database of every version; before a migration is added: node script/keep-schema.mjs', () => {
  const before = Array.from({ length: NOW_SCHEMA - 1 }, (_, n) => n + 1);
  expect(before.filter((schema) => !SCHEMAS.includes(schema))).toEqual(NEVER_RELEASED);
});

const OF_THE_CLOCK = ['breeze', 'dawn_tea'];

/** What somebody had, by the tables of that version. */
const heldIn = (path: string): Record<string, Record<string, number>> => {
  const raw = new Sqlite(path, { readonly: true });
  const rows = raw
    .prepare('SELECT player, currency AS asset, units FROM balances UNION ALL SELECT player, item, units FROM stacks')
    .all() as { player: string; asset: string; units: number }[];
  raw.close();
  const held: Record<string, Record<string, number>> = {};
  // What comes back by itself, or goes cold, is of the clock; an item may lie in several stacks.
  for (const { player, asset, units } of rows.filter((row) => !OF_THE_CLOCK.includes(row.asset) && row.units > 0)) {
    const own = (held[player] ??= {});
    own[asset] = (own[asset] ?? 0) + units;
  }
  return held;
};

test.each(SCHEMAS)('one of %i migrations: all is there, agrees, and goes on; and back again', async (schema) => {
  olderDatabase(schema, served.data);
  const [before, held] = [rowsOf(served.data), heldIn(served.data)];
  const raw = new Sqlite(served.data, { readonly: true });
  const draft = raw.prepare('SELECT max(revision) FROM draft_revisions').pluck().get() as number;
  const releases = raw.prepare('SELECT count(*) FROM releases').pluck().get() as number;
  const purchases = raw.prepare("SELECT count(*) FROM movements WHERE cause LIKE 'purchase%'").pluck().get() as number;
  raw.close();
  const stall = await startStall({ data: served.data, publish: false });
  const admin = stall.as('admin');
  expect(integrityCheck(stall.service.database).faults).toEqual([]);
  expect(heldIn(served.data)).toEqual(held);
  expect(purchases).toBeGreaterThan(100);
  const { revision, document } = await admin.call('GET /draft');
  expect(revision).toBe(draft);
  // A revision in the middle, and each release, read as they were.
  const past = await admin.call('GET /draft/revisions/{revision}', { params: { revision: draft - 1 } });
  expect(past.changes).toEqual([expect.objectContaining({ pointer: '/name' })]);
  for (let number = 1; number <= releases; number++) {
    const one = await admin.call('GET /releases/{release}', { params: { release: number } });
    expect(Object.keys(one.document.shops!)).toEqual(Object.keys(document.shops!));
  }
  // Everybody can go on.
  for (const player of Object.keys(held)) {
    const { balances, stacks } = await admin.call('GET /players/{player}', { params: { player } });
    for (const [asset, units] of Object.entries(held[player]!)) {
      const now =
        balances[asset]?.units ?? stacks.filter(({ item }) => item === asset).reduce((n, one) => n + one.units, 0);
      expect([player, asset, now]).toEqual([player, asset, units]);
    }
  }
  await admin.call('POST /players/{player}/grants', {
    params: { player: 'made_1' },
    body: { gives: { shells: 100 }, reason: 'more' },
    key: 'more',
  });
  await stall.stop();
  if (schema === NOW_SCHEMA) {
    expect(copiesOf()).toEqual([]);
    return;
  }
  // Something was written since: it is told, and kept.
  await expect(databaseRollback(served.data, 0, false)).rejects.toThrow(/would be lost: \d rows? in movements/);
  const { replaced } = await databaseRollback(served.data, 0, true);
  expect(rowsOf(served.data)).toEqual(before);
  expect(heldIn(replaced!)['made_1']!['shells']).toBe((held['made_1']!['shells'] ?? 0) + 100);
});

/** A port that nobody uses now. */
async function freePort(): Promise<number> {
  const probe = createServer().listen(0, '127.0.0.1');
  await new Promise((heard) => probe.once('listening', heard));
  const { port } = probe.address() as AddressInfo;
  await new Promise((closed) => probe.close(closed));
  return port;
}

/** Asks until somebody answers well; gives every other answer. */
async function askUntilOpen(url: string, path: string, init: RequestInit = {}): Promise<Response[]> {
  const others: Response[] = [];
  for (;;) {
    const answer = await fetch(`${url}${path}`, init).catch(() => undefined);
    if (answer && answer.status !== 503) return others;
    if (answer) others.push(answer);
    await delay(20);
  }
}

test('while a large one is brought along, who asks is told why and when to come again; then it is open', async () => {
  olderDatabase(14, served.data, 150);
  const plan = await runProcess(['upgrade', '--dry-run', '--data', served.data]);
  expect(plan.out).toMatch(
    /older version\. To be done: 4 changes to 15\d\.\d MB, after a copy \(.*\.before-migration-14\)\. That takes about \d seconds, .* There is room for the copy/,
  );
  expect(copiesOf()).toEqual([]);
  const port = await freePort();
  const url = `http://127.0.0.1:${port}`;
  const started = served.start('--port', String(port));
  const [ready, api, page] = await Promise.all([
    askUntilOpen(url, '/readyz'),
    askUntilOpen(url, '/api/v1/purchases', { method: 'POST', body: '{}' }),
    askUntilOpen(url, '/shops', { headers: { Accept: 'text/html' } }),
  ]);
  await started;
  const why = 'its database is being brought along from an older version';
  const waiting = await Promise.all(ready.map((answer) => answer.json()));
  expect(waiting).toContainEqual({ status: 'not ready', why });
  const problems = (await Promise.all(api.map((answer) => answer.json()))) as Record<string, unknown>[];
  expect(problems).toContainEqual(
    expect.objectContaining({
      type: 'urn:dimestall:not-open',
      status: 503,
      detail: expect.stringContaining(why.slice(1)) as string,
    }),
  );
  for (const answer of [...ready, ...api, ...page])
    expect(Number(answer.headers.get('retry-after'))).toBeGreaterThanOrEqual(1);
  expect(page[0]!.headers.get('refresh')).toMatch(/^[1-5]$/);
  expect(served.told).toMatch(/is copied to .*before-migration-14 and brought along, which takes about \d seconds/);
  expect((await served.client.call('GET /players/{player}', { params: { player: 'made_1' } })).id).toBe('made_1');
});

test('whoever looks into the copy of before leaves nothing beside it', async () => {
  olderDatabase(15, served.data);
  await runProcess(['upgrade', '--data', served.data]);
  expect(copiesOf()).toHaveLength(1);
  await runProcess(['rollback', '--data', served.data]);
  expect(copiesOf()).toHaveLength(1);
});

test('a rollback needs one command while nothing was written, and is not done under a service', async () => {
  olderDatabase(15, served.data);
  const before = rowsOf(served.data);
  await served.start();
  expect(await rollback()).toMatchObject({ code: 1, err: expect.stringMatching(/in use by a service/) as string });
  await served.stop();
  // The start made a token, which is noted.
  const lost = await rollback();
  expect([lost.code, lost.err]).toEqual([1, expect.stringMatching(/would be lost: 1 row in trail\./)]);
  const { code, out } = await rollback('--anyway');
  expect([code, out]).toEqual([0, expect.stringMatching(/is as it was before the upgrade, .*kept as .*replaced-/)]);
  expect(rowsOf(served.data)).toEqual(before);
  const upgraded = await runProcess(['upgrade', '--data', served.data]);
  expect(upgraded.out).toMatch(/is brought along: 2 changes to 0\.\d MB, after a copy .* It took/);
  expect(await rollback()).toMatchObject({ code: 0, err: '' });
  expect(rowsOf(served.data)).toEqual(before);
  expect(await rollback()).toMatchObject({
    code: 1,
    err: expect.stringMatching(/there is nothing to go back from/) as string,
  });
});

test('an upgrade that is stopped or killed is done by the next start, and the copy of before is whole', async () => {
  olderDatabase(14, served.data, 150);
  const before = rowsOf(served.data);
  for (const signal of ['SIGTERM', 'SIGKILL'] as const) {
    let isOpen = false;
    const started = served.start().then(
      () => (isOpen = true),
      () => undefined,
    );
    while (!readdirSync(served.folder.path).some((name) => name.includes('.upgrading')) && !isOpen) await delay(1);
    await delay(50);
    await served.stop(signal);
    await started;
  }
  await served.start();
  expect((await served.client.call('GET /draft')).revision).toBeGreaterThan(5);
  await served.stop();
  expect(statSync(served.data).size).toBeGreaterThan(150e6);
  const copies = copiesOf().filter((name) => !name.endsWith('partial'));
  expect(copies.length).toBeGreaterThan(0);
  for (const copy of copies) expect(rowsOf(join(served.folder.path, copy))).toEqual(before);
  expect((await runProcess(['verify', '--data', served.data])).out).toMatch(/all agree/);
});
