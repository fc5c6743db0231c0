/** Rankings by a balance tell what players hold at the instant of asking: refills, ends and conversions included. */
import { join } from 'node:path';
import fc from 'fast-check';
import { parse } from 'yaml';
import type { Client } from '../../src/client/index.js';
import type { EconomyDocument } from '../../src/core/document/index.js';
import { economyCompile } from '../../src/core/economy/index.js';
import { orderAdd, orderPlaces } from '../../src/core/ranking/index.js';
import type { Contest, Order } from '../../src/core/ranking/index.js';
import { DAY, HOUR, NOW } from '../support/economy.js';
import { Rankings } from '../../src/service/rankings/rankings.js';
import { RankingThread } from '../../src/service/rankings/thread.js';
import type { RankingStore } from '../../src/service/store/rankingStore.js';
import { scratchFolder, startStall } from '../support/stall.js';
import type { Stall } from '../support/stall.js';

const DOCUMENT = parse(`
name: Wind festival
timeZone: Europe/Lisbon
events: {race: {name: Race, fields: {points: number}}}
currencies:
  breeze: {name: Breeze, start: 2, refill: {amount: 1, every: PT2H, upTo: 9}}
  shells: {name: Shells, cap: 100}
  ribbons: {name: Ribbons, ends: {at: "2027-03-03T12:00", into: shells, rate: 0.5}}
  gusts: {name: Gusts, start: 1, refill: {amount: 5, every: PT6H, upTo: 40}, ends: {at: "2027-03-04T12:00", into: shells, rate: 2}}
items: {wax: {name: Wax, kind: consumable, worth: {breeze: 3}}}
shops: {pier: {name: Pier, shelves: {main: {name: Main, offers: {wax: {gives: wax}}}}}}
earning: {prize: {name: Prize, on: race, gives: {shells: "=points", ribbons: "=points * 3", breeze: 1}}}
rankings:
  breeze: {name: Fresh, by: balance, currency: breeze}
  shells: {name: Rich, by: balance, currency: shells}
  ribbons: {name: Festive, by: balance, currency: ribbons}
  gusts: {name: Gusty, by: balance, currency: gusts}
  today: {name: Today, by: earned, currency: shells, every: day}
`) as EconomyDocument;

let stall: Stall;
let game: Client['call'];
beforeEach(async () => {
  stall = await startStall({ document: DOCUMENT });
  const client = stall.as('game');
  game = client.call.bind(client) as Client['call'];
});
afterEach(() => stall.stop());

const PLAYERS = ['ana', 'ben', 'cy', 'dot', 'eli', 'fay'];
const RANKINGS = ['breeze', 'shells', 'ribbons', 'gusts'];

/** What each ranking says, and what the players' own pages say. */
async function told(ids: readonly string[]): Promise<{ ranked: object; held: object }> {
  const ranked: Record<string, Record<string, number>> = {};
  const held: Record<string, Record<string, number>> = {};
  for (const ranking of RANKINGS) {
    const { items } = await game('GET /rankings/{ranking}', { params: { ranking } });
    ranked[ranking] = Object.fromEntries(items.map(({ who, score }) => [who, score]));
    held[ranking] = {};
  }
  for (const player of ids) {
    const { balances } = await game('GET /players/{player}', { params: { player } });
    for (const ranking of RANKINGS) {
      const units = balances[ranking]?.units ?? 0;
      if (units > 0) held[ranking]![player] = units;
      const { score } = await game('GET /rankings/{ranking}/places/{who}', { params: { ranking, who: player } });
      expect([ranking, player, score]).toEqual([ranking, player, units]);
    }
  }
  return { ranked, held };
}

test('at any instant, whatever was done since and whoever asked before', async () => {
  let events = 0;
  for (const [number, id] of PLAYERS.entries()) {
    stall.clock.nowMs = NOW + number * HOUR;
    await game('POST /players', { body: { id } });
    const body = { events: [{ id: `r${++events}`, name: 'race', fields: { points: 7 * number } }] };
    await game('POST /players/{player}/events', { params: { player: id }, body });
  }
  for (const days of [0.3, 0.9, 1.7, 2.1, 2.2, 3.05, 3.2, 6]) {
    stall.clock.nowMs = NOW + days * DAY;
    const { ranked, held } = await told(PLAYERS);
    expect(ranked).toEqual(held);
    // Somebody spends what comes back, somebody earns, and the next time both are asked for.
    if (days < 3) {
      const bought = { player: 'ana', offer: 'wax' };
      await game('POST /purchases', { body: bought, key: `p${days}` }).catch(() => undefined);
      const body = { events: [{ id: `r${++events}`, name: 'race', fields: { points: 3 } }] };
      await game('POST /players/{player}/events', { params: { player: 'cy' }, body });
    }
  }
  const { ranked } = await told(PLAYERS);
  expect(ranked).toMatchObject({ ribbons: {}, gusts: {} });
});

test('a release that changes what time brings is told from then on, and who is erased has no place', async () => {
  for (const id of PLAYERS.slice(0, 2)) await game('POST /players', { body: { id } });
  stall.clock.nowMs += 6 * HOUR;
  expect((await told(PLAYERS.slice(0, 2))).ranked).toMatchObject({ breeze: { ana: 5, ben: 5 } });
  const design = stall.as('publish');
  const { revision } = await design.call('GET /draft', {});
  await design.call('PATCH /draft', {
    revision,
    body: [{ op: 'replace', path: '/currencies/breeze/refill/every', value: 'PT1H' }],
  });
  await design.call('POST /releases', { body: { note: 'Fresher' } });
  const { ranked, held } = await told(PLAYERS.slice(0, 2));
  expect(ranked).toEqual(held);
  expect(ranked).toMatchObject({ breeze: { ana: 8, ben: 8 } });
  await stall.as('support').call('DELETE /players/{player}', { params: { player: 'ana' }, query: { reason: 'Asked' } });
  stall.clock.nowMs += 9 * HOUR;
  expect((await told(['ben'])).ranked).toMatchObject({ breeze: { ben: 9 } });
});

describe('what is stored', () => {
  const ask = fc.record({ who: fc.nat(45), count: fc.integer({ min: 0, max: 7 }), isCursor: fc.boolean() });
  const CONTESTS: Contest[] = [
    { holder: 'player', by: 'balance', currency: 'shells' },
    { holder: 'player', by: 'goal', goal: 'lap', startMs: 100, endMs: 200 },
    { holder: 'player', by: 'earned', currency: 'shells', every: 'day', startMs: 100, endMs: 200 },
    { holder: 'team crew', by: 'balance', currency: 'shells' },
    { holder: 'team crew', by: 'goal', goal: 'lap', startMs: 100, endMs: 200 },
    { holder: 'team crew', by: 'earned', currency: 'shells', every: 'day', startMs: 100, endMs: 200 },
  ];

  /** Some with a score, with ties and parts; and whoever must not be in it: of another kind, currency, goal or period. */
  function fill(scores: readonly number[]): void {
    const { raw } = stall.service.database;
    const run = (sql: string, ...bound: unknown[]): void => void raw.prepare(sql).run(...bound);
    run("INSERT INTO teams (id, kind, name, started_ms) VALUES ('other', 'club', 'O', 0)");
    scores.forEach((score, n) => {
      const id = `w${n}`;
      run('INSERT INTO players (id, name, started_ms, attributes) VALUES (?, ?, 0, ?)', id, id, '{}');
      run("INSERT INTO teams (id, kind, name, started_ms) VALUES (?, 'crew', ?, 0)", id, id);
      run("INSERT INTO balances (player, currency, units) VALUES (?, 'shells', ?), (?, 'gusts', 99)", id, score, id);
      run("INSERT INTO team_holdings (team, asset, units) VALUES (?, 'shells', ?), (?, 'gusts', 99)", id, score, id);
      const at = n % 9 === 0 ? 200 : 100 + n;
      const part = score + (score > 0 ? 0.1 + 0.2 : 0);
      run("INSERT INTO counters (player, key, count, start_ms) VALUES (?, 'goal lap', ?, ?)", id, part, at);
      run("INSERT INTO team_counters (team, key, count, start_ms) VALUES (?, 'goal lap', ?, ?)", id, part, at);
      for (const sum of ['player shells day', 'team crew shells day'])
        run(
          'INSERT INTO earnings (sum, start_ms, who, units) VALUES (?, 100, ?, ?), (?, 200, ?, 99)',
          ...[sum, id, score, sum, id],
        );
    });
    run("INSERT INTO team_holdings (team, asset, units) VALUES ('other', 'shells', 50)");
    run("INSERT INTO team_counters (team, key, count, start_ms) VALUES ('other', 'goal lap', 50, 100)");
  }

  test('tells the same when it is looked through as when it was put in order', async () => {
    const scores = Array.from({ length: 40 }, (_, n) => (n * 7) % 11);
    fill(scores);
    const { rankingStore } = stall.service;
    for (const contest of CONTESTS) {
      const looked = rankingStore.places(contest);
      const all = [...rankingStore.pages(contest)].flat();
      const known = new Map(all.map(({ who, score }) => [who, score]));
      const kept = orderPlaces(
        all.reduce<Order>((order, one) => orderAdd(order, one), undefined),
        (who) => known.get(who) ?? 0,
      );
      const inPeriod = (n: number) => contest.by !== 'goal' || n % 9 !== 0;
      expect([contest, looked.of]).toEqual([contest, scores.filter((score, n) => score > 0 && inPeriod(n)).length]);
      expect(kept.of).toBe(looked.of);
      fc.assert(
        fc.property(ask, ({ who, count, isCursor }) => {
          const last = isCursor ? { who: `w${who}`, score: (who * 7) % 11 } : undefined;
          expect(looked.after(last, count)).toEqual(kept.after(last, count));
          expect(looked.around(`w${who}`, count)).toEqual(kept.around(`w${who}`, count));
        }),
        { numRuns: 150, seed: 46 },
      );
    }
    // And both are so.
    const places = rankingStore.places(CONTESTS[0]!).after(undefined, 5);
    expect(places.items.map(({ who, score, place }) => [who, score, place])).toEqual([
      ['w14', 10, 1],
      ['w25', 10, 1],
      ['w3', 10, 1],
      ['w36', 10, 1],
      ['w17', 9, 5],
    ]);
    expect(places.isEnd).toBe(false);
  });
});

describe('in a thread of its own', () => {
  let folder: ReturnType<typeof scratchFolder>;
  let filed: Stall;
  beforeEach(async () => {
    folder = scratchFolder();
    filed = await startStall({ document: DOCUMENT, data: join(folder.path, 'data.sqlite') });
  });
  afterEach(async () => {
    await filed.stop();
    folder.remove();
  });
  const shells = async (query = {}) => {
    const { items } = await filed.as('game').call('GET /rankings/{ranking}', { params: { ranking: 'shells' }, query });
    return items.map(({ who, place, score }) => [who, place, score]);
  };
  const race = (player: string, points: number, id: string) =>
    filed.as('game').call('POST /players/{player}/events', {
      params: { player },
      body: { events: [{ id, name: 'race', fields: { points } }] },
    });

  test('who has bought or earned is told with it, from the first question on and after each', async () => {
    for (const id of PLAYERS) await filed.as('game').call('POST /players', { body: { id } });
    const points = new Map<string, number>();
    const inOrder = () => {
      const all = [...points].sort(([a, x], [b, y]) => y - x || (a < b ? -1 : 1));
      return all.map(([who, score]) => [who, 1 + all.filter(([, other]) => other > score).length, score]);
    };
    for (let round = 0; round < 40; round++) {
      const player = PLAYERS[(round * 5) % PLAYERS.length]!;
      await race(player, 1 + (round % 3), `r${round}`);
      points.set(player, (points.get(player) ?? 0) + 1 + (round % 3));
      expect([round, await shells()]).toEqual([round, inOrder()]);
    }
    const { place, score, around } = await filed.as('game').call('GET /rankings/{ranking}/places/{who}', {
      params: { ranking: 'shells', who: 'cy' },
      query: { around: 1 },
    });
    const own = inOrder().findIndex(([who]) => who === 'cy');
    expect([place, score]).toEqual(inOrder()[own]!.slice(1));
    expect(around.map(({ who }) => who)).toEqual(
      inOrder()
        .slice(Math.max(0, own - 1), own + 2)
        .map(([who]) => who),
    );
  });

  test('what is undone is not told, and a wrong question is told as what it is', async () => {
    await filed.as('game').call('POST /players', { body: { id: 'ana' } });
    await race('ana', 5, 'one');
    expect(await shells()).toEqual([['ana', 1, 5]]);
    expect(await shells()).toEqual([['ana', 1, 5]]);
    const { service } = filed;
    const { rankingChanges } = service;
    const moved = rankingChanges.moved.bind(rankingChanges);
    rankingChanges.moved = (...all) => {
      moved(...all);
      throw new Error('planted fault');
    };
    await expect(race('ana', 7, 'two')).rejects.toThrow();
    rankingChanges.moved = moved;
    expect(await shells()).toEqual([['ana', 1, 5]]);
    const wrong = await filed.raw('GET', '/rankings/shells?cursor=nobody');
    expect([wrong.status, ((await wrong.json()) as { detail: string }).detail]).toEqual([
      400,
      'The cursor is not one that a page ended with. Begin without one.',
    ]);
    expect((await filed.raw('GET', '/rankings/none')).status).toBe(404);
    expect((await filed.raw('GET', '/rankings/shells/places/nobody')).status).toBe(404);
  });

  test('one that ended is begun anew', async () => {
    await filed.as('game').call('POST /players', { body: { id: 'ana' } });
    await race('ana', 5, 'one');
    const thread = new RankingThread(filed.service);
    const ask = async () => {
      const sent = { params: { ranking: 'shells' }, query: {}, body: undefined, headers: {}, secure: false };
      const done = await thread.ask(
        { key: 'GET /rankings/{ranking}', who: { name: 'game', role: 'game' }, sent },
        () => true,
        () => undefined,
      );
      const { content } = (done as { reply: { bytes: { content: Uint8Array } } }).reply.bytes;
      return (JSON.parse(Buffer.from(content).toString()) as { items: { score: number }[] }).items[0]!.score;
    };
    expect(await ask()).toBe(5);
    await thread.close();
    await race('ana', 4, 'two');
    expect(await ask()).toBe(9);
    await race('ana', 4, 'three');
    expect(await ask()).toBe(13);
    await thread.close();
  });
});

describe('reading', () => {
  const MORE_THAN_ARE_KEPT = 40;

  test('more periods at once than are kept are all answered, whatever each pushes out', async () => {
    await game('POST /players', { body: { id: 'ana' } });
    const today = { events: [{ id: 'now', name: 'race', fields: { points: 4 } }] };
    await game('POST /players/{player}/events', { params: { player: 'ana' }, body: today });
    const days = Array.from({ length: MORE_THAN_ARE_KEPT }, (_, n) => new Date(NOW - n * DAY).toISOString());
    const ask = (at: string) => game('GET /rankings/{ranking}', { params: { ranking: 'today' }, query: { at } });
    const answers = await Promise.all(days.map(ask));
    expect(answers.map(({ of }) => of)).toEqual(days.map((_, n) => (n === 0 ? 1 : 0)));
  });

  test('while it is read, what is written meanwhile is in it', async () => {
    const PLAYERS = 3000;
    const { raw } = stall.service.database;
    await game('POST /players', { body: { id: 'ana' } });
    raw
      .prepare(
        `INSERT INTO players (id, name, started_ms, attributes)
         SELECT 'p' || value, 'P', 0, '{}' FROM json_each(?)`,
      )
      .run(JSON.stringify(Array.from({ length: PLAYERS }, (_, n) => n)));
    raw
      .prepare(`INSERT INTO balances (player, currency, units) SELECT id, 'shells', 5 FROM players WHERE id LIKE 'p%'`)
      .run();
    const changes = ['ana', 'p0', 'p1234', 'p999'];
    const ask = () => game('GET /rankings/{ranking}', { params: { ranking: 'shells' }, query: { limit: 5 } });
    const [asked] = await Promise.all([
      ask(),
      ...changes.map((player) =>
        game('POST /players/{player}/events', {
          params: { player },
          body: { events: [{ id: 'now', name: 'race', fields: { points: 9 } }] },
        }),
      ),
    ]);
    expect(asked.of).toBeGreaterThanOrEqual(PLAYERS);
    const { items, of } = await ask();
    expect([of, items.slice(0, 3).map(({ who, score }) => [who, score])]).toEqual([
      PLAYERS + 1,
      [
        ['p0', 14],
        ['p1234', 14],
        ['p999', 14],
      ],
    ]);
    expect(items[3]).toMatchObject({ who: 'ana', score: 9 });
    stall.service.caches.forget();
    expect((await ask()).items).toEqual(items);
  });

  test('that fails is told to who asked, and is begun anew for the next', async () => {
    await game('POST /players', { body: { id: 'ana' } });
    const { rankingStore } = stall.service;
    const levels = rankingStore.levels.bind(rankingStore);
    rankingStore.levels = () => {
      rankingStore.levels = levels;
      throw new Error('planted fault');
    };
    const ask = () => stall.raw('GET', '/rankings/breeze');
    expect([(await ask()).status, (await ask()).status]).toEqual([500, 200]);
  });

  const CONTEST = { holder: 'player', by: 'balance', currency: 'breeze' } as const;
  const economy = economyCompile(DOCUMENT).economy!;
  const EARNED = { holder: 'player', by: 'earned', currency: 'shells', every: 'day', startMs: 0, endMs: 1 } as const;
  /** A store with so many pages of players that they are never all read. */
  function endless(): { rankings: Rankings; read: () => number; looked: () => number; of: string[] } {
    const of: string[] = [];
    let looked = 0;
    function* levels([currency]: string[]) {
      for (;;) {
        of.push(currency!);
        yield [];
      }
    }
    function* pages({ startMs }: { startMs: number }) {
      for (;;) {
        of.push(String(startMs));
        yield [];
      }
    }
    const places = () => {
      looked++;
      return { of: 1000 };
    };
    const rankings = new Rankings({ levels, pages, places } as unknown as RankingStore, 2000, 30);
    return { rankings, read: () => of.length, looked: () => looked, of };
  }
  const nothing = () => undefined;

  test('is given up when nobody waits any more, and goes on while one does', async () => {
    const { rankings, read } = endless();
    const ask = (pages: number) => rankings.ask(CONTEST, economy, 0, nothing, () => read() < pages);
    const results = await Promise.allSettled([ask(3), ask(7)]);
    expect(results.map(({ status }) => status)).toEqual(['rejected', 'rejected']);
    expect(read()).toBe(7);
    // Who asks after that is heard, and has it begun anew.
    await Promise.allSettled([ask(9)]);
    expect(read()).toBe(9);
  });

  test('is of one ranking at a time', async () => {
    const { rankings, read, of } = endless();
    const wanted = [3, 5];
    await Promise.allSettled(
      wanted.map((pages, n) =>
        rankings.ask({ ...CONTEST, currency: ['breeze', 'gusts'][n]! }, economy, 0, nothing, () => read() < pages),
      ),
    );
    expect(of).toEqual(['breeze', 'breeze', 'breeze', 'gusts', 'gusts']);
  });

  test('is waited for by nobody where what is stored can be looked through, as often as it leaves time to read', async () => {
    const { rankings, read, looked } = endless();
    const answers = await Promise.all(
      Array.from({ length: 5 }, () => rankings.ask(EARNED, economy, 0, (places) => places.of)),
    );
    expect(answers).toEqual([1000, 1000, 1000, 1000, 1000]);
    expect(looked()).toBe(5);
    // And it ends where nobody takes an interest any more.
    for (let before = -1; before < read();) {
      before = read();
      await new Promise((resolve) => setTimeout(resolve, 60));
    }
    expect(read()).toBeGreaterThan(0);
  });

  test('is not begun of more than there is memory for', async () => {
    const places = () => ({ of: 11 });
    const pages = () => {
      throw new Error('it was read');
    };
    const few = new Rankings({ places, pages } as unknown as RankingStore, 10);
    for (let n = 0; n < 3; n++) expect(await few.ask(EARNED, economy, 0, ({ of }) => of)).toBe(11);
    function* levels() {
      for (let n = 0; ; n++) yield [{ who: `x${n}`, currency: 'breeze', level: { units: 3, sinceMs: null } }];
    }
    const moving = new Rankings({ levels } as unknown as RankingStore, 10);
    await expect(moving.ask(CONTEST, economy, 0, nothing)).rejects.toThrow('no memory for more');
  });
});
