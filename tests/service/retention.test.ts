/** What was kept long enough goes, what is younger stays, and money is what it was: movements leave by the archive. */
import { existsSync, readFileSync, readdirSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { gunzipSync } from 'node:zlib';
import { parse } from 'yaml';
import type { Client } from '../../src/client/index.js';
import type { EconomyDocument } from '../../src/core/document/index.js';
import { ledgerBalances } from '../../src/core/ledger/index.js';
import type { Account } from '../../src/core/ledger/index.js';
import { integrityCheck } from '../../src/service/index.js';
import { Archive } from '../../src/service/retention/archive.js';
import { archiveCheck, archiveWrite } from '../../src/service/retention/archiveFile.js';
import { KEPT, POLICIES, keptDaysRead } from '../../src/service/retention/policy.js';
import { ArchiveStore } from '../../src/service/store/archiveStore.js';
import { DAY } from '../support/economy.js';
import { runProcess } from '../support/cli.js';
import { POINT_PNG, problemOf, scratchFolder, startStall } from '../support/stall.js';
import type { Stall } from '../support/stall.js';

const DOCUMENT = parse(`
name: Kite school
timeZone: UTC
events: {race: {name: Race, fields: {points: number}}}
currencies: {shells: {name: Shells, start: 50}}
items:
  tail: {name: Tail, kind: durable, worth: {shells: 10}, icon: pictures/tail.png}
  wax: {name: Wax, kind: consumable, worth: {shells: 2}}
shops:
  pier:
    name: Pier
    till: {holds: {shells: 500}}
    buyback: {items: [tail], rate: 0.5, pays: shells}
    shelves: {main: {name: Main, offers: {tail: {gives: tail, stock: {units: 900}}, wax: {gives: wax}}}}
earning: {prize: {name: Prize, on: race, gives: {shells: =points}, share: {crew: 0.5}}}
teams: {crew: {name: Crew, most: 3}}
rankings:
  daily: {name: Day, by: earned, currency: shells, every: day}
  ever: {name: Ever, by: earned, currency: shells}
`) as EconomyDocument;

let stall: Stall;
let folder: ReturnType<typeof scratchFolder>;
let game: Client['call'];
const data = () => join(folder.path, 'stall.sqlite');
async function start(publish = true): Promise<void> {
  stall = await startStall({ document: DOCUMENT, data: data(), publish });
  const client = stall.as('admin');
  game = client.call.bind(client) as Client['call'];
}
beforeEach(async () => {
  folder = scratchFolder();
  await start();
  for (const id of ['ana', 'ben']) await game('POST /players', { body: { id } });
});
afterEach(async () => {
  await stall.stop();
  folder.remove();
});

let ids = 0;
const race = (player: string, points: number, id = `r${++ids}`) =>
  game('POST /players/{player}/events', {
    params: { player },
    body: { events: [{ id, name: 'race', fields: { points } }] },
  });
const buy = (player: string, offer: string, key = `k${++ids}`) =>
  game('POST /purchases', { body: { player, offer }, key });
const count = (table: string) =>
  stall.service.database.raw.prepare(`SELECT count(*) FROM ${table}`).pluck().get() as number;
const patch = async (value: number) =>
  game('PATCH /draft', {
    body: [{ op: 'replace', path: '/items/wax/worth/shells', value }],
    revision: stall.service.draft.current.revision,
  });

describe('what goes by its age', () => {
  const RUN = { name: 'x', setup: '{}', status: 'done', day: 1, days: 1, createdBy: 'ana' };
  /** What is made of each kind, and how many there are. */
  const MADE: Record<string, { make: () => unknown; left: () => number }> = {
    answers: {
      // The last of each kind stays.
      make: async () => {
        for (let n = 0; n < 2; n++) {
          await race('ana', 5);
          await buy('ana', 'wax');
        }
      },
      left: () => count('handled'),
    },
    sums: { make: () => race('ana', 5), left: () => count('earnings') },
    trail: { make: () => patch(3), left: () => count('trail') },
    runs: {
      make: () =>
        stall.service.database.raw
          .prepare(
            `INSERT INTO runs (name, setup, status, day, days, created_ms, created_by)
             VALUES (@name, @setup, @status, @day, @days, @atMs, @createdBy)`,
          )
          .run({ ...RUN, atMs: stall.clock.nowMs }),
      left: () => count('runs'),
    },
  };

  test.each(Object.keys(MADE))('%s', async (kind) => {
    const { make, left } = MADE[kind]!;
    const { days } = POLICIES[kind as keyof typeof POLICIES];
    await stall.service.retention.sweep();
    await make();
    const all = left();
    stall.clock.nowMs += days * DAY;
    await stall.service.retention.sweep();
    expect(left()).toBe(all);
    stall.clock.nowMs += DAY;
    const gone = await stall.service.retention.sweep();
    expect(left()).toBeLessThan(all);
    expect(gone[kind as keyof typeof gone]).toBe(all - left());
    // The next day there is nothing more.
    expect((await stall.service.retention.sweep())[kind as keyof typeof gone]).toBeUndefined();
  });

  test('of many rows only the old ones go, and purchases are numbered on', async () => {
    for (let n = 0; n < 450; n += 50) await Promise.all(Array.from({ length: 50 }, () => race('ana', 1)));
    const old = await buy('ana', 'wax', 'old');
    expect(old).toMatchObject({ purchase: 1 });
    stall.clock.nowMs += 91 * DAY;
    await race('ana', 1, 'young');
    expect(await stall.service.retention.sweep()).toMatchObject({ answers: 450 });
    // The last of each kind stays, so that the next has the next number.
    expect(count('handled')).toBe(2);
    expect(await race('ana', 1, 'young')).toMatchObject({ events: [{ repeated: true }] });
    expect(await buy('ana', 'wax')).toMatchObject({ purchase: 2 });
    expect(integrityCheck(stall.service.database).faults).toEqual([]);
  });

  test('a ranking of a life stays, and one of a day that is not kept says so', async () => {
    await race('ana', 5);
    stall.clock.nowMs += 94 * DAY;
    await race('ben', 7);
    await stall.service.retention.sweep();
    const places = async (ranking: string, at?: string) =>
      (await game('GET /rankings/{ranking}', { params: { ranking }, query: { at } })).items.map(({ who }) => who);
    expect(await places('ever')).toEqual(['ben', 'ana']);
    expect(await places('daily')).toEqual(['ben']);
    const longAgo = new Date(stall.clock.nowMs - 94 * DAY).toISOString();
    expect(await problemOf(places('daily', longAgo))).toMatchObject({
      status: 400,
      message: expect.stringContaining('kept for 92 days'),
    });
  });

  test('the last hundred states of the draft stay, and each can be read', async () => {
    for (let n = 1; n <= 150; n++) await patch(n);
    stall.clock.nowMs += 366 * DAY;
    const before = stall.service.draft.revisions(Number.MAX_SAFE_INTEGER, 500).map(({ revision }) => revision);
    await stall.service.retention.sweep();
    const left = stall.service.draft.revisions(Number.MAX_SAFE_INTEGER, 500).map(({ revision }) => revision);
    expect(left.length).toBeGreaterThanOrEqual(100);
    expect(left.length).toBeLessThan(before.length);
    await stall.stop();
    await start(false);
    for (const revision of left)
      expect(stall.service.draft.revision(revision).document.items!['wax']!.worth).toEqual({
        shells: revision === 1 ? 2 : revision - 1,
      });
    expect(await problemOf(game('GET /draft/revisions/{revision}', { params: { revision: 1 } }))).toMatchObject({
      status: 404,
    });
    // What goes on from there is a state more, not the first again.
    expect(await patch(7)).toMatchObject({ revision: 152 });
  });

  test('a picture goes once nothing has named it for long, and not before', async () => {
    for (const picture of ['tail.png', 'spare.png']) {
      await game('PUT /pictures/{picture}', {
        params: { picture },
        type: 'image/png',
        body: new Uint8Array(POINT_PNG).buffer,
      });
    }
    const sweepLater = async (days: number) => {
      stall.clock.nowMs += days * DAY;
      await stall.service.retention.sweep();
      return [...stall.service.pictures.names()];
    };
    expect(await sweepLater(1)).toEqual(['spare.png', 'tail.png']);
    expect(await sweepLater(365)).toEqual(['spare.png', 'tail.png']);
    expect(await sweepLater(1)).toEqual(['tail.png']);
    // The draft names it no more, and the release that is live does.
    await game('PATCH /draft', { body: [{ op: 'remove', path: '/items/tail/icon' }], revision: 1 });
    expect(await sweepLater(400)).toEqual(['tail.png']);
  });
});

describe('how long is set', () => {
  test.each([
    ['answers=30', { kind: 'answers', days: 30 }],
    ['runs=always', { kind: 'runs', days: Infinity }],
  ])('%s', (written, read) => expect(keptDaysRead(written)).toEqual(read));
  test.each([
    ['answer=30', /There is no "answer" to keep. Write one of answers, /],
    ['answers=0', /Write a number of days for answers, 1 or more/],
    ['trail=7', /30 or more/],
    ['runs=soon', /or runs=always/],
    ['runs', /or runs=always/],
  ])('%s is refused', async (written, words) => {
    expect(() => keptDaysRead(written)).toThrow(words);
    expect(await runProcess(['serve', '--data', join(folder.path, 'other.sqlite'), '--keep', written])).toMatchObject({
      code: 1,
      err: expect.stringMatching(words),
    });
  });
  test('the operators are told the same', () => {
    const told = readFileSync('docs/operations.md', 'utf8');
    for (const kind of KEPT)
      expect(told).toContain(
        `| \`${kind}\` | ${POLICIES[kind].days} | ${POLICIES[kind].least} | ${POLICIES[kind].what} |`,
      );
  });
});

describe('the archive', () => {
  const files = () => join(folder.path, 'archive');
  let archive: Archive;
  const archiveOf = () =>
    new Archive(
      files(),
      data(),
      stall.service,
      (_ms, then) => {
        setImmediate(then);
        return () => undefined;
      },
      (to, asked) => archiveWrite(stall.service.database, to, asked),
    );
  beforeEach(() => {
    archive = archiveOf();
  });
  /** Plays for some months: races, purchases, things sold back, shares of a team. */
  const play = async (months: number) => {
    await game('POST /teams', { body: { id: 'gulls', kind: 'crew', name: 'Gulls' } });
    await game('PUT /teams/{team}/members/{player}', { params: { team: 'gulls', player: 'ana' } });
    for (let month = 0; month < months; month++) {
      for (const player of ['ana', 'ben']) {
        for (let n = 0; n < 8; n++) await race(player, 20);
        await buy(player, 'tail');
        await buy(player, 'wax');
        await game('POST /buybacks', {
          body: { player, shop: 'pier', item: 'tail' },
          query: {},
          key: `s${++ids}`,
        });
      }
      stall.clock.nowMs += 31 * DAY;
    }
  };
  const ledger = async (player: string) =>
    (await game('GET /players/{player}/ledger', { params: { player }, query: { limit: 500 } })).items;
  const state = async () => ({
    players: await Promise.all(['ana', 'ben'].map((player) => game('GET /players/{player}', { params: { player } }))),
    team: await game('GET /teams/{team}', { params: { team: 'gulls' } }),
    held: stall.service.shared.get(),
  });
  /** What an account is worth by its own ledger. */
  const sums = (player: string, rows: Awaited<ReturnType<typeof ledger>>) =>
    Object.fromEntries(
      [
        ...(ledgerBalances(
          rows.map(({ asset, units, fromAccount, toAccount, cause }) => ({
            asset,
            units,
            from: fromAccount as Account,
            to: toAccount as Account,
            cause,
          })),
        ).get(`player:${player}`) ?? []),
      ]
        .filter(([, units]) => units !== 0n)
        .sort(),
    );

  test('movements of closed months are in files, and nothing is worth anything else', async () => {
    await play(4);
    const before = [await ledger('ana'), await ledger('ben')] as const;
    const held = await state();
    // Two of the four months are older than this by now.
    stall.clock.nowMs += 340 * DAY;
    const made = await archive.archive();
    expect(made.length).toBeGreaterThanOrEqual(2);
    expect(made.length).toBeLessThan(4);
    expect(readdirSync(files()).sort()).toEqual(made.map(({ month }) => `stall-movements-${month}.csv.gz`));
    // Each file has its movements as they were.
    const lines = made.flatMap(({ file, rows }) => {
      const [head, ...all] = gunzipSync(readFileSync(join(files(), file)))
        .toString()
        .trimEnd()
        .split('\r\n');
      expect([head, all.length]).toEqual(['id,at,player,asset,units,from,to,cause,release', rows]);
      return all;
    });
    const lastId = made.at(-1)!.lastId;
    for (const rows of before)
      for (const { id, player, asset, units, fromAccount, toAccount, cause, release, atMs } of rows)
        if (id <= lastId)
          expect(lines).toContain(
            [id, new Date(atMs).toISOString(), player, asset, units, fromAccount, toAccount, cause, release].join(),
          );
    // What players, teams, tills and stock have is as it was; so is what their ledgers come to, and what came since.
    stall.clock.nowMs -= 340 * DAY;
    expect(await state()).toEqual(held);
    for (const [index, player] of ['ana', 'ben'].entries()) {
      const now = await ledger(player);
      expect(now.length).toBeLessThan(before[index]!.length);
      expect(sums(player, now)).toEqual(sums(player, before[index]!));
      expect(now.filter(({ id }) => id > lastId)).toEqual(before[index]!.filter(({ id }) => id > lastId));
      expect(now[0]).toMatchObject({ cause: `opening:${made.at(-1)!.month}` });
    }
    expect(integrityCheck(stall.service.database).faults).toEqual([]);
    expect(await archiveCheck(stall.service.database, files(), () => undefined)).toEqual([]);
    expect(await runProcess(['verify', '--data', data(), '--archive', files()])).toMatchObject({
      code: 0,
      out: expect.stringContaining('all agree'),
    });
    // Another look finds nothing to do.
    stall.clock.nowMs += 340 * DAY;
    expect(await archive.archive()).toEqual([]);
  });

  test('a file that is missing, cut short, or of other movements is told', async () => {
    await play(2);
    stall.clock.nowMs += 500 * DAY;
    const [first] = await archive.archive();
    const path = join(files(), first!.file);
    const whole = readFileSync(path);
    const check = () => archiveCheck(stall.service.database, files(), () => undefined);
    writeFileSync(path, whole.subarray(0, 100));
    expect(await check()).toEqual([expect.stringMatching(/is not the file that was written/)]);
    writeFileSync(path, whole);
    // A movement that became part of no opening balance.
    stall.service.database.raw.exec(
      "UPDATE movements SET units = units + 1 WHERE cause LIKE 'opening:%' AND to_account = 'player:ana' AND asset = 'shells'",
    );
    expect(await check()).toEqual([
      expect.stringMatching(/^player:ana begins with \d+ shells; its movements in the archive sum to \d+$/),
    ]);
    expect(integrityCheck(stall.service.database).faults).toHaveLength(1);
  });

  test('wherever it is cut off, it goes on, and all agrees in between', async () => {
    await play(3);
    const before = sums('ana', await ledger('ana'));
    stall.clock.nowMs += 500 * DAY;
    const { retention } = stall.service;
    const portion = retention.portion.bind(retention);
    let cuts = 0;
    for (let left = 0; ; left++) {
      // So many portions, each of few rows, and then the service is gone.
      let done = 0;
      retention.portion = (work) => {
        if (done++ === left) throw new Error('cut off');
        return portion(() => work(7));
      };
      try {
        await archiveOf().archive();
        break;
      } catch {
        cuts++;
      }
      expect(integrityCheck(stall.service.database).faults).toEqual([]);
      expect(await archiveCheck(stall.service.database, files(), () => undefined)).toEqual([]);
    }
    expect(cuts).toBeGreaterThan(3);
    expect(sums('ana', await ledger('ana'))).toEqual(before);
    expect(count('movements')).toBeLessThan(60);
    expect(new ArchiveStore(stall.service.database).all().map(({ rows }) => rows > 0)).toEqual(
      readdirSync(files()).map(() => true),
    );
  });

  test('a month that is archived again after a restore replaces no file of what was before', async () => {
    await play(1);
    stall.clock.nowMs += 500 * DAY;
    const [first] = await archive.archive();
    const { database } = stall.service;
    const asked = { month: first!.month, file: first!.file, afterId: 0, untilMs: first!.untilMs + 1 };
    const again = await archiveWrite(database, files(), asked);
    expect(again!.file).toBe(first!.file.replace('.csv.gz', '-2.csv.gz'));
    expect(existsSync(join(files(), first!.file))).toBe(true);
  });
});
