/** Rankings by a balance tell what players hold at the instant of asking: refills, ends and conversions included. */
import { parse } from 'yaml';
import type { Client } from '../../src/client/index.js';
import type { EconomyDocument } from '../../src/core/document/index.js';
import { DAY, HOUR, NOW } from '../support/economy.js';
import { startStall } from '../support/stall.js';
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
