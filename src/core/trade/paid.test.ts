/** What things that were bought remember of their price, and what selling them back pays. */
import fc from 'fast-check';
import { NOW, economyOf, playerWith } from '../../../tests/support/economy.js';
import { paidParts } from '../player/index.js';
import type { Player } from '../player/index.js';
import { ACTS, UNTOUCHED, purchaseApply, purchaseCheck } from './index.js';

const economy = economyOf(`
groups: {kites: {name: Kites}}
currencies: {shells: {name: Shells}, pearls: {name: Pearls}, ribbons: {name: Ribbons}}
items:
  frame: {name: Frame, kind: durable, group: kites, worth: {shells: 44}}
  wax: {name: Wax, kind: consumable, group: kites, worth: {shells: 2}}
  charm: {name: Charm, kind: durable, group: kites, worth: {pearls: 3}}
  pebble: {name: Pebble, kind: durable, group: kites}
  kit: {name: Kit, kind: bundle, gives: {frame: 1, wax: 3}}
shops:
  stall:
    name: Stall
    buyback: {groups: [kites], rate: 0.5, of: paid}
    shelves:
      main:
        name: Main
        offers:
          kit: {gives: kit, price: {shells: 50}}
          both: {gives: {frame: 1, wax: 3}, price: {shells: 50}}
          rising: {gives: wax, price: {shells: "=10 + 10 * owned(wax)"}}
`);

const buy = (player: Player, offer: string, times = 1): Player =>
  purchaseApply(economy, player, UNTOUCHED, purchaseCheck(economy, player, UNTOUCHED, { offer, times }, NOW)).player;
const sells = (player: Player, item: string, times: number) =>
  ACTS.sell.check(economy, player, UNTOUCHED, { item, times, shop: 'stall' }, NOW).gives;

test('a kit for 50 sells back for no more than half of 50, whether it is a bundle or several things', () => {
  for (const offer of ['kit', 'both']) {
    const player = buy(playerWith(economy, { shells: 50 }), offer);
    expect(player.stacks.map(({ item, units, paid }) => [item, units, paid])).toEqual([
      ['frame', 1, { shells: 44 }],
      ['wax', 3, { shells: 2 }],
    ]);
    expect([sells(player, 'frame', 1), sells(player, 'wax', 3)]).toEqual([{ shells: 22 }, { shells: 3 }]);
  }
});

test('of several bought at once each remembers its own price, and the one that was bought first is sold first', () => {
  const player = buy(playerWith(economy, { shells: 60 }), 'rising', 3);
  expect(player.stacks.map(({ units, paid }) => [units, paid])).toEqual([
    [1, { shells: 10 }],
    [1, { shells: 20 }],
    [1, { shells: 30 }],
  ]);
  expect(sells(player, 'wax', 2)).toEqual({ shells: 15 });
});

test('worth is compared in the asset that most parts are worth something in; money counts as itself', () => {
  const parts = (total: Record<string, number>, arrivals: Record<string, number>) =>
    paidParts(economy, total, arrivals);
  expect(parts({ pearls: 10 }, { frame: 1, wax: 3, charm: 1 })).toEqual({
    frame: { pearls: 8 },
    wax: { pearls: 0 },
    charm: { pearls: 0 },
  });
  expect(parts({ pearls: 7 }, { frame: 1, shells: 26 })).toEqual({ frame: { pearls: 4 } });
  expect(parts({ pearls: 7, shells: 9 }, { frame: 1, charm: 1 })).toEqual({
    frame: { pearls: 0, shells: 9 },
    charm: { pearls: 7, shells: 0 },
  });
  expect(parts({ shells: 7 }, { pebble: 3 })).toEqual({ pebble: { shells: 2 } });
  expect(parts({ shells: 7 }, { pebble: 2, ribbons: 1 })).toEqual({ pebble: { shells: 0 } });
});

test('whatever is bought, all parts together never remember more than was paid', () => {
  const amount = fc.oneof(fc.nat(200), fc.nat(2 ** 40));
  const basket = (...assets: string[]) =>
    fc.record(Object.fromEntries(assets.map((asset) => [asset, amount])), { requiredKeys: [] });
  fc.assert(
    fc.property(
      basket('shells', 'pearls', 'ribbons'),
      basket('frame', 'wax', 'charm', 'pebble', 'shells', 'ribbons'),
      (total, arrivals) => {
        const paid = paidParts(economy, total as Record<string, number>, arrivals as Record<string, number>);
        for (const asset in total) {
          const sum = Object.entries(paid).reduce(
            (all, [item, each]) => all + BigInt(each[asset] ?? 0) * BigInt(arrivals[item]!),
            0n,
          );
          expect(sum <= BigInt(total[asset]!)).toBe(true);
        }
      },
    ),
    { numRuns: 500, seed: 31 },
  );
});
