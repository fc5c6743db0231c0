/** Backups of a service that goes on selling, the way back from one, and files that somebody put in the place of others. */
import {
  chownSync,
  copyFileSync,
  existsSync,
  mkdirSync,
  openSync,
  readFileSync,
  readdirSync,
  renameSync,
  rmSync,
  rmdirSync,
  statSync,
  truncateSync,
  writeFileSync,
  writeSync,
  closeSync,
} from 'node:fs';
import { createHash } from 'node:crypto';
import { join } from 'node:path';
import Sqlite from 'better-sqlite3';
import { runProcess } from '../support/cli.js';
import { demoDocument } from '../support/economy.js';
import { pad } from '../support/olderDatabase.js';
import { Served } from '../support/served.js';

const hashOf = (file: string): string => createHash('sha256').update(readFileSync(file)).digest('hex');

/** Bytes of one of SQLite's pages. */
const PAGE = 4096;

let served: Served;
beforeEach(async () => {
  served = await Served.demo();
});
afterEach(() => served.end());

const path = (name: string): string => join(served.folder.path, name);
const backup = (name: string, ...more: string[]) => runProcess(['backup', path(name), '--data', served.data, ...more]);
const restore = (name: string, ...more: string[]) =>
  runProcess(['restore', path(name), '--data', served.data, ...more]);
const verify = (file: string) => runProcess(['verify', '--data', file]);
const buy = (key: string) => served.client.call('POST /purchases', { body: { player: 'mateo', offer: 'wax_1' }, key });
const earn = (key: string) =>
  served.client.call('POST /players/{player}/grants', {
    params: { player: 'mateo' },
    body: { gives: { shells: 15 }, reason: 'for wax' },
    key,
  });
/** Keys of purchases that a database has. */
const purchasesIn = (file: string): string[] => {
  const raw = new Sqlite(file, { readonly: true });
  const keys = raw.prepare("SELECT key FROM handled WHERE kind = 'purchase'").all() as { key: string }[];
  raw.close();
  return keys.map(({ key }) => key);
};

test('a service that goes on writing is backed up: all that was answered before is in it, and the copy agrees', async () => {
  for (let n = 0; n < 3; n++) await buy(`before-${n}`);
  let isDone = false;
  const meanwhile = (async () => {
    let sold = 0;
    for (; !isDone; sold++) await earn(`meanwhile-${sold}`);
    return sold;
  })();
  const { code, out } = await backup('one.sqlite');
  isDone = true;
  expect(await meanwhile).toBeGreaterThan(3);
  expect([code, out]).toEqual([
    0,
    expect.stringMatching(
      /^Backed up .*stall\.sqlite to .*one\.sqlite: 1 player, \d+ movements, \d+ purchases, 0\.\d MB, all agree\.\n$/,
    ),
  ]);
  expect(purchasesIn(path('one.sqlite'))).toEqual(expect.arrayContaining(['before-0', 'before-1', 'before-2']));
  expect((await verify(path('one.sqlite'))).out).toMatch(/all agree/);
  // One file, whose owner alone may read it, and nothing left beside it.
  expect((statSync(path('one.sqlite')).mode & 0o777).toString(8)).toBe('600');
  expect(readdirSync(served.folder.path).filter((name) => name.startsWith('one'))).toEqual(['one.sqlite']);
  const before = hashOf(path('one.sqlite'));
  expect(await backup('one.sqlite')).toMatchObject({
    code: 1,
    err: expect.stringMatching(/a backup replaces none/) as string,
  });
  expect(hashOf(path('one.sqlite'))).toBe(before);
  const json = JSON.parse((await backup('two.sqlite', '--json')).out) as object;
  expect(json).toMatchObject({ file: path('two.sqlite'), players: 1, faults: [] });
});

test('a restore under a service that runs: it steps aside for it, and goes on with what was restored', async () => {
  await buy('in-the-backup');
  await backup('one.sqlite');
  await buy('after-it');
  const { url, token } = served;
  let isDone = false;
  const others = new Set<string>();
  const asking = (async () => {
    for (let n = 0; !isDone; n++) {
      const answer = await fetch(`${url}/api/v1/players/mateo`, { headers: { Authorization: `Bearer ${token}` } });
      if (answer.status !== 200) {
        others.add(`${((await answer.json()) as { type: string }).type} ${answer.headers.get('Retry-After')}`);
        const ready = await fetch(`${url}/readyz`);
        if (ready.status === 503) others.add(((await ready.json()) as { why: string }).why);
      } else await answer.arrayBuffer();
    }
  })();
  const { code, out } = await restore('one.sqlite');
  expect([code, out]).toEqual([
    0,
    expect.stringMatching(/all agree\. What was there is kept as .*\.replaced-[\dT-]+\.\n$/),
  ]);
  while (!(await fetch(`${url}/readyz`)).ok) await new Promise((go) => setTimeout(go, 20));
  isDone = true;
  await asking;
  // About how long it takes is told, and counts down.
  expect(new Set([...others].map((one) => one.replace(/ [1-5]$/, '')))).toEqual(
    new Set(['urn:dimestall:not-open', 'a backup is being restored']),
  );
  // The same port, the same token; what was answered after the backup is gone, and lies aside.
  expect((await buy('goes-on')).purchase).toBeGreaterThan(0);
  expect(purchasesIn(served.data)).toEqual(['in-the-backup', 'goes-on']);
  expect(purchasesIn(/kept as (.*)\.\n/.exec(out)![1]!)).toEqual(['in-the-backup', 'after-it']);
  expect((await verify(served.data)).out).toMatch(/all agree/);
  expect(readdirSync(served.folder.path).filter((name) => /\.restor/.test(name))).toEqual([]);
  // Whoever asked and died holds up nobody.
  writeFileSync(`${served.data}.restore`, JSON.stringify({ replaced: null }));
  while (existsSync(`${served.data}.restore`)) await new Promise((go) => setTimeout(go, 20));
  expect((await restore('none.sqlite')).err).toMatch(/There is no database/);
  await earn('still-open');
});

test('a restore that is cut off between two files is seen, and done again; what was there is kept whole', async () => {
  await backup('one.sqlite');
  await buy('after-it');
  await served.stop('SIGKILL');
  const replaced = path('stall.sqlite.replaced-then');
  writeFileSync(`${served.data}.restore`, JSON.stringify({ replaced }));
  renameSync(`${served.data}-wal`, `${replaced}-wal`);
  const cutOff = /A backup is being put in the place of .*dimestall restore BACKUP --data/;
  await expect(served.start()).rejects.toThrow(cutOff);
  expect((await verify(served.data)).err).toMatch(cutOff);
  expect((await restore('one.sqlite')).out).toContain(`kept as ${replaced}.`);
  expect(purchasesIn(replaced)).toEqual(['after-it']);
  await served.start();
  expect(purchasesIn(served.data)).toEqual([]);
  expect((await buy('goes-on')).purchase).toBeGreaterThan(0);
});

test('a restore that fails between two files leaves its mark: nobody begins a new database in the place of the old', async () => {
  await backup('one.sqlite');
  await buy('after-it');
  await served.stop();
  rmSync(`${served.data}.run`);
  mkdirSync(`${served.data}.run`);
  const failed = await restore('one.sqlite');
  expect([failed.code, failed.err]).toEqual([1, expect.stringMatching(/could not be exchanged: .*do it again/)]);
  rmdirSync(`${served.data}.run`);
  await expect(served.start()).rejects.toThrow(/A backup is being put in the place of/);
  const { out } = await restore('one.sqlite');
  expect(out).toMatch(/all agree/);
  const replaced = readdirSync(served.folder.path).filter((name) => /replaced-[\dT-]+$/.test(name));
  expect(replaced.flatMap((name) => purchasesIn(path(name)))).toEqual(['after-it']);
  await served.start();
  expect(purchasesIn(served.data)).toEqual([]);
});

test('what an administrator does beside a service of another user belongs to that user', async () => {
  await backup('one.sqlite');
  await served.stop();
  // Whoever is no administrator can give nothing away: then it is theirs all along.
  if (process.getuid!() === 0)
    for (const name of ['.', ...readdirSync(served.folder.path)]) chownSync(path(name), 4321, 4321);
  const { uid } = statSync(served.folder.path);
  writeFileSync(`${served.data}.restore`, JSON.stringify({ replaced: null }));
  expect((await restore('one.sqlite')).code).toBe(0);
  await runProcess(['token', '--data', served.data]);
  await runProcess(['vacuum', '--data', served.data]);
  const others = readdirSync(served.folder.path).filter((name) => statSync(path(name)).uid !== uid);
  expect(others).toEqual([]);
});

test('a restore after a kill: what was there is kept whole, its log with it', async () => {
  await buy('in-the-backup');
  await backup('one.sqlite');
  await buy('after-it');
  await served.stop('SIGKILL');
  expect(statSync(`${served.data}-wal`).size).toBeGreaterThan(0);
  const { code, out } = await restore('one.sqlite');
  expect([code, out]).toEqual([
    0,
    expect.stringMatching(/all agree\. What was there is kept as .*\.replaced-[\dT-]+\.\n$/),
  ]);
  const replaced = /kept as (.*)\.\n/.exec(out)![1]!;
  expect(purchasesIn(served.data)).toEqual(['in-the-backup']);
  expect(purchasesIn(replaced)).toEqual(['in-the-backup', 'after-it']);
  expect((await verify(replaced)).out).toMatch(/all agree/);
  await served.start();
  expect((await buy('goes-on')).purchase).toBeGreaterThan(0);
  // A key of what is gone with the restore is a new one.
  await earn('more');
  expect((await buy('after-it')).purchase).toBeGreaterThan(0);
  expect((await verify(served.data)).out).toMatch(/all agree/);
});

test('what is damaged, or does not agree, is no backup and is not restored; nothing is touched', async () => {
  await buy('one');
  await backup('whole.sqlite');
  await served.stop();
  const before = hashOf(served.data);
  // Money that no movement tells of.
  copyFileSync(path('whole.sqlite'), path('forged.sqlite'));
  const raw = new Sqlite(path('forged.sqlite'));
  raw.exec("UPDATE balances SET units = units + 1000 WHERE currency = 'shells'");
  raw.close();
  expect(await restore('forged.sqlite')).toMatchObject({
    code: 1,
    err: expect.stringMatching(/does not agree, so nothing was restored: .*shells/) as string,
  });
  // A page in the middle that is something else.
  copyFileSync(path('whole.sqlite'), path('broken.sqlite'));
  const file = openSync(path('broken.sqlite'), 'r+');
  for (let page = 4; page < 40; page++) writeSync(file, Buffer.alloc(2048, 0xab), 0, 2048, page * 4096 + 100);
  closeSync(file);
  writeFileSync(path('text.sqlite'), 'no database');
  for (const [name, words] of [
    ['broken.sqlite', /damaged|malformed|does not agree/],
    ['text.sqlite', /it is not a database/],
    ['none.sqlite', /There is no database/],
  ] as const) {
    const refused = await restore(name);
    expect([refused.code, refused.err]).toEqual([1, expect.stringMatching(words)]);
    expect(refused.err).not.toMatch(/\n\s+at /);
  }
  const told = await verify(path('broken.sqlite'));
  expect([told.code, told.err + told.out]).toEqual([1, expect.stringMatching(/damaged|malformed|fault/)]);
  expect(told.err).not.toMatch(/\n\s+at /);
  expect(hashOf(served.data)).toBe(before);
  expect(readdirSync(served.folder.path).filter((name) => /restoring|replaced/.test(name))).toEqual([]);
  // A database that does not agree is copied under another name, and never counts.
  const own = new Sqlite(served.data);
  own.exec("UPDATE balances SET units = units + 1 WHERE currency = 'shells'");
  own.close();
  expect(await backup('faulty.sqlite')).toMatchObject({
    code: 1,
    err: expect.stringMatching(/so this is no backup/) as string,
  });
  expect([existsSync(path('faulty.sqlite')), existsSync(path('faulty.sqlite.faulty'))]).toEqual([false, true]);
});

test('a file that is copied over the database of a service that was killed is not opened with the log of the old one', async () => {
  await backup('early.sqlite');
  for (let n = 0; n < 3; n++) await buy(`late-${n}`);
  await served.stop('SIGKILL');
  copyFileSync(path('early.sqlite'), served.data);
  const log = hashOf(`${served.data}-wal`);
  await expect(served.start()).rejects.toThrow(/the log of another database.*dimestall restore BACKUP --data/s);
  for (const beside of [
    await verify(served.data),
    await runProcess(['token', '--data', served.data]),
    await backup('x.sqlite'),
  ])
    expect([beside.code, beside.err]).toEqual([1, expect.stringMatching(/the log of another database/)]);
  expect([hashOf(served.data), hashOf(`${served.data}-wal`)]).toEqual([hashOf(path('early.sqlite')), log]);
  expect((await restore('early.sqlite')).code).toBe(0);
  await served.start();
  expect((await buy('late-0')).purchase).toBeGreaterThan(0);
  expect((await verify(served.data)).out).toMatch(/all agree/);
});

/** Writes nonsense into the page at a place of the file: where it says which page it goes on with. */
function damage(at: number): void {
  const file = openSync(served.data, 'r+');
  writeSync(file, Buffer.alloc(4, 0xff), 0, 4, Math.floor(at / PAGE) * PAGE);
  closeSync(file);
}
/** In the middle of a large file. */
const MIDDLE = 20e6;

const DAMAGED = /it is damaged\. Put a backup in its place: dimestall restore BACKUP/;

test('a start looks at all of a small file before it sells, and at a large one while it sells; both are told', async () => {
  const document = demoDocument();
  document.items!['drift_frame']!.description = 'A marker of the quay.';
  for (const [revision, body] of [document, demoDocument()].entries())
    await served.client.call('PUT /draft', { body, revision: revision + 1 });
  await served.stop();
  copyFileSync(served.data, path('whole'));
  // A draft of before, which nothing reads at a start.
  damage(readFileSync(served.data).indexOf('A marker of the quay.'));
  await expect(served.start()).rejects.toThrow(DAMAGED);

  copyFileSync(path('whole'), served.data);
  pad(served.data, 40);
  damage(MIDDLE);
  // Nothing of it is read by a start, so it sells until the look at it has come there.
  await served.start();
  while (served.runs) await new Promise((go) => setTimeout(go, 50));
  expect(served.told).toMatch(/it is damaged.*\nThe service has stopped: it would sell on what is damaged/);

  // After a kill it is waited for.
  copyFileSync(path('whole'), served.data);
  pad(served.data, 40);
  await served.start();
  await buy('one');
  await served.stop('SIGKILL');
  damage(MIDDLE);
  await expect(served.start()).rejects.toThrow(DAMAGED);

  // What was cut short is seen whatever its size.
  for (const end of ['-wal', '-shm']) rmSync(served.data + end, { force: true });
  copyFileSync(path('whole'), served.data);
  pad(served.data, 40);
  truncateSync(served.data, 30e6);
  await expect(served.start()).rejects.toThrow(DAMAGED);
});

test('a service makes backups by itself, the newest of which stay; others of the folder are left alone', async () => {
  await served.stop();
  const folder = path('backups');
  const old = [
    'stall-2026-01-01T00-00-00.sqlite',
    'stall-2026-01-02T00-00-00.sqlite',
    'notes.txt',
    'stall-mine.sqlite',
  ];
  mkdirSync(folder);
  for (const name of old) writeFileSync(join(folder, name), 'x');
  await served.start('--backup-to', folder, '--backup-keep', '2');
  const made = () => readdirSync(folder).filter((name) => !old.includes(name) && name.endsWith('.sqlite'));
  while (made().length === 0 || existsSync(join(folder, old[0]!))) await new Promise((go) => setTimeout(go, 50));
  expect(readdirSync(folder).sort()).toEqual([
    'notes.txt',
    'stall-2026-01-02T00-00-00.sqlite',
    ...made(),
    'stall-mine.sqlite',
  ]);
  expect((await verify(join(folder, made()[0]!))).out).toMatch(/^1 player, .* all agree/);
  await served.stop();
  await expect(served.start('--backup-to', path('backups/notes.txt'))).rejects.toThrow(/Backups cannot be kept in/);
});

test('a demo that runs keeps its data, whatever port another one asks for', async () => {
  const data = path('demo');
  mkdirSync(data);
  copyFileSync(served.data, join(data, 'other.sqlite'));
  await served.stop();
  copyFileSync(served.data, join(data, 'demo.sqlite'));
  const running = new Served();
  // The demo's own file, held by a service.
  Object.assign(running, { data: join(data, 'demo.sqlite') });
  await running.start();
  const refused = await runProcess(['demo', '--fresh', '--port', '0', '--data', data]);
  expect([refused.code, refused.err]).toEqual([1, expect.stringMatching(/in use by a service that runs/)]);
  expect((await running.client.call('GET /players/{player}', { params: { player: 'mateo' } })).id).toBe('mateo');
  await running.end();
});
