/**
 * The simulation beside the live service: what made-up players do is done over HTTP, move by move at its instant, and the
 * service must say and hold what the engine does. No rule is shared but through its answers.
 */
import { parse } from 'yaml';
import { purchasesRecorded } from '../../src/client/index.js';
import type { EconomyDocument } from '../../src/core/document/index.js';
import { economyCompile } from '../../src/core/economy/index.js';
import { keyOf, streamOf } from '../../src/core/random/index.js';
import { replayPurchases } from '../../src/core/replay/index.js';
import { simulateEngine, scenarioResolve } from '../../src/core/simulation/index.js';
import { simulateReference } from '../../src/core/simulation/reference.js';
import type { Move } from '../../src/core/simulation/reference.js';
import { runEndMs } from '../../src/core/simulation/days.js';
import { HOUR, demoDocument } from '../support/economy.js';
import { startStall } from '../support/stall.js';

const PLAYERS = 100;

/** The demo without luck, which a service draws by other keys, and with entries as rules: a service knows no activities. */
function plainDocument() {
  const document = demoDocument();
  document.earning = Object.fromEntries(Object.entries(document.earning!).filter(([, { loot }]) => loot === undefined));
  for (const rule of Object.values(document.earning)) delete rule.chance;
  document.earning['wind'] = { name: 'Wind', on: 'race_finished', takes: { breeze: 1 }, gives: {} };
  delete document.activities!['harbour_race']!.needs;
  // The shared sail within reach of many.
  document.shops!['lantern_wagon']!.shelves['rare']!.offers['lantern_sail']!.price = { shells: 150 };
  delete document.items!['lantern_sail']!.worth;
  delete document.texts;
  return document;
}

test('a hundred players come to the same, made up and over HTTP', async () => {
  const document = plainDocument();
  const setup = scenarioResolve(document, 'first_month', { players: PLAYERS, days: 2 });
  if (!setup.ok) throw new Error(JSON.stringify(setup.issues));
  const moves: Move[] = [];
  const reference = simulateReference(setup.value, { onMove: (move) => moves.push(move) });
  const engine = simulateEngine(setup.value);
  expect(JSON.stringify(engine)).toBe(JSON.stringify(reference));
  const stall = await startStall({ document });
  const game = stall.as('game');
  const counts = { joins: 0, event: 0, buys: 0, wants: 0 };
  const wrong: unknown[] = [];
  for (const [index, move] of moves.entries()) {
    stall.clock.nowMs = move.atMs;
    counts[move.kind]++;
    const { player } = move;
    switch (move.kind) {
      case 'joins':
        await game.call('POST /players', { body: { id: player, name: player, attributes: { ...move.attributes } } });
        break;
      case 'event': {
        const event = { id: `move-${index}`, name: move.name, fields: { ...move.fields } };
        await game.call('POST /players/{player}/events', { params: { player }, body: { events: [event] } });
        break;
      }
      case 'buys': {
        const { offer, pay, total } = move;
        const key = `move-${index}`;
        const { verdict } = await game.call('POST /purchases', { body: { player, offer, pay }, key });
        if (JSON.stringify(verdict.price?.total) !== JSON.stringify(total)) wrong.push({ move, price: verdict.price });
        break;
      }
      case 'wants': {
        const { offer, pay, reasons } = move;
        const asked = { player, offer, ...(pay === undefined ? {} : { pay }) };
        const { verdicts } = await stall.as('read').call('POST /checks', { body: { checks: [asked] } });
        const codes = verdicts[0]!.reasons.map(({ code }) => code);
        if (JSON.stringify(codes) !== JSON.stringify(reasons)) wrong.push({ move, codes });
        break;
      }
    }
  }
  expect(wrong).toEqual([]);
  stall.clock.nowMs = runEndMs(setup.value) - 1;
  const ids = moves.filter(({ kind }) => kind === 'joins').map(({ player }) => player);
  for (const [index, player] of ids.entries()) {
    if (engine.players.lastDay[index] !== setup.value.days - 1) continue;
    const { balances } = await stall.as('read').call('GET /players/{player}', { params: { player } });
    const held = engine.currencies.map(({ id }) => balances[id]!.units);
    expect([player, held]).toEqual([player, engine.players.balance.map((column) => column[index])]);
  }
  // The service's own purchases, page by page, on the release that they were made in.
  const recorded = await purchasesRecorded(stall.as('read'));
  expect(recorded.length).toBe(counts.buys);
  const again = replayPurchases(setup.value.economy, recorded);
  expect([again.refused, again.offers.map(({ dearer, cheaper }) => dearer + cheaper)]).toEqual([
    0,
    again.offers.map(() => 0),
  ]);
  expect(again.offers.reduce((sum, { same }) => sum + same, 0)).toBe(counts.buys);
  await stall.stop();
  expect(counts).toMatchObject({ joins: PLAYERS });
  for (const kind of ['event', 'buys', 'wants'] as const) expect(counts[kind]).toBeGreaterThan(50);
});

const BUSY = parse(`
name: Busy pier
timeZone: Europe/Lisbon
attributes: {level: {start: 1}}
groups: {kites: {name: Kites}}
events: {race: {name: Race, fields: {points: number}}}
currencies:
  shells: {name: Shells, start: 40, cap: 400}
  pearls: {name: Pearls, decimals: 2}
  breeze: {name: Breeze, start: 3, refill: {amount: 1, every: PT2H, upTo: 8}}
items:
  frame: {name: Frame, kind: durable, carry: 2, group: kites, worth: {shells: 20}}
  wax: {name: Wax, kind: consumable, uses: 2, carry: 6, group: kites, worth: {shells: 3}}
  pill: {name: Pill, kind: consumable, onUse: {set: {level: "=level + 1"}}}
  kit: {name: Kit, kind: bundle, gives: {frame: 1, wax: 2}}
earning: {prize: {name: Prize, on: race, gives: {shells: "=points", pearls: 0.5}}}
sales: {first: {name: First, offers: [wax], percent: 50, when: "=bought(wax) < 2"}}
shops:
  pier:
    name: Pier
    buyback: {groups: [kites], rate: 0.5, resell: true}
    shelves:
      main:
        name: Main
        offers:
          frame: {gives: frame, stock: {units: 3, restock: {amount: 1, every: P2D}}}
          wax: {gives: wax, price: {shells: "=3 + owned(wax)"}, limits: {day: 4}}
          kit: {gives: kit, price: {shells: "=20 + 2 * level"}, when: "=owned(frame) == 0"}
          pill: {gives: pill, price: {pearls: "=1 + 0.25 * level"}}
          swap: {gives: {shells: 9}, price: {breeze: 2}, when: "=balance(shells) < 200 and day >= 1"}
      turns:
        name: Turns
        rotation: {show: 1, every: day, avoid: 1}
        offers:
          t0: {gives: {wax: 1}, price: {breeze: 1}}
          t1: {gives: {pearls: 1}, price: {shells: 8}}
          t2: {gives: pill, price: {shells: 12}}
`) as EconomyDocument;

test('a release replayed on itself refuses nothing and changes no sum, whatever happened between', async () => {
  let bought = 0;
  for (const seed of [1, 2, 3, 4]) {
    const stall = await startStall({ document: BUSY });
    const random = streamOf(keyOf(seed, 'history'));
    const one = <T>(list: readonly T[]): T => list[Math.floor(random() * list.length)]!;
    const game = stall.as('game');
    const support = stall.as('support');
    const ids: string[] = [];
    const tried = (call: Promise<unknown>) => call.catch(() => undefined);
    for (let step = 0; step < 220; step++) {
      stall.clock.nowMs += Math.floor(random() * 9 * HOUR);
      if (ids.length < 4)
        await game.call('POST /players', { body: { id: `p${step}`, attributes: { level: one([1, 3]) } } });
      if (ids.length < 4) ids.push(`p${step}`);
      const player = one(ids);
      const key = `k${step}`;
      const kind = one(['buy', 'buy', 'buy', 'race', 'sell', 'use', 'grant', 'erase', 'pin'] as const);
      if (kind === 'buy') {
        const offer = one(['frame', 'wax', 'wax', 'kit', 'pill', 'swap', 't0', 't1', 't2']);
        const done = await tried(game.call('POST /purchases', { body: { player, offer, times: one([1, 1, 2]) }, key }));
        if (done) bought++;
      } else if (kind === 'race')
        await game.call('POST /players/{player}/events', {
          params: { player },
          body: { events: [{ id: key, name: 'race', fields: { points: Math.floor(random() * 60) } }] },
        });
      else if (kind === 'sell')
        await tried(game.call('POST /buybacks', { body: { player, item: one(['frame', 'wax']), shop: 'pier' }, key }));
      else if (kind === 'use')
        await tried(game.call('POST /uses', { body: { player, uses: [{ id: key, item: one(['wax', 'pill']) }] } }));
      else if (kind === 'grant')
        await support.call('POST /players/{player}/grants', {
          params: { player },
          body: { gives: { shells: 25 }, takes: { wax: 1 }, reason: 'Lost at sea' },
          key,
        });
      else if (kind === 'erase' && random() < 0.3) {
        await support.call('DELETE /players/{player}', { params: { player }, query: { reason: 'Asked' } });
        ids.splice(ids.indexOf(player), 1);
      } else if (kind === 'pin')
        await stall.as('publish').call('POST /rotations/{shop}/{shelf}/records', {
          params: { shop: 'pier', shelf: 'turns' },
          body: { pin: one(['t0', 't1', 't2']), why: 'asked for' },
        });
    }
    const recorded = await purchasesRecorded(stall.as('read'));
    await stall.stop();
    const refused: unknown[] = [];
    const again = replayPurchases(economyCompile(BUSY).economy!, recorded, {
      onEach: (one) => one.outcome === 'refused' && refused.push([one.recorded, one.reasons]),
    });
    expect(refused).toEqual([]);
    expect(again.offers.filter(({ dearer, cheaper }) => dearer + cheaper > 0)).toEqual([]);
  }
  expect(bought).toBeGreaterThan(150);
});
