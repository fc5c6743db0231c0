/** Teams and rankings over HTTP: who is in which, what is shared, what they reach together, and who is first. */
import { join } from 'node:path';
import { parse } from 'yaml';
import type { Client } from '../../src/client/index.js';
import type { EconomyDocument } from '../../src/core/document/index.js';
import { DAY } from '../support/economy.js';
import { runCli } from '../support/cli.js';
import { problemOf, scratchFolder, startStall } from '../support/stall.js';
import type { Stall } from '../support/stall.js';

const DOCUMENT = parse(`
name: Kite school
timeZone: Europe/Lisbon
events: {race: {name: Race, fields: {points: number}}}
currencies: {shells: {name: Shells}, pearls: {name: Pearls}, renown: {name: Renown, cap: 100}}
items: {tail: {name: Tail, kind: durable, worth: {shells: 10}}}
shops: {pier: {name: Pier, shelves: {main: {name: Main, offers: {tail: {gives: tail}}}}}}
earning:
  prize: {name: Prize, on: race, gives: {shells: =points, tail: 1}, share: {crew: 0.15, side: 0.1}}
teams: {crew: {name: Crew, most: 3}, side: {name: Side, most: 1000}}
goals:
  hundred: {name: Hundred together, team: crew, counts: events, event: race, by: =points, target: 100, gives: {pearls: 5}}
  rich: {name: Pearls together, team: crew, after: hundred, counts: earned, currency: pearls, target: 5, gives: {tail: 1}}
  buyers: {name: Buyers, team: crew, counts: purchases, offers: [tail], target: 2, every: day, gives: {shells: 1}}
  flyer: {name: Flyer, counts: events, event: race, target: 3, gives: {shells: 10}, share: {crew: 0.5}}
rankings:
  wallets: {name: Fullest purse, by: balance, currency: shells}
  weekly: {name: Week, by: earned, currency: shells, every: week}
  flyers: {name: Races flown, by: goal, goal: flyer}
  crews: {name: Crews of the day, team: crew, by: earned, currency: shells, every: day}
  points: {name: Points of crews, team: crew, by: goal, goal: hundred}
  chests: {name: Chests, team: crew, by: balance, currency: shells}
`) as EconomyDocument;

let stall: Stall;
let folder: ReturnType<typeof scratchFolder>;
const data = () => join(folder.path, 'stall.db');
async function start(publish = true): Promise<void> {
  stall = await startStall({ document: DOCUMENT, data: data(), publish });
  const client = stall.as('game');
  game = client.call.bind(client) as Client['call'];
}
beforeEach(async () => {
  folder = scratchFolder();
  await start();
  for (const id of ['ana', 'ben', 'cy', 'dot', 'eli']) await game('POST /players', { body: { id } });
  for (const id of ['gulls', 'terns']) await game('POST /teams', { body: { id, kind: 'crew', name: `The ${id}` } });
});
afterEach(async () => {
  await stall.stop();
  folder.remove();
});

let game: Client['call'];
const joins = (team: string, player: string) =>
  game('PUT /teams/{team}/members/{player}', { params: { team, player } });
const leaves = (team: string, player: string) =>
  game('DELETE /teams/{team}/members/{player}', { params: { team, player } });
let events = 0;
const race = async (player: string, points: number) => {
  const body = { events: [{ id: `r${++events}`, name: 'race', fields: { points } }] };
  return (await game('POST /players/{player}/events', { params: { player }, body })).events[0]!;
};
const team = (id: string) => game('GET /teams/{team}', { params: { team: id } });
const places = async (ranking: string, query = {}) => {
  const { items } = await game('GET /rankings/{ranking}', { params: { ranking }, query });
  return items.map(({ place, who, score }) => [place, who, score]);
};
const shellsOf = async (player: string) =>
  (await game('GET /players/{player}', { params: { player } })).balances['shells']!.units;
const verify = async () => (await runCli(['verify', '--data', data()])).code;

test('a team gets its share, rounded down, and the player the rest; things are the player’s alone', async () => {
  expect((await race('ana', 33)).outcomes[0]).toMatchObject({ paid: true, given: { shells: 33, tail: 1 } });
  await joins('gulls', 'ana');
  await game('POST /teams', { body: { id: 'east', kind: 'side', name: 'East' } });
  await joins('east', 'ana');
  // 15 % of 33 are 4.95 and 10 % are 3.3: the parts of a unit stay with the player.
  expect((await race('ana', 33)).outcomes[0]).toMatchObject({
    paid: true,
    given: { shells: 26, tail: 1 },
    shared: { gulls: { shells: 4 }, east: { shells: 3 } },
  });
  expect([await shellsOf('ana'), (await team('gulls')).holdings, (await team('east')).holdings]).toEqual([
    59,
    { shells: 4 },
    { shells: 3 },
  ]);
  const { items } = await game('GET /teams/{team}/ledger', { params: { team: 'gulls' } });
  expect(items).toMatchObject([
    { player: 'ana', asset: 'shells', units: 4, fromAccount: 'world:earning', toAccount: 'team:gulls' },
  ]);
  // The third flight: half of what the goal gives.
  expect((await race('ana', 0)).progress).toContainEqual(
    expect.objectContaining({ goal: 'flyer', kind: 'reached', given: { shells: 5 }, shared: { gulls: { shells: 5 } } }),
  );
  expect(await verify()).toBe(0);
});

test('members work towards the goals of their team; it is told to who moved it and shown to all of them', async () => {
  await joins('gulls', 'ana');
  await joins('gulls', 'ben');
  await race('ana', 60);
  const { progress } = await race('ben', 45);
  expect(progress).toContainEqual({
    kind: 'team-reached',
    team: 'gulls',
    teamName: 'The gulls',
    goal: 'hundred',
    name: 'Hundred together',
    count: 105,
    target: 100,
    money: null,
    given: { pearls: 5 },
    dropped: {},
  });
  // What the team was given counts for the goal that began with that.
  expect(progress).toContainEqual(expect.objectContaining({ kind: 'team-reached', goal: 'rich', given: { tail: 1 } }));
  expect((await team('gulls')).holdings).toEqual({ shells: 15, pearls: 5, tail: 1 });
  const seen = async (player: string) =>
    (await game('GET /shops/{shop}/front', { params: { shop: 'pier' }, query: { player } })).goals
      .filter((goal) => goal.team)
      .map(({ goal, count, reached }) => [goal, count, reached]);
  expect(await seen('ana')).toEqual([
    ['hundred', 100, true],
    ['rich', 5, true],
    ['buyers', 0, false],
  ]);
  await game('POST /purchases', { body: { player: 'ben', offer: 'tail' }, key: 'b' });
  // A storefront that was kept for her does not hide what he did.
  expect((await seen('ana'))[2]).toEqual(['buyers', 1, false]);
  expect(await seen('cy')).toEqual([]);
  // Reached once, ever; what counts by the day is reached once a day.
  expect((await race('ana', 150)).progress!.map(({ kind }) => kind)).not.toContain('team-reached');
  for (const key of ['c', 'd']) await game('POST /purchases', { body: { player: 'ben', offer: 'tail' }, key });
  expect([(await seen('ana'))[2], (await team('gulls')).holdings['shells']]).toEqual([['buyers', 2, true], 38]);
  stall.clock.nowMs += DAY;
  expect((await seen('ana'))[2]).toEqual(['buyers', 0, false]);
  for (const key of ['e', 'f']) await game('POST /purchases', { body: { player: 'ana', offer: 'tail' }, key });
  expect((await team('gulls')).holdings).toEqual({ shells: 39, pearls: 5, tail: 1 });
  await leaves('gulls', 'ana');
  expect(await seen('ana')).toEqual([]);
  expect((await team('gulls')).goals.map(({ count }) => count)).toEqual([100, 5, 2]);
  expect(await verify()).toBe(0);
});

test('a team takes as many as it may, and a player is in one of a kind', async () => {
  await joins('gulls', 'ana');
  await joins('gulls', 'ana');
  for (const player of ['ben', 'cy']) await joins('gulls', player);
  expect((await team('gulls')).members.map(({ player }) => player)).toEqual(['ana', 'ben', 'cy']);
  expect(await problemOf(joins('gulls', 'dot'))).toMatchObject({
    kind: 'team-refused',
    message: expect.stringContaining('has 3 members, and 3 are the most'),
  });
  expect(await problemOf(joins('terns', 'ana'))).toMatchObject({
    kind: 'team-refused',
    message: expect.stringContaining('ana is in The gulls ("gulls")'),
  });
  expect(await problemOf(leaves('terns', 'ana'))).toMatchObject({ kind: 'team-refused' });
  expect(await problemOf(joins('gull', 'dot'))).toMatchObject({
    kind: 'not-found',
    message: expect.stringContaining('Did you mean "gulls"?'),
  });
  expect(await problemOf(game('POST /teams', { body: { id: 'x', kind: 'crw', name: 'X' } }))).toMatchObject({
    kind: 'invalid',
    body: { errors: [{ pointer: '/kind', fix: 'Did you mean "crew"?' }] },
  });
  expect(await problemOf(game('POST /teams', { body: { id: 'gulls', kind: 'crew', name: 'X' } }))).toMatchObject({
    kind: 'already-there',
  });
});

test('twenty who press at once for the last place: one of them gets it', async () => {
  const late = Array.from({ length: 20 }, (_, number) => `late${number}`);
  for (const id of late) await game('POST /players', { body: { id } });
  for (const player of ['ana', 'ben']) await joins('gulls', player);
  const outcomes = await Promise.allSettled(late.flatMap((player) => [joins('gulls', player), joins('gulls', player)]));
  expect((await team('gulls')).members).toHaveLength(3);
  // Each of the two presses of the one who is in now was answered the same.
  expect(outcomes.filter(({ status }) => status === 'fulfilled')).toHaveLength(2);
});

test('places: ties are ties, pages follow each other, and earlier periods can be asked for', async () => {
  for (const [player, points] of [
    ['ana', 50],
    ['ben', 40],
    ['cy', 40],
    ['dot', 10],
  ] as const)
    await race(player, points);
  expect(await places('wallets')).toEqual([
    [1, 'ana', 50],
    [2, 'ben', 40],
    [2, 'cy', 40],
    [4, 'dot', 10],
  ]);
  expect(await places('flyers')).toEqual(['ana', 'ben', 'cy', 'dot'].map((who) => [1, who, 1]));
  const first = await game('GET /rankings/{ranking}', { params: { ranking: 'wallets' }, query: { limit: 2 } });
  expect(first).toMatchObject({ of: 4, items: [{ who: 'ana' }, { who: 'ben' }] });
  // Who overtakes meanwhile is on no page twice, and hides nobody.
  await race('dot', 100);
  expect(await places('wallets', { cursor: first.next! })).toEqual([[3, 'cy', 40]]);
  const place = (who: string, query = {}) =>
    game('GET /rankings/{ranking}/places/{who}', { params: { ranking: 'wallets', who }, query });
  expect(await place('ben', { around: 1 })).toMatchObject({
    place: 3,
    of: 4,
    score: 40,
    around: [{ who: 'ana', place: 2 }, { who: 'ben' }, { who: 'cy', place: 3 }],
  });
  expect(await place('eli')).toMatchObject({ place: null, score: 0 });
  // What was bought is spent, and what was earned stays earned.
  await game('POST /purchases', { body: { player: 'ana', offer: 'tail', times: 3 }, key: 'a' });
  expect(await places('wallets')).toEqual([
    [1, 'dot', 110],
    [2, 'ben', 40],
    [2, 'cy', 40],
    [4, 'ana', 20],
  ]);
  const week = await places('weekly');
  expect(week).toEqual([
    [1, 'dot', 110],
    [2, 'ana', 50],
    [3, 'ben', 40],
    [3, 'cy', 40],
  ]);
  const then = new Date(stall.clock.nowMs).toISOString();
  stall.clock.nowMs += 7 * DAY;
  expect(await places('weekly')).toEqual([]);
  await race('eli', 7);
  expect(await places('weekly')).toEqual([[1, 'eli', 7]]);
  expect(await places('weekly', { at: then })).toEqual(week);
  expect(await problemOf(places('wallets', { at: then }))).toMatchObject({ kind: 'bad-request' });
  expect(await problemOf(places('walets'))).toMatchObject({ message: expect.stringContaining('"wallets"') });
  expect(await problemOf(places('wallets', { cursor: 'x' }))).toMatchObject({ kind: 'bad-request' });
});

test('teams are ranked by what they hold, earned together, or reached; one that is dissolved leaves no hole', async () => {
  await joins('gulls', 'ana');
  await joins('gulls', 'ben');
  await joins('terns', 'cy');
  await race('ana', 20);
  await race('ben', 20);
  await race('cy', 30);
  expect(await places('crews')).toEqual([
    [1, 'gulls', 40],
    [2, 'terns', 30],
  ]);
  expect(await places('points')).toEqual([
    [1, 'gulls', 40],
    [2, 'terns', 30],
  ]);
  expect(await places('chests')).toEqual([
    [1, 'gulls', 6],
    [2, 'terns', 4],
  ]);
  const grant = (key: string) =>
    stall.as('support').call('POST /teams/{team}/grants', {
      params: { team: 'terns' },
      body: { gives: { shells: 10 }, takes: { pearls: 2 }, reason: 'a prize' },
      key,
    });
  expect(await grant('g')).toMatchObject({ grant: 1, given: { shells: 10 }, taken: {}, missed: { pearls: 2 } });
  expect(await grant('g')).toMatchObject({ grant: 1 });
  expect(await places('chests')).toEqual([
    [1, 'terns', 14],
    [2, 'gulls', 6],
  ]);
  const gone = await stall.as('support').call('DELETE /teams/{team}', { params: { team: 'gulls' } });
  expect(gone).toEqual({ team: 'gulls', lost: { shells: 6 } });
  for (const ranking of ['crews', 'points', 'chests'])
    expect((await places(ranking)).map(([, who]) => who)).toEqual(['terns']);
  expect((await game('GET /players/{player}', { params: { player: 'ana' } })).teams).toEqual([]);
  // Nor after everything is read anew, nor has a new team of its id what it had earned.
  stall.service.caches.forget();
  await game('POST /teams', { body: { id: 'gulls', kind: 'crew', name: 'Other gulls' } });
  for (const ranking of ['crews', 'points', 'chests'])
    expect((await places(ranking)).map(([, who]) => who)).toEqual(['terns']);
  await stall.as('support').call('DELETE /teams/{team}', { params: { team: 'gulls' } });
  // Who was in it earns for themselves again, and may join another.
  expect((await race('ana', 20)).outcomes[0]).toMatchObject({ given: { shells: 20 } });
  await joins('terns', 'ana');
  expect(await verify()).toBe(0);
});

test('places are the same after a start, and right while three hundred events race', async () => {
  const players = ['ana', 'ben', 'cy', 'dot', 'eli'];
  await places('wallets');
  await Promise.all([
    ...Array.from({ length: 300 }, (_, number) => race(players[number % 5]!, (number * 7) % 13)),
    ...Array.from({ length: 30 }, () => places('wallets')),
  ]);
  const before = await Promise.all(['wallets', 'weekly', 'flyers'].map((ranking) => places(ranking)));
  const sums = await Promise.all(players.map(async (player) => [player, await shellsOf(player)] as const));
  expect(before[0]!.map(([, who, score]) => [who, score])).toEqual(
    [...sums].sort(([a, one], [b, other]) => other - one || (a < b ? -1 : 1)),
  );
  await stall.stop();
  await start(false);
  expect(await Promise.all(['wallets', 'weekly', 'flyers'].map((ranking) => places(ranking)))).toEqual(before);
});
