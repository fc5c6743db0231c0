/** Players who are erased: nothing of them is left but their movements, no place has a hole, and all sums stay. */
import { existsSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { parse } from 'yaml';
import type { Client } from '../../src/client/index.js';
import type { EconomyDocument } from '../../src/core/document/index.js';
import { integrityCheck } from '../../src/service/index.js';
import { runCli } from '../support/cli.js';
import { problemOf, scratchFolder, startStall } from '../support/stall.js';
import type { Stall } from '../support/stall.js';

const DOCUMENT = parse(`
name: Kite school
timeZone: Europe/Lisbon
attributes: {level: {start: 1}}
events: {race: {name: Race, fields: {points: number}}}
currencies:
  shells: {name: Shells}
  breeze: {name: Breeze, start: 1, refill: {amount: 1, every: PT1H, upTo: 5}}
items:
  tail: {name: Tail, kind: durable, worth: {shells: 10}}
  wax: {name: Wax, kind: consumable, uses: 3, worth: {shells: 2}}
shops: {pier: {name: Pier, shelves: {main: {name: Main, offers: {tail: {gives: tail, stock: {units: 5, scope: player}}, wax: {gives: wax}}}}}}
earning: {prize: {name: Prize, on: race, gives: {shells: =points}, share: {crew: 0.5}}}
teams: {crew: {name: Crew, most: 3}}
goals: {flyer: {name: Flyer, counts: events, event: race, target: 9}}
rankings:
  wallets: {name: Fullest purse, by: balance, currency: shells}
  weekly: {name: Week, by: earned, currency: shells, every: week}
  flyers: {name: Races flown, by: goal, goal: flyer}
`) as EconomyDocument;

let stall: Stall;
let folder: ReturnType<typeof scratchFolder>;
let game: Client['call'];
const data = () => join(folder.path, 'stall.db');
async function start(publish = true): Promise<void> {
  stall = await startStall({ document: DOCUMENT, data: data(), publish });
  const client = stall.as('admin');
  game = client.call.bind(client) as Client['call'];
}
let events = 0;
const race = async (player: string, points: number, id = `r${++events}`) => {
  const body = { events: [{ id, name: 'race', fields: { points } }] };
  return (await game('POST /players/{player}/events', { params: { player }, body })).events[0]!;
};
const erase = (player: string, reason?: string) =>
  game('DELETE /players/{player}', { params: { player }, query: { reason } });
const places = async (ranking: string) => {
  const { items } = await game('GET /rankings/{ranking}', { params: { ranking }, query: {} });
  return items.map(({ place, who, score }) => [place, who, score]);
};
const verify = async () => (await runCli(['verify', '--data', data()])).code;

beforeEach(async () => {
  folder = scratchFolder();
  await start();
  for (const [id, points] of [
    ['ana', 90],
    ['ben', 60],
    ['cy', 60],
    ['dot', 30],
  ] as const) {
    await game('POST /players', { body: { id, name: `${id} of the pier`, attributes: { level: 7 } } });
    await race(id, points);
  }
});
afterEach(async () => {
  await stall.stop();
  folder.remove();
});

test('what they had is lost and told, their place closes up, and their team stays as it is without them', async () => {
  await game('POST /teams', { body: { id: 'gulls', kind: 'crew', name: 'Gulls' } });
  for (const player of ['ben', 'dot'])
    await game('PUT /teams/{team}/members/{player}', { params: { team: 'gulls', player } });
  await race('ben', 40);
  await game('POST /purchases', { body: { player: 'ben', offer: 'tail', times: 2 }, key: 'tails' });
  await game('POST /purchases', { body: { player: 'ben', offer: 'wax', times: 2 }, key: 'wax' });
  await game('POST /uses', { body: { player: 'ben', uses: [{ id: 'u', item: 'wax' }] } });
  // What comes back by itself counts up to the last moment.
  stall.clock.nowMs += 2 * 3_600_000;
  for (const ranking of ['wallets', 'weekly', 'flyers'])
    expect((await places(ranking)).map(([, who]) => who)).toContain('ben');
  expect(await erase('ben', 'asked for it')).toEqual({
    player: 'ben',
    lost: { shells: 56, breeze: 3, tail: 2, wax: 2 },
  });
  expect(await places('wallets')).toEqual([
    [1, 'ana', 90],
    [2, 'cy', 60],
    [3, 'dot', 30],
  ]);
  for (const ranking of ['weekly', 'flyers'])
    expect((await places(ranking)).map(([, who]) => who)).toEqual(expect.not.arrayContaining(['ben']));
  expect(await game('GET /teams/{team}', { params: { team: 'gulls' } })).toMatchObject({
    holdings: { shells: 20 },
    members: [{ player: 'dot' }],
  });
  expect(integrityCheck(stall.service.database)).toMatchObject({ players: 3, faults: [] });
  // The same is read from disk, by whoever starts again.
  await stall.stop();
  await start(false);
  for (const [ranking, all] of [
    ['wallets', [1, 2, 3]],
    ['weekly', [1, 2, 3]],
    ['flyers', [1, 1, 1]],
  ] as const)
    expect((await places(ranking)).map(([place]) => place)).toEqual(all);
  expect(await verify()).toBe(0);
});

test('nothing says who it was, their ledger is there, and the id is not used again', async () => {
  await game('GET /shops/{shop}/front', { params: { shop: 'pier' }, query: { player: 'ben' } });
  await game('POST /purchases', { body: { player: 'ben', offer: 'wax' }, key: 'press' });
  await erase('ben', 'asked for it');
  for (const refused of [
    game('GET /players/{player}', { params: { player: 'ben' } }),
    game('GET /shops/{shop}/front', { params: { shop: 'pier' }, query: { player: 'ben' } }),
    game('POST /purchases', { body: { player: 'ben', offer: 'wax' }, key: 'again' }),
    race('ben', 5),
    erase('ben'),
  ])
    expect(await problemOf(refused)).toMatchObject({
      kind: 'not-found',
      message: expect.stringContaining('"ben" was erased'),
    });
  expect(await problemOf(game('GET /players/{player}', { params: { player: 'bem' } }))).toMatchObject({
    message: expect.not.stringContaining('ben'),
  });
  expect(await problemOf(game('POST /players', { body: { id: 'ben' } }))).toMatchObject({
    kind: 'already-there',
    message: expect.stringContaining('another'),
  });
  // What was done once is not done again, however late it is repeated: the key is gone, and so is the player.
  expect(
    await problemOf(game('POST /purchases', { body: { player: 'ben', offer: 'wax' }, key: 'press' })),
  ).toMatchObject({ kind: 'not-found', message: expect.stringContaining('"ben" was erased') });
  for (const query of [{}, { search: 'ben' }, { search: 'of the pier' }])
    expect((await game('GET /players', { query })).items.map(({ id }) => id)).not.toContain('ben');
  const { items } = await game('GET /players/{player}/ledger', { params: { player: 'ben' }, query: {} });
  expect(items.at(-1)).toMatchObject({ toAccount: 'world:erased', cause: 'erase:admin' });
  const { raw } = stall.service.database;
  expect(raw.prepare("SELECT * FROM players WHERE id = 'ben'").get()).toEqual({
    id: 'ben',
    name: '',
    started_ms: expect.any(Number),
    attributes: '{}',
    erased_ms: stall.clock.nowMs,
  });
  for (const table of ['balances', 'stacks', 'counters', 'stocks', 'team_members'])
    expect(raw.prepare(`SELECT count(*) AS n FROM ${table} WHERE player = 'ben'`).get()).toEqual({ n: 0 });
  expect(raw.prepare("SELECT count(*) AS n FROM earnings WHERE who = 'ben'").get()).toEqual({ n: 0 });
  expect(raw.prepare("SELECT who, why FROM trail WHERE action = 'player.erase'").all()).toEqual([
    { who: 'admin', why: 'asked for it' },
  ]);
});

test('no byte of the file says who it was, what was said of them, or what they asked', async () => {
  await game('POST /players', { body: { id: 'eve', name: 'Evelyn Marchbanks', attributes: { level: 7 } } });
  const secrets = ['Evelyn Marchbanks', 'her sister rang us', 'press-of-eve', 'race-of-eve', 'draw-of-eve'];
  await game('POST /players/{player}/grants', {
    params: { player: 'eve' },
    body: { gives: { shells: 5000 }, reason: 'her sister rang us' },
    key: 'draw-of-eve',
  });
  // More than goes in one portion.
  for (let n = 0; n < 5; n++)
    await game('POST /players/{player}/events', {
      params: { player: 'eve' },
      body: {
        events: Array.from({ length: 90 }, (_, index) => ({
          id: `race-of-eve ${n} ${index}`,
          name: 'race',
          fields: { points: 1 },
        })),
      },
    });
  const { purchase } = await game('POST /purchases', { body: { player: 'eve', offer: 'wax' }, key: 'press-of-eve' });
  await race('ana', 5, 'race-of-ana');
  const found = (file: string) => {
    const bytes = existsSync(file) ? readFileSync(file) : Buffer.alloc(0);
    return [...secrets, 'race-of-ana'].filter((secret) => bytes.includes(secret));
  };
  stall.service.database.checkpoint();
  expect(found(data())).toEqual([...secrets, 'race-of-ana']);
  await erase('eve', 'asked for it');
  expect([...found(data()), ...found(`${data()}-wal`)]).toEqual(['race-of-ana']);
  const { items } = await game('GET /purchases', { query: {} });
  expect(items.find((row) => row.purchase === purchase)).toMatchObject({ player: 'eve', offer: 'wax', attributes: {} });
  expect(await verify()).toBe(0);
  // Numbers go on after what has gone.
  expect((await game('POST /purchases', { body: { player: 'ana', offer: 'wax' }, key: 'next' })).purchase).toBe(
    purchase + 1,
  );
});

test('an erasure that is cut off is done at the next look', async () => {
  await game('POST /players/{player}/grants', {
    params: { player: 'ben' },
    body: { gives: { shells: 5 }, reason: 'lost a kite' },
    key: 'g',
  });
  const { retention, database } = stall.service;
  const whole = retention.erase.bind(retention);
  retention.erase = () => Promise.resolve();
  await erase('ben');
  retention.erase = whole;
  const reasons = () => database.raw.prepare("SELECT why FROM trail WHERE action = 'player.grant'").pluck().all();
  expect(reasons()).toEqual(['lost a kite']);
  await retention.sweep();
  expect(reasons()).toEqual(['']);
  expect(database.raw.prepare('SELECT count(*) FROM erasures').pluck().get()).toBe(0);
});

test('a team of the same id keeps its own sums', async () => {
  const teams = {
    ...DOCUMENT,
    rankings: { crews: { name: 'Crews', team: 'crew', by: 'earned', currency: 'shells', every: 'week' } },
  };
  await stall.as('admin').call('PUT /draft', { body: teams as EconomyDocument, revision: 1, query: {} });
  await stall.as('admin').call('POST /releases', { body: { note: 'crews' } });
  await game('POST /teams', { body: { id: 'ben', kind: 'crew', name: 'Bens' } });
  await game('PUT /teams/{team}/members/{player}', { params: { team: 'ben', player: 'ben' } });
  await race('ben', 40);
  await erase('ben');
  expect(await places('crews')).toEqual([[1, 'ben', 40]]);
});

test('races and purchases that come while a player is erased are done before or refused, and none is lost', async () => {
  const asked = [
    ...Array.from({ length: 20 }, () => race('ben', 10)),
    ...Array.from({ length: 10 }, (_, press) =>
      game('POST /purchases', { body: { player: 'ben', offer: 'wax' }, key: `p${press}` }),
    ),
  ];
  const erased = erase('ben');
  const after = Array.from({ length: 20 }, () => race('ben', 10));
  const answers = await Promise.allSettled([...asked, ...after]);
  await erased;
  for (const answer of answers)
    if (answer.status === 'rejected') expect(answer.reason).toMatchObject({ kind: 'not-found' });
  expect(integrityCheck(stall.service.database).faults).toEqual([]);
  expect(await verify()).toBe(0);
});

test('support erases from the command line, and nobody with less', async () => {
  const cli = (role: 'support' | 'game', ...args: string[]) =>
    runCli(args, { env: { DIMESTALL_URL: stall.url, DIMESTALL_TOKEN: stall.tokens[role] } });
  expect(await cli('game', 'player', 'ben', '--erase')).toMatchObject({
    code: 2,
    err: expect.stringMatching(/needs support/),
  });
  expect(await cli('support', 'player', '--erase')).toMatchObject({
    code: 2,
    err: expect.stringMatching(/Name the player/),
  });
  expect(await cli('support', 'player', 'ben', '--create', '--erase')).toMatchObject({
    code: 2,
    err: expect.stringMatching(/Either --create/),
  });
  const { out, code } = await cli('support', 'player', 'ben', '--erase', '--reason', 'asked for it');
  expect([code, out]).toEqual([0, 'ben is erased. Lost: 60 Shells, 1 Breeze. The ledger stays.\n']);
  expect((await cli('support', 'player', 'ben')).err).toMatch(/"ben" was erased/);
  expect((await cli('support', 'player', 'ben', '--ledger', '2')).out).toMatch(
    /"ben" was erased[^]*60 Shells[^]*erased/,
  );
  // Of somebody who never was there is no ledger either.
  expect(await cli('support', 'player', 'bem', '--ledger', '2')).toMatchObject({
    code: 1,
    out: '',
    err: expect.stringMatching(/There is no player "bem"/),
  });
  const { id, movements } = JSON.parse((await cli('support', 'player', 'ben', '--ledger', '2', '--json')).out) as {
    id: string;
    movements: { toAccount: string }[];
  };
  expect([id, movements.at(-1)!.toAccount]).toEqual(['ben', 'world:erased']);
});
