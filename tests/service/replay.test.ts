/**
 * The simulation beside the live service: what made-up players do is done over HTTP, move by move at its instant, and the
 * service must say and hold what the engine does. No rule is shared but through its answers.
 */
import { purchasesRecorded } from '../../src/client/index.js';
import { replayPurchases } from '../../src/core/replay/index.js';
import { simulateEngine, scenarioResolve } from '../../src/core/simulation/index.js';
import { simulateReference } from '../../src/core/simulation/reference.js';
import type { Move } from '../../src/core/simulation/reference.js';
import { runEndMs } from '../../src/core/simulation/days.js';
import { demoDocument } from '../support/economy.js';
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
