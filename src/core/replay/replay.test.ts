/** Recorded purchases on the economy that they were made in, and on others. */
import { demoDocument, documentOf, economyOf } from '../../../tests/support/economy.js';
import { economyCompile } from '../economy/index.js';
import { scenarioResolve } from '../simulation/index.js';
import { simulateReference } from '../simulation/reference.js';
import type { Move } from '../simulation/reference.js';
import { purchasesRead } from '../log/index.js';
import { replayPurchases } from './index.js';

/** What a hundred made-up players of the demo's first month bought, as a log. */
function recordedMonth(): string {
  const setup = scenarioResolve(demoDocument(), 'first_month', { players: 100, days: 12 });
  if (!setup.ok) throw new Error('no set-up');
  const moves: Move[] = [];
  simulateReference(setup.value, { onMove: (move) => moves.push(move) });
  const { currencies } = setup.value.economy;
  const attributes = new Map(
    moves.flatMap((move) => (move.kind === 'joins' ? [[move.player, move.attributes] as const] : [])),
  );
  return moves
    .flatMap((move) =>
      move.kind !== 'buys'
        ? []
        : [
            JSON.stringify({
              player: move.player,
              at: move.atMs,
              offer: move.offer,
              pay: move.pay,
              paid: Object.fromEntries(
                Object.entries(move.total).map(([id, units]) => [
                  id,
                  units / 10 ** (currencies.get(id)?.decimals ?? 0),
                ]),
              ),
              attributes: attributes.get(move.player),
            }),
          ],
    )
    .join('\n');
}
const log = recordedMonth();

test('on the economy that they were made in nothing is refused, and no sum changes', () => {
  const document = demoDocument();
  const { purchases, broken } = purchasesRead(log, document);
  expect(broken).toEqual([]);
  expect(purchases.length).toBeGreaterThan(500);
  const result = replayPurchases(economyCompile(document).economy, purchases, { by: 'level' });
  const refused = result.offers.filter((one) => Object.keys(one.refused).length > 0);
  expect(refused).toEqual([]);
  for (const { paid, cost, dearer, cheaper, recorded, same } of [...result.offers, ...result.groups])
    expect([cost, dearer, cheaper, same]).toEqual([paid, 0, 0, recorded]);
  expect(result.groups.reduce((sum, { recorded }) => sum + recorded, 0)).toBe(purchases.length);
});

test('on other prices and limits it is told what is refused and why, and what changes in sum', () => {
  const document = demoDocument();
  document.items!['gull_frame']!.worth = { shells: 500 };
  document.shops!['pier_stall']!.shelves['frames']!.offers['drift_frame']!.when = '=level >= 4';
  const { purchases } = purchasesRead(log, document);
  const gull = purchases.filter(({ offer }) => offer === 'gull_frame');
  const { offers, refused } = replayPurchases(economyCompile(document).economy, purchases);
  const of = (id: string) => offers.find(({ offer }) => offer === id)!;
  expect(of('gull_frame')).toMatchObject({
    dearer: gull.length,
    paid: { shells: 450 * gull.length },
    cost: { shells: 500 * gull.length },
    refused: {},
  });
  const young = purchases.filter((one) => one.offer === 'drift_frame' && (one.attributes['level'] as number) < 4);
  expect(of('drift_frame').refused).toEqual({ 'requirement-unmet': young.length });
  expect(refused).toBeGreaterThanOrEqual(young.length);
});

const SMALL = `
currencies: {shells: {name: Shells, cap: 50}, pearls: {name: Pearls, decimals: 2}}
items: {sail: {name: Sail, kind: durable, carry: 1, worth: {shells: 15}}, wax: {name: Wax, kind: consumable}}
shops:
  pier:
    name: Pier
    shelves:
      main:
        name: Main
        offers:
          sail: {gives: sail}
          wax: {gives: wax, price: [{shells: 4}, {pearls: 0.5}], limits: {day: 2}, stock: {units: 3, scope: shared}}
          dear: {gives: wax, price: {shells: 60}}
`;

test('limits, carry and shared stock count along the log; money is what the log says was there', () => {
  const economy = economyOf(SMALL);
  const lines = [
    ['oda', '2027-03-01T10:00', 'sail', 1],
    ['oda', '2027-03-01T11:00', 'sail', 1],
    ['oda', '2027-03-01T12:00', 'wax', 2],
    ['oda', '2027-03-01T13:00', 'wax', 1],
    ['mateo', '2027-03-01T14:00', 'wax', 2],
    ['mateo', '2027-03-01T09:00', 'wax', 1],
    ['mateo', '2027-03-02T09:00', 'dear', 1],
    ['mateo', '2027-03-02T10:00', 'kite', 1],
  ].map(([player, at, offer, times]) => JSON.stringify({ player, at, offer, times, pay: 'shells' }));
  const { purchases } = purchasesRead(lines.join('\n'), documentOf(SMALL));
  const told: string[] = [];
  replayPurchases(economy, purchases, {
    onEach: (one) => told.push(one.outcome === 'bought' ? 'bought' : one.reasons.map(({ code }) => code).join()),
  });
  // In the order of time: mateo's first wax comes first.
  expect(told).toEqual([
    'bought',
    'bought',
    'carry-full',
    'bought',
    'limit-reached,out-of-stock',
    'limit-reached,out-of-stock',
    // A price that no wallet can hold.
    'short-of',
    'unknown-offer',
  ]);
});

test('CSV reads like NDJSON, with amounts by column', () => {
  const csv = [
    'player,at,offer,times,pay,paid.shells,paid.pearls,attribute.level,attribute.pilot',
    'oda,2027-03-01T10:00,sail,,,15,,3,true',
    'mateo,2027-03-01T11:00:00+01:00,wax,2,pearls,,1.25,,',
  ].join('\r\n');
  const { purchases, broken, others } = purchasesRead(csv, documentOf(SMALL));
  expect([broken, others]).toEqual([[], 0]);
  expect(purchases).toEqual([
    expect.objectContaining({ line: 2, player: 'oda', paid: { shells: 15 }, attributes: { level: 3, pilot: true } }),
    expect.objectContaining({ line: 3, times: 2, pay: 'pearls', paid: { pearls: 125 }, attributes: {} }),
  ]);
});

test.each([
  ['{"player":"oda","at":"2027-03-01T10:00"}', [], 1],
  ['{"player":"oda","at":"soon","offer":"sail"}', ['"soon" is no instant, such as 2027-03-01T10:00'], 0],
  ['{"at":1,"offer":"sail"}', ['there is no player'], 0],
  ['{"player":"oda","at":1,"offer":"sail","times":0}', ['"0" is no number of times from 1 to 1000'], 0],
  ['{"player":"oda","at":1,"offer":"sail","paid":{"shells":1.5}}', [expect.stringMatching(/^paid, shells: /)], 0],
  ['{"player":"oda","at":1,"offer":"sail","attributes":[]}', ['the attributes are no group of values'], 0],
  ['{"player":\n[1]\n', ['it is no JSON object', 'it is no JSON object'], 0],
  ['who,when\noda,now\n', ['there is no column "player"; columns: who, when'], 0],
  ['player,at,offer\n"oda,1,sail\n', [expect.stringMatching(/^it is no CSV: /)], 0],
])('%s tells what cannot be read', (text, problems, others) => {
  const read = purchasesRead(text, documentOf(SMALL));
  expect([read.broken.map(({ problem }) => problem), read.others, read.purchases]).toEqual([problems, others, []]);
});
