import { integrityCheck } from '../../src/service/index.js';
import { DAY, HOUR, NOW } from '../support/economy.js';
import { problemOf, scratchFolder, startStall } from '../support/stall.js';
import type { Stall } from '../support/stall.js';

let stall: Stall;
beforeEach(async () => {
  stall = await startStall();
});
afterEach(() => stall.stop());

const game = () => stall.as('game');
const player = (id = 'mateo') => stall.as('read').call('GET /players/{player}', { params: { player: id } });
const shells = async (id = 'mateo') => (await player(id)).balances['shells']!.units;
async function create(id: string, gives: Record<string, number>, attributes = {}): Promise<void> {
  await stall.as('admin').call('POST /players', { body: { id, attributes } });
  if (Object.keys(gives).length > 0)
    await stall.as('admin').call('POST /players/{player}/grants', {
      params: { player: id },
      body: { gives, reason: 'test' },
      key: 'wallet',
    });
}

test('selling back pays once per key, from the till, and the movements say so', async () => {
  await create('mateo', { old_coin: 3 });
  const request = { item: 'old_coin', shop: 'pier_stall', times: 2, expect: { shells: 50 } };
  expect(
    (await game().call('POST /buybacks', { body: { player: 'mateo', ...request }, query: { preview: true } })).verdict,
  ).toMatchObject({
    allowed: true,
    gives: { shells: 50 },
  });
  const first = await game().call('POST /buybacks', { body: { player: 'mateo', ...request }, key: 'press' });
  const answers = await Promise.all(
    Array.from({ length: 10 }, () =>
      game().call('POST /buybacks', { body: { player: 'mateo', ...request }, key: 'press' }),
    ),
  );
  expect(answers.every((answer) => JSON.stringify(answer) === JSON.stringify(first))).toBe(true);
  expect(await shells()).toBe(110);
  const { items } = await stall.as('read').call('GET /players/{player}/ledger', { params: { player: 'mateo' } });
  expect(
    items
      .slice(-2)
      .map(({ asset, units, fromAccount, toAccount, cause }) => [asset, units, fromAccount, toAccount, cause]),
  ).toEqual([
    ['old_coin', 2, 'player:mateo', 'shop:pier_stall', 'sell:old_coin'],
    ['shells', 50, 'till:pier_stall', 'player:mateo', 'sell:old_coin'],
  ]);
  expect(
    await problemOf(game().call('POST /buybacks', { body: { player: 'mateo', ...request, times: 1 }, key: 'press' })),
  ).toMatchObject({
    kind: 'key-reused',
  });
});

test('many sellers at once never overdraw the till, and a refusal says when there will be enough', async () => {
  // The till holds 1500: thirty old coins at 25 are half of it.
  for (let n = 0; n < 8; n++) await create(`seller-${n}`, { old_coin: 10 });
  const results = await Promise.allSettled(
    Array.from({ length: 80 }, (_, n) =>
      game().call('POST /buybacks', {
        body: { player: `seller-${n % 8}`, item: 'old_coin', shop: 'pier_stall' },
        key: `press-${n}`,
      }),
    ),
  );
  expect(results.filter(({ status }) => status === 'fulfilled')).toHaveLength(60);
  const refused = (results.find(({ status }) => status === 'rejected') as PromiseRejectedResult).reason as {
    kind: string;
    body: { verdict: { reasons: { code: string; refilledMs: number }[] } };
  };
  expect(refused.kind).toBe('act-refused');
  expect(refused.body.verdict.reasons).toMatchObject([{ code: 'till-short', refilledMs: NOW + 6 * HOUR }]);
  stall.clock.nowMs += 6 * HOUR;
  await game()
    .call('POST /buybacks', { body: { player: 'seller-0', item: 'old_coin', shop: 'pier_stall' }, key: 'later' })
    .catch(() => undefined);
  expect(integrityCheck(stall.service.database).faults).toEqual([]);
});

test('a key that belongs to another request refuses the whole batch, and nothing of it is written', async () => {
  await create('rei', { storm_wax: 2 });
  const use = (uses: { id: string; item: string; times?: number }[]) =>
    game().call('POST /uses', { body: { player: 'rei', uses } });
  await use([{ id: 'first', item: 'storm_wax' }]);
  const before = await stall.as('read').call('GET /players/{player}', { params: { player: 'rei' } });
  for (const uses of [
    [
      { id: 'fresh', item: 'storm_wax' },
      { id: 'first', item: 'storm_wax', times: 2 },
    ],
    [
      { id: 'twice', item: 'storm_wax' },
      { id: 'twice', item: 'storm_wax', times: 2 },
    ],
  ]) {
    await expect(use(uses)).rejects.toMatchObject({ kind: 'key-reused' });
    expect(await stall.as('read').call('GET /players/{player}', { params: { player: 'rei' } })).toEqual(before);
  }
  expect((await use([{ id: 'fresh', item: 'storm_wax' }])).uses[0]).toMatchObject({ verdict: { allowed: true } });
});

test('uses come in batches, each id counts once, and a refusal of one stops none of the others', async () => {
  await create('mateo', { storm_wax: 1, flight_lesson: 1, pilot_licence: 1 });
  const uses = [
    { id: 'a', item: 'storm_wax', times: 2 },
    { id: 'b', item: 'storm_wax', times: 2 },
    { id: 'c', item: 'flight_lesson' },
    { id: 'd', item: 'pilot_licence' },
  ];
  const answers = (await game().call('POST /uses', { body: { player: 'mateo', uses } })).uses;
  expect(answers.map(({ id, verdict }) => [id, verdict.allowed])).toEqual([
    ['a', true],
    ['b', false],
    ['c', true],
    ['d', true],
  ]);
  expect(answers[1]!.verdict.reasons[0]!.sentence).toBe('Storm Wax: 2 wanted, 1 held.');
  const again = (await game().call('POST /uses', { body: { player: 'mateo', uses: uses.slice(0, 1) } })).uses;
  expect(again[0]).toEqual(answers[0]);
  const { attributes, stacks } = await player();
  expect(attributes).toMatchObject({ level: 2, pilot: true });
  expect(stacks.find(({ item }) => item === 'storm_wax')).toMatchObject({ units: 1, usesLeft: 1 });
});

test('opening with a key, once per key of the request, and what was drawn stays drawn after a restart', async () => {
  const folder = scratchFolder();
  const data = `${folder.path}/stall.sqlite`;
  let kept = await startStall({ data });
  await kept.as('admin').call('POST /players', { body: { id: 'ines' } });
  await kept.as('admin').call('POST /players/{player}/grants', {
    params: { player: 'ines' },
    body: { gives: { tide_crate: 2, brass_key: 1 }, reason: 'test' },
    key: 'wallet',
  });
  const first = await kept
    .as('game')
    .call('POST /openings', { body: { player: 'ines', item: 'tide_crate' }, key: 'open-1' });
  expect(first.given['sea_salt']).toBe(5);
  expect(Object.keys(first.given).length).toBeGreaterThan(1);
  await kept.stop();
  kept = await startStall({ data, publish: false });
  expect(
    await kept.as('game').call('POST /openings', { body: { player: 'ines', item: 'tide_crate' }, key: 'open-1' }),
  ).toEqual(first);
  const refused = await problemOf(
    kept.as('game').call('POST /openings', { body: { player: 'ines', item: 'tide_crate' }, key: 'open-2' }),
  );
  expect(refused.message).toBe('It opens with 1 Brass Key; 0 are held.');
  await kept.stop();
  folder.remove();
});

test('a yield is collected, a timed item expires, and a festival currency turns into shells', async () => {
  stall.clock.nowMs = Date.parse('2027-05-01T12:00Z');
  await create('mateo', { mussel_rope: 2, dawn_tea: 1, ribbons: 9 });
  expect(
    await problemOf(game().call('POST /collections', { body: { player: 'mateo', item: 'mussel_rope' }, key: 'c0' })),
  ).toMatchObject({
    kind: 'act-refused',
  });
  stall.clock.nowMs += 3.5 * HOUR;
  expect(
    (await game().call('POST /collections', { body: { player: 'mateo', item: 'mussel_rope' }, key: 'c1' })).given,
  ).toEqual({ shells: 14 });
  stall.clock.nowMs += DAY;
  expect((await player()).stacks.map(({ item }) => item)).not.toContain('dawn_tea');
  const before = await shells();
  stall.clock.nowMs = Date.parse('2027-05-09T23:00Z') - 1;
  expect((await player()).balances['ribbons']!.units).toBe(9);
  stall.clock.nowMs += 1;
  const after = await player();
  expect([after.balances['ribbons']!.units, after.balances['shells']!.units]).toEqual([0, before + 45]);
  await game().call('POST /collections', { body: { player: 'mateo', item: 'mussel_rope' }, key: 'c2' });
  expect(integrityCheck(stall.service.database).faults).toEqual([]);
});

test('a storefront tells what the shop would pay for what the player holds', async () => {
  await create('mateo', { old_coin: 2, brass_key: 1 });
  const { buysBack } = await stall
    .as('read')
    .call('GET /shops/{shop}/front', { params: { shop: 'pier_stall' }, query: { player: 'mateo' } });
  expect(buysBack).toEqual([{ item: 'old_coin', held: 2, pays: { shells: 25 }, allowed: true }]);
});

test('a real-money offer is shown with its price and cannot be had without a receipt', async () => {
  await create('mateo', {});
  const { shelves } = await stall
    .as('read')
    .call('GET /shops/{shop}/front', { params: { shop: 'pearl_counter' }, query: { player: 'mateo' } });
  expect(shelves[0]!.offers[0]!.choices).toEqual([
    { pay: 'money', total: {}, allowed: false, money: { EUR: 99, USD: 109 } },
  ]);
  expect(
    await problemOf(game().call('POST /purchases', { body: { player: 'mateo', offer: 'pearls_10' }, key: 'p' })),
  ).toMatchObject({
    kind: 'purchase-refused',
    message: "It is bought with real money (EUR 0.99, USD 1.09): the store's receipt is needed.",
  });
  expect((await player()).balances['pearls']!.units).toBe(2);
});

test("what one player does at a till leaves the others' prepared storefront as it is, but for who has something to sell", async () => {
  await create('mateo', { shells: 500 });
  await create('ines', {});
  await create('rufus', { old_coin: 1 });
  const tag = async (id: string) =>
    (await stall.raw('GET', `/shops/pier_stall/front?player=${id}`, { role: 'game' })).headers.get('etag');
  const before = [await tag('ines'), await tag('rufus')];
  expect([await tag('ines'), await tag('rufus')]).toEqual(before);
  await game().call('POST /purchases', { body: { player: 'mateo', offer: 'wax_1' }, key: 'press' });
  expect(await tag('ines')).toBe(before[0]);
  expect(await tag('rufus')).not.toBe(before[1]);
});
