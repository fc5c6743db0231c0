/** Goals and levels over HTTP: told with what moved them, kept with the player, and paid once whatever is repeated or raced. */
import { parse } from 'yaml';
import type { EconomyDocument } from '../../src/core/document/index.js';
import { scratchFolder, startStall } from '../support/stall.js';
import { join } from 'node:path';
import type { Stall } from '../support/stall.js';
import { runCli } from '../support/cli.js';

const DOCUMENT = parse(`
name: Kite school
timeZone: Europe/Lisbon
attributes: {level: {start: 1}, title: {start: none}}
events: {race: {name: Race, fields: {place: number}}}
currencies: {shells: {name: Shells, start: 100}, renown: {name: Renown}}
items: {tail: {name: Tail, kind: durable, worth: {shells: 10}}}
shops: {pier: {name: Pier, shelves: {main: {name: Main, offers: {tail: {gives: tail}}}}}}
earning: {prize: {name: Prize, on: race, gives: {renown: 10}}}
goals:
  starter: {name: First race, counts: events, event: race, target: 1, gives: {shells: 5}, sets: {title: starter}}
  tails: {name: Three tails, counts: purchases, offers: [tail], target: 3, gives: {renown: 100}}
  daily: {name: Two a day, counts: events, event: race, target: 2, every: day, gives: {shells: 1}}
tracks:
  flyer: {name: Flyer, earns: renown, attribute: level, levels: {2: {costs: 20, gives: {shells: 7}}, 3: {costs: 80}}}
`) as EconomyDocument;

let stall: Stall;
let folder: ReturnType<typeof scratchFolder>;
const data = () => join(folder.path, 'stall.db');
beforeEach(async () => {
  folder = scratchFolder();
  stall = await startStall({ document: DOCUMENT, data: data() });
  await stall.as('game').call('POST /players', { body: { id: 'oda', name: 'Oda' } });
});
afterEach(async () => {
  await stall.stop();
  folder.remove();
});

const race = (id: string) =>
  stall
    .as('game')
    .call('POST /players/{player}/events', {
      params: { player: 'oda' },
      body: { events: [{ id, name: 'race', fields: { place: 1 } }] },
    })
    .then(({ events }) => events[0]!);
const buy = (key: string, times = 1) =>
  stall.as('game').call('POST /purchases', { body: { player: 'oda', offer: 'tail', times }, key });
const oda = () => stall.as('read').call('GET /players/{player}', { params: { player: 'oda' } });
const verify = () => runCli(['verify', '--data', data()]);

test('what moved a goal tells it; a repeat tells the same and pays nothing', async () => {
  const first = await race('r1');
  expect(first.progress).toEqual([
    {
      kind: 'reached',
      goal: 'starter',
      name: 'First race',
      count: 1,
      target: 1,
      money: null,
      set: { title: 'starter' },
      given: { shells: 5 },
      dropped: {},
    },
    { kind: 'nearer', goal: 'daily', name: 'Two a day', count: 1, target: 2, money: null },
  ]);
  expect(await race('r1')).toEqual({ ...first, repeated: true });
  const second = await race('r2');
  expect(second.progress!.map(({ kind }) => kind)).toEqual(['reached', 'level']);
  const { balances, attributes, goals, tracks } = await oda();
  expect([balances['shells']!.units, attributes]).toEqual([113, { level: 2, title: 'starter' }]);
  expect(goals.map(({ goal, count, reached }) => [goal, count, reached])).toEqual([
    ['starter', 1, true],
    ['tails', 0, false],
    ['daily', 2, true],
  ]);
  expect(tracks).toEqual([
    { track: 'flyer', name: 'Flyer', level: 2, earned: 20, money: 'renown', next: { level: 3, from: 100 } },
  ]);
  const front = await stall
    .as('read')
    .call('GET /shops/{shop}/front', { params: { shop: 'pier' }, query: { player: 'oda' } });
  expect([front.goals, front.tracks]).toEqual([goals, tracks]);
});

test('a storefront that is kept ready tells of a new day by itself', async () => {
  const daily = async () => {
    const { goals, changesMs } = await stall
      .as('read')
      .call('GET /shops/{shop}/front', { params: { shop: 'pier' }, query: { player: 'oda' } });
    return [goals.find(({ goal }) => goal === 'daily')!.reached, changesMs];
  };
  await race('r1');
  await race('r2');
  const midnight = Date.UTC(2027, 2, 2);
  expect(await daily()).toEqual([true, midnight]);
  stall.clock.nowMs = midnight - 1;
  expect(await daily()).toEqual([true, midnight]);
  stall.clock.nowMs = midnight;
  expect(await daily()).toEqual([false, null]);
});

test('twenty purchases and races at once reach each goal once, and the ledger adds up', async () => {
  const same = Array.from({ length: 10 }, () => buy('one'));
  const others = ['a', 'b', 'c', 'd'].map((key) => buy(key));
  const races = Array.from({ length: 6 }, (_, number) => race(`r${number % 3}`));
  const [bought, raced] = [await Promise.all([...same, ...others]), await Promise.all(races)];
  const made = new Map(bought.map((one) => [one.purchase, one.progress!]));
  const reached = [...made.values(), ...raced.filter(({ repeated }) => !repeated).map(({ progress }) => progress!)]
    .flat()
    .filter(({ kind }) => kind === 'reached')
    .map((one) => 'goal' in one && one.goal);
  expect(reached.sort()).toEqual(['daily', 'starter', 'tails']);
  const { balances, attributes } = await oda();
  // 100, less five tails, and what goals and level 2 give; renown of three races and of the tails.
  expect([balances['shells']!.units, balances['renown']!.units, attributes['level']]).toEqual([63, 130, 3]);
  const checked = await verify();
  expect([checked.code, checked.err]).toEqual([0, '']);
});

test('a flatter table of levels lifts with the next event, and a steeper one takes nothing back', async () => {
  await race('r1');
  await race('r2');
  const publish = async (costs: number) => {
    const document = structuredClone(DOCUMENT);
    document.tracks!['flyer']!.levels!['3']!.costs = costs;
    document.tracks!['flyer']!.levels!['2']!.costs = costs;
    const { revision } = await stall.as('design').call('GET /draft');
    await stall.as('design').call('PUT /draft', { body: document, revision });
    await stall.as('publish').call('POST /releases', { body: { note: 'levels' } });
  };
  await publish(10);
  const lifted = await race('r3');
  expect(lifted.progress!.filter(({ kind }) => kind === 'level')).toMatchObject([{ level: 3, earned: 30 }]);
  await publish(500);
  await race('r4');
  const { attributes, tracks } = await oda();
  expect([attributes['level'], tracks[0]!.level]).toEqual([3, 3]);
});

test('the command line says what a race and a purchase did for goals, and how far a player is', async () => {
  const cli = (...args: string[]) =>
    runCli(args, { env: { DIMESTALL_URL: stall.url, DIMESTALL_TOKEN: stall.tokens.admin } });
  const event = await cli('event', 'oda', 'race', 'place=1', '--id', 'r1');
  expect(event.out).toBe('prize: gave 10 Renown\nFirst race reached: 5 Shells, title is starter\nTwo a day: 1 of 2\n');
  const bought = await cli('buy', 'oda', 'tail', '--times', '3');
  expect(bought.out).toContain('\nThree tails reached: 100 Renown\nFlyer: level 2, 7 Shells\nFlyer: level 3\n');
  const { out } = await cli('player', 'oda');
  expect(out).toContain('\nFlyer: level 3, the last\nFirst race: reached\nThree tails: reached\nTwo a day: 1 of 2\n');
});

test('what events would do is told without anything being kept, of a player and of one made up', async () => {
  await race('r1');
  const before = JSON.stringify(await oda());
  const events = [{ name: 'race', fields: { place: 1 }, times: 3 }];
  const tried = await stall.as('read').call('POST /tries', { body: { player: 'oda', events } });
  expect(tried.rules).toEqual([
    expect.objectContaining({ rule: 'prize', paid: 3, given: { renown: 30 }, skipped: {}, problem: null }),
  ]);
  expect(tried.progress.map((one) => ('goal' in one ? one.goal : one.level))).toEqual(['daily', 2]);
  expect([tried.net, tried.minutes, tried.perHour]).toEqual([{ renown: 30, shells: 8 }, null, null]);
  expect(JSON.stringify(await oda())).toBe(before);
  const cli = (...args: string[]) =>
    runCli(args, { env: { DIMESTALL_URL: stall.url, DIMESTALL_TOKEN: stall.tokens.read } });
  const made = await cli('try', 'race', 'place=1', '--times', '2', '--then', 'race place=2 x2', '--holds', 'renown=5');
  expect([made.code, made.err]).toEqual([0, '']);
  expect(made.out).toMatch(/^4 events\n\nrule +paid +gave .*\nPrize +4 +40 Renown\n/);
  expect(made.out).toContain('\nFirst race reached: 5 Shells, title is starter\n');
  expect(made.out).toContain('\nFlyer: level 2, 40 of 100 Renown to level 3\n');
  const wrong = await cli('try', 'rase');
  expect([wrong.code, wrong.err]).toEqual([1, expect.stringContaining('there is no event "rase"')]);
});

test.each([
  [{ events: [] }, '/events'],
  [{ events: [{ name: 'race', fields: {} }] }, '/events/0'],
  [{ events: [{ name: 'race', fields: { place: 1 }, times: 0 }] }, '/events/0/times'],
  [
    {
      events: [
        { name: 'race', fields: { place: 1 }, times: 10_000 },
        { name: 'race', fields: { place: 1 } },
      ],
    },
    '/events',
  ],
  [{ player: 'nobody', events: [{ name: 'race', fields: { place: 1 } }] }, undefined],
])('a try of %j is refused where it is wrong', async (body, pointer) => {
  const response = await stall.raw('POST', '/tries', { body });
  const { errors } = (await response.json()) as { errors?: { pointer: string }[] };
  expect([response.status, errors?.[0]?.pointer]).toEqual(pointer === undefined ? [404, undefined] : [422, pointer]);
});
