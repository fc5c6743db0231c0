import { DAY, MINUTE, NOW } from '../support/economy.js';
import { integrityCheck } from '../../src/service/index.js';
import { problemOf, startStall } from '../support/stall.js';
import type { Stall } from '../support/stall.js';

let stall: Stall;
beforeEach(async () => {
  stall = await startStall();
  await stall.as('game').call('POST /players', { body: { id: 'mateo', name: 'Mateo', attributes: { level: 3 } } });
});
afterEach(async () => {
  expect(integrityCheck(stall.service.database).faults).toEqual([]);
  await stall.stop();
});

const give = (player: string, gives: Record<string, number>, key = 'wallet') =>
  stall
    .as('support')
    .call('POST /players/{player}/grants', { params: { player }, body: { gives, reason: 'test' }, key });
const shells = async (player = 'mateo') =>
  (await stall.as('read').call('GET /players/{player}', { params: { player } })).balances['shells']!.units;

describe('exactly enough is enough', () => {
  test('a wallet at the price buys and is empty; one below is refused and keeps all', async () => {
    await give('mateo', { shells: 1339 });
    const refused = await problemOf(
      stall.as('game').call('POST /purchases', { body: { player: 'mateo', offer: 'storm_frame' }, key: 'a' }),
    );
    expect(refused).toMatchObject({
      kind: 'purchase-refused',
      status: 409,
      message: 'Shells: short by 1. It costs 1400 and the player has 1399.',
    });
    expect(refused.body['verdict']).toMatchObject({ allowed: false, reasons: [{ code: 'short-of', short: 1 }] });
    expect(await shells()).toBe(1399);
    await give('mateo', { shells: 1 }, 'one more');
    expect(
      await stall.as('game').call('POST /purchases', { body: { player: 'mateo', offer: 'storm_frame' }, key: 'a' }),
    ).toMatchObject({
      purchase: 1,
      release: 1,
      verdict: { after: { shells: 0, storm_frame: 1 } },
    });
    const { balances, stacks } = await stall.as('read').call('GET /players/{player}', { params: { player: 'mateo' } });
    // Beside what the goal gives that comes with so much spent.
    expect([balances['shells']!.units, stacks.filter(({ item }) => item === 'storm_frame')]).toEqual([
      0,
      [
        {
          slot: 1,
          item: 'storm_frame',
          units: 1,
          place: 'bag',
          cause: 'purchase:storm_frame',
          usesLeft: null,
          expiresMs: null,
          paid: { shells: 1400 },
        },
      ],
    ]);
  });
});

describe('once is once', () => {
  test('the same press reported eleven times is one purchase', async () => {
    const answers = await Promise.all(
      Array.from({ length: 11 }, () =>
        stall.raw('POST', '/purchases', {
          role: 'game',
          body: { player: 'mateo', offer: 'wax_1' },
          headers: { 'Idempotency-Key': 'press' },
        }),
      ),
    );
    expect(answers.map(({ status }) => status).sort()).toEqual([...Array<number>(10).fill(200), 201]);
    const bodies = new Set(await Promise.all(answers.map((answer) => answer.text())));
    expect(bodies.size).toBe(1);
    expect(answers.filter(({ headers }) => headers.get('idempotency-replayed') === 'true')).toHaveLength(10);
    expect(await shells()).toBe(45);
  });

  test('a key used for another request is refused; the same key of another player is another', async () => {
    await stall.as('game').call('POST /players', { body: { id: 'oda' } });
    await stall.as('game').call('POST /purchases', { body: { player: 'mateo', offer: 'wax_1' }, key: 'k' });
    expect(
      await problemOf(
        stall.as('game').call('POST /purchases', { body: { player: 'mateo', offer: 'pennant' }, key: 'k' }),
      ),
    ).toMatchObject({
      kind: 'key-reused',
      status: 422,
    });
    expect(
      await stall.as('game').call('POST /purchases', { body: { player: 'oda', offer: 'wax_1' }, key: 'k' }),
    ).toMatchObject({ purchase: 2 });
  });

  test('a purchase without a key is refused', async () => {
    const response = await stall.raw('POST', '/purchases', { body: { player: 'mateo', offer: 'wax_1' } });
    expect([response.status, await response.json()]).toEqual([
      400,
      expect.objectContaining({ type: 'urn:dimestall:key-needed' }),
    ]);
  });

  test('a repeat shows the first answer, even after the price has changed', async () => {
    const first = await stall
      .as('game')
      .call('POST /purchases', { body: { player: 'mateo', offer: 'wax_1' }, key: 'k' });
    await stall.as('admin').call('PATCH /draft', {
      body: [{ op: 'replace', path: '/shops/pier_stall/shelves/care/offers/wax_1/price/shells', value: 20 }],
      revision: 1,
    });
    await stall.as('admin').call('POST /releases', { body: { note: 'dearer wax' } });
    expect(
      await stall.as('game').call('POST /purchases', { body: { player: 'mateo', offer: 'wax_1' }, key: 'k' }),
    ).toEqual(first);
    expect(
      await stall.as('game').call('POST /purchases', { body: { player: 'mateo', offer: 'wax_1' }, key: 'k2' }),
    ).toMatchObject({
      release: 2,
      verdict: { price: { total: { shells: 20 } } },
    });
  });

  test('one event pays once, also within one report', async () => {
    const event = { id: 'race-1', name: 'race_finished', fields: { place: 1, difficulty: 1 } };
    const { events } = await stall
      .as('game')
      .call('POST /players/{player}/events', { params: { player: 'mateo' }, body: { events: [event, event] } });
    expect(events.map(({ repeated }) => repeated)).toEqual([false, true]);
    await stall
      .as('game')
      .call('POST /players/{player}/events', { params: { player: 'mateo' }, body: { events: [event] } });
    // The prize, and the goal of the first race.
    expect(await shells()).toBe(100);
  });

  test('what a cap or carry keeps out of a grant or event is told with why, on the wire', async () => {
    const grant = await stall.as('support').call('POST /players/{player}/grants', {
      params: { player: 'mateo' },
      body: { gives: { shells: 99_999, storm_frame: 2 }, reason: 'too kind' },
      key: 'much',
    });
    expect(grant.given).toEqual({ shells: 19_940, storm_frame: 1 });
    expect(grant.keptOut.map(({ sentence }) => sentence)).toEqual([
      '80059 Shells kept out: 20000 Shells is its cap.',
      '1 Storm Frame kept out: 1 Storm Frame is the most that may be carried.',
    ]);
    const { events } = await stall.as('game').call('POST /players/{player}/events', {
      params: { player: 'mateo' },
      body: { events: [{ id: 'race-9', name: 'race_finished', fields: { place: 1, difficulty: 1 } }] },
    });
    expect(events[0]!.outcomes[0]).toMatchObject({
      paid: false,
      why: 'kept-out',
      keptOut: [{ asset: 'shells', units: 30, by: 'cap', most: 20_000 }],
    });
  });

  test('a grant repeated with its key is given once', async () => {
    await give('mateo', { shells: 10 });
    await give('mateo', { shells: 10 });
    expect(await shells()).toBe(70);
  });

  test('a grant repeated after its item was taken out of the economy gets its first answer', async () => {
    const first = await give('mateo', { pennant: 2 });
    await stall.as('admin').call('PATCH /draft', {
      body: [
        { op: 'remove', path: '/items/pennant' },
        { op: 'remove', path: '/shops/pier_stall/shelves/care/offers/pennant' },
        { op: 'remove', path: '/loot/festival_finds/entries/pennants' },
        ...['/texts', '/goals', '/rankings', '/cases'].map((path) => ({ op: 'remove' as const, path })),
      ],
      revision: 1,
    });
    await stall.as('admin').call('POST /releases', { body: { note: 'no more pennants' } });
    expect(await give('mateo', { pennant: 2 })).toEqual(first);
    expect(await problemOf(give('mateo', { pennant: 2 }, 'another'))).toMatchObject({
      kind: 'invalid',
      body: { errors: [{ pointer: '/gives/pennant' }] },
    });
  });
});

describe('the server decides the price', () => {
  test('a client cannot send one; it can only say which it was shown', async () => {
    const response = await stall.raw('POST', '/purchases', {
      body: { player: 'mateo', offer: 'wax_1', price: { shells: 1 } },
      headers: { 'Idempotency-Key': 'k' },
    });
    expect([response.status, await response.json()]).toEqual([
      422,
      expect.objectContaining({ errors: [expect.objectContaining({ code: 'unknown-field', pointer: '/price' })] }),
    ]);
    expect(
      await problemOf(
        stall
          .as('game')
          .call('POST /purchases', { body: { player: 'mateo', offer: 'wax_1', expect: { shells: 1 } }, key: 'k' }),
      ),
    ).toMatchObject({
      kind: 'purchase-refused',
      body: { verdict: { reasons: [{ code: 'price-changed', expected: { shells: 1 }, actual: { shells: 15 } }] } },
    });
    expect(
      await stall
        .as('game')
        .call('POST /purchases', { body: { player: 'mateo', offer: 'wax_1', expect: { shells: 15 } }, key: 'k' }),
    ).toMatchObject({
      purchase: 1,
    });
  });
});

describe('many at once', () => {
  test('three hundred buyers of the last ten units: exactly ten are bought', async () => {
    const admin = stall.as('admin');
    await admin.call('PATCH /draft', {
      body: [
        {
          op: 'replace',
          path: '/shops/lantern_wagon/shelves/rare/offers/lantern_sail/stock',
          value: { units: 10, scope: 'shared' },
        },
      ],
      revision: 1,
    });
    await admin.call('POST /releases', { body: { note: 'ten left' } });
    const ids = Array.from({ length: 300 }, (_, index) => `buyer-${index}`);
    await Promise.all(ids.map((id) => admin.call('POST /players', { body: { id, attributes: { level: 2 } } })));
    await Promise.all(ids.map((id) => give(id, { pearls: 10 })));
    const results = await Promise.allSettled(
      ids.map((id) =>
        stall
          .as('game')
          .call('POST /purchases', { body: { player: id, offer: 'lantern_sail', pay: 'pearls' }, key: 'k' }),
      ),
    );
    const refused = results
      .filter((result) => result.status === 'rejected')
      .map(({ reason }) =>
        (reason as { body: { verdict: { reasons: { code: string }[] } } }).body.verdict.reasons.map(({ code }) => code),
      );
    expect(results.filter(({ status }) => status === 'fulfilled')).toHaveLength(10);
    expect(refused.every((codes) => codes.join() === 'out-of-stock')).toBe(true);
    const owners = await Promise.all(
      ids.map(async (id) =>
        (await admin.call('GET /players/{player}', { params: { player: id } })).stacks.reduce(
          (sum, { units }) => sum + units,
          0,
        ),
      ),
    );
    expect(owners.reduce((sum, units) => sum + units, 0)).toBe(10);
    expect(
      (await admin.call('GET /shops/{shop}/front', { params: { shop: 'lantern_wagon' }, query: { player: 'buyer-0' } }))
        .shelves[0]!.offers[0]!.verdict.stock,
    ).toMatchObject({ left: 0 });
  });

  test('one player pressing fifty times at once never goes below zero', async () => {
    const results = await Promise.allSettled(
      Array.from({ length: 50 }, (_, index) =>
        stall.as('game').call('POST /purchases', { body: { player: 'mateo', offer: 'wax_1' }, key: `press-${index}` }),
      ),
    );
    expect(results.filter(({ status }) => status === 'fulfilled')).toHaveLength(4);
    expect(await shells()).toBe(0);
  });

  test('a refusal in a group touches nobody else, and a group is one commit', async () => {
    const { committed } = stall.service.writer;
    const before = { ...committed };
    const calls = Array.from({ length: 40 }, (_, index) =>
      stall.service.purchases.buy('mateo', { offer: index % 10 === 0 ? 'wax_1' : 'storm_frame' }, `k${index}`),
    );
    const results = await Promise.allSettled(calls);
    expect(results.filter(({ status }) => status === 'fulfilled')).toHaveLength(4);
    expect(committed.tasks - before.tasks).toBe(40);
    // As many as the time of a group holds.
    expect(committed.groups - before.groups).toBeLessThan(10);
  });
});

describe('the storefront', () => {
  test('it shows what was bought at once, and its ETag changes only then', async () => {
    const read = (etag?: string) =>
      stall.raw('GET', '/shops/pier_stall/front?player=mateo', {
        role: 'game',
        headers: etag ? { 'If-None-Match': etag } : {},
      });
    const first = await read();
    const etag = first.headers.get('etag')!;
    expect((await read(etag)).status).toBe(304);
    await stall.as('game').call('POST /purchases', { body: { player: 'mateo', offer: 'wax_1' }, key: 'k' });
    const after = await read(etag);
    expect(after.status).toBe(200);
    expect(await after.json()).toMatchObject({ balances: { shells: 45 } });
  });

  test('prepared bytes say what a fresh look says, at every moment', async () => {
    await give('mateo', { breeze: 3 });
    await stall.as('game').call('POST /purchases', { body: { player: 'mateo', offer: 'calm_charm' }, key: 'k' });
    for (const waitMs of [0, 1, 19 * MINUTE, 20 * MINUTE, 21 * MINUTE, DAY, DAY + 1]) {
      stall.clock.nowMs = NOW + waitMs;
      const prepared = (await (await stall.raw('GET', '/shops/pier_stall/front?player=mateo')).json()) as object;
      const fresh = (await (await stall.raw('GET', '/shops/pier_stall/front?player=mateo&at=now')).json()) as {
        atMs: number;
      };
      expect({ ...prepared, atMs: fresh.atMs, shelves: undefined }).toEqual({ ...fresh, shelves: undefined });
      const timeless = (value: object) => JSON.stringify(value).replace(/"atMs":\d+/g, '');
      expect(timeless(prepared)).toBe(timeless(fresh));
    }
    expect(stall.service.hotFront.counts.kept).toBeGreaterThan(0);
  });

  test('many players have theirs kept: those that are packed are what was sent before, byte by byte', async () => {
    const { hotFront, sources, support } = stall.service;
    const asked = (n: number) => ({
      compiled: sources.live('live'),
      channel: 'live',
      shopId: 'pier_stall',
      playerId: `many_${n}`,
      language: undefined,
      holder: 'game',
    });
    const count = 2500;
    await Promise.all(
      Array.from({ length: count }, (_, n) => support.create(`many_${n}`, `No ${n}`, { level: 1 + (n % 9) }, 'test')),
    );
    const sent = Array.from({ length: count }, (_, n) => hotFront.make(asked(n), NOW)!.bytes.toString());
    const { made } = hotFront.counts;
    const bytes = sent.reduce((sum, { length }) => sum + length, 0);
    // More than lie ready, and more than the room for all of them would hold unpacked.
    expect(bytes).toBeGreaterThan(64 * 2 ** 20);
    for (let n = 0; n < count; n++) {
      const kept = hotFront.kept(asked(n), NOW)!;
      expect(kept.whole().bytes.toString() === sent[n]).toBe(true);
      expect(kept.whole().etag).toBe(kept.etag);
    }
    expect(hotFront.counts.made).toBe(made);
    // What changes for one makes theirs anew, wherever it lay.
    await give('many_7', { shells: 1 });
    expect([7, 8].map((n) => hotFront.kept(asked(n), NOW) === undefined)).toEqual([true, false]);
  });

  test('any instant and any made-up player can be looked at', async () => {
    const look = (query: string) =>
      stall.raw('GET', `/shops/lantern_wagon/front?${query}`).then((response) => response.json()) as Promise<{
        atMs: number;
        balances: object;
        shelves: { offers: { verdict: { reasons: { code: string }[] } }[] }[];
      }>;
    const profile = encodeURIComponent(JSON.stringify({ attributes: { level: 1 }, holds: { pearls: 12 } }));
    const front = await look(`profile=${profile}&at=2027-06-01T12:00`);
    expect([front.atMs, front.balances]).toEqual([
      Date.parse('2027-06-01T11:00Z'),
      { shells: 60, pearls: 12, breeze: 5, ribbons: 0 },
    ]);
    expect(front.shelves[0]!.offers[0]!.verdict.reasons[0]).toMatchObject({
      code: 'not-for-this-player',
      sentence: 'Lantern Wagon serves players for whom level >= 2 (level is 1).',
    });
  });
});

test('dry runs answer many questions at once and buy nothing', async () => {
  const { verdicts } = await stall.as('read').call('POST /checks', {
    body: {
      checks: [
        { offer: 'wax_1', player: 'mateo' },
        { offer: 'wax_1', player: 'mateo', times: 5 },
        { offer: 'nothing', player: 'mateo' },
      ],
    },
  });
  expect(verdicts.map(({ allowed }) => allowed)).toEqual([true, false, false]);
  expect(verdicts[1]!.reasons).toMatchObject([
    { code: 'short-of', short: 15, sentence: expect.stringContaining('short by 15') as string },
  ]);
  expect(await shells()).toBe(60);
});

describe('support', () => {
  test('it can take what is there, with a reason on the trail, and never more', async () => {
    const answer = await stall.as('support').call('POST /players/{player}/grants', {
      params: { player: 'mateo' },
      body: { takes: { shells: 100 }, reason: 'bought back' },
      key: 'k',
    });
    expect(answer).toMatchObject({ taken: { shells: 60 }, missed: { shells: 40 } });
    expect(await shells()).toBe(0);
    const trail = (await (await stall.raw('GET', '/trail', { role: 'support' })).json()) as { items: object[] };
    expect(trail.items[0]).toMatchObject({
      who: 'support',
      action: 'player.grant',
      subject: 'mateo',
      why: 'bought back',
    });
  });

  test('players are found by part of an id or name, page by page', async () => {
    for (const id of ['anna', 'bert', 'cora_50'])
      await stall.as('game').call('POST /players', { body: { id, name: `Flyer ${id}` } });
    const page = await stall.as('read').call('GET /players', { query: { limit: 2 } });
    expect([page.items.map(({ id }) => id), page.next]).toEqual([['anna', 'bert'], 'bert']);
    expect(
      (await stall.as('read').call('GET /players', { query: { limit: 2, cursor: page.next! } })).items.map(
        ({ id }) => id,
      ),
    ).toEqual(['cora_50', 'mateo']);
    expect(
      (await stall.as('read').call('GET /players', { query: { search: '_50' } })).items.map(({ id }) => id),
    ).toEqual(['cora_50']);
    expect(
      (await stall.as('read').call('GET /players', { query: { search: 'FLYER B' } })).items.map(({ id }) => id),
    ).toEqual(['bert']);
  });

  test('what is not there is told with what may have been meant', async () => {
    const reads: [string, RegExp][] = [
      ['/players/matteo', /There is no player "matteo"\. Did you mean "mateo"\?$/],
      ['/players/zz', /There is no player "zz"\.$/],
      ['/shops/pier_stal/front', /There is no shop "pier_stal"\. Did you mean "pier_stall"\?$/],
      ['/flows/shels', /There is no currency or item "shels"\. Did you mean "shells"\?$/],
    ];
    for (const [path, words] of reads) {
      const response = await stall.raw('GET', path, { role: 'read' });
      expect([response.status, ((await response.json()) as { detail: string }).detail]).toEqual([
        404,
        expect.stringMatching(words),
      ]);
    }
  });

  test('the ledger tells every movement of a player with its cause and release', async () => {
    await stall.as('game').call('POST /purchases', { body: { player: 'mateo', offer: 'wax_1' }, key: 'k' });
    const { items } = await stall.as('read').call('GET /players/{player}/ledger', { params: { player: 'mateo' } });
    expect(items.slice(-2)).toMatchObject([
      {
        asset: 'shells',
        units: 15,
        fromAccount: 'player:mateo',
        toAccount: 'till:pier_stall',
        cause: 'purchase:wax_1',
        release: 1,
        atMs: NOW,
      },
      {
        asset: 'glide_wax',
        units: 1,
        fromAccount: 'shop:pier_stall',
        toAccount: 'player:mateo',
        cause: 'purchase:wax_1',
      },
    ]);
    // What the till began with was moved too, and is no player's.
    expect(
      stall.service.database.raw.prepare("SELECT units FROM movements WHERE cause = 'till:pier_stall'").all(),
    ).toEqual([{ units: 1500 }]);
    expect(items.every(({ fromAccount, toAccount }) => [fromAccount, toAccount].includes('player:mateo'))).toBe(true);
    const page = await stall
      .as('read')
      .call('GET /players/{player}/ledger', { params: { player: 'mateo' }, query: { limit: 2 } });
    expect(
      (
        await stall.as('read').call('GET /players/{player}/ledger', {
          params: { player: 'mateo' },
          query: { limit: 2, cursor: Number(page.next) },
        })
      ).items[0]!.id,
    ).toBe(items[2]!.id);
  });
});

test('a player that exists is not made again, and one that does not is told', async () => {
  expect(await problemOf(stall.as('game').call('POST /players', { body: { id: 'mateo' } }))).toMatchObject({
    kind: 'already-there',
  });
  expect(
    await problemOf(stall.as('game').call('POST /purchases', { body: { player: 'nobody', offer: 'wax_1' }, key: 'k' })),
  ).toMatchObject({
    kind: 'not-found',
    message: 'There is no player "nobody".',
  });
  expect(
    await problemOf(stall.as('game').call('POST /players', { body: { id: 'x', attributes: { levle: 3 } } })),
  ).toMatchObject({
    kind: 'invalid',
    body: { errors: [{ pointer: '/attributes/levle' }] },
  });
});
