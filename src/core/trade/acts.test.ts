import fc from 'fast-check';
import { DAY, HOUR, NOW, demoEconomy, economyOf, holdingsOf, playerWith } from '../../../tests/support/economy.js';
import { ITEM_ACT_NAMES } from '../document/index.js';
import type { ItemAct, ItemKindName } from '../document/index.js';
import { ledgerVerify } from '../ledger/index.js';
import type { Movement } from '../ledger/index.js';
import { playerHolds, playerReceive, playerSettle, playerUses } from '../player/index.js';
import type { Consumable } from '../economy/index.js';
import type { Player } from '../player/index.js';
import {
  ACTS,
  REASON_CODES,
  UNTOUCHED,
  purchaseApply,
  purchaseCheck,
  sellCheck,
  sharedWith,
  tillLevel,
} from './index.js';
import { sellApply } from './sell.js';
import { collectApply, collectCheck, openApply, openCheck, useApply, useCheck } from './use.js';
import { reasonSentence } from '../texts/index.js';
import type { ActRequest, ActVerdict, Acted, Shared } from './index.js';

const economy = economyOf(`
attributes: {level: {start: 1}, pilot: {start: false}, title: {start: ""}}
currencies:
  shells: {name: Shells, cap: 1000, overCap: refuse}
  pearls: {name: Pearls, decimals: 2}
  ribbons: {name: Ribbons, start: 7, ends: {at: "2027-03-08T00:00", into: pearls, rate: 0.35}}
  lost: {name: Lost, start: 3, ends: {at: "2027-03-08T00:00"}}
groups: {tails: {name: Tails}}
items:
  tail: {name: Tail, kind: durable, group: tails, worth: {shells: 15, pearls: 1}}
  glass: {name: Glass, kind: consumable, tags: [curio], worth: {shells: 1}}
  keepsake: {name: Keepsake, kind: durable, group: tails, sellable: false, worth: {shells: 10}}
  wax: {name: Wax, kind: consumable, uses: 3, carry: 5, group: tails, worth: {shells: 6}}
  flask: {name: Flask, kind: consumable, onUse: {gives: {shells: "=10 * level"}}}
  lesson: {name: Lesson, kind: consumable, onUse: {set: {level: "=level + 1"}}}
  licence: {name: Licence, kind: durable, carry: 1, onUse: {set: {pilot: true, title: "Pilot"}}}
  broken: {name: Broken, kind: durable, onUse: {gives: {shells: "=0 - level"}}}
  tea: {name: Tea, kind: timed, lasts: P1D}
  rope: {name: Rope, kind: durable, yields: {gives: {pearls: 0.5}, every: PT1H, upTo: 4}}
  crate: {name: Crate, kind: box, gives: {glass: 1}, loot: finds}
  chest: {name: Chest, kind: box, gives: {shells: 5}, opensWith: {item: key}}
  trunk: {name: Trunk, kind: box, gives: {shells: 5}, opensWith: {item: key, keeps: true}}
  key: {name: Key, kind: durable}
  banner: {name: Banner, kind: durable, onUse: {set: {pilot: true}}, yields: &hourly {gives: {shells: 1}, every: PT1H, upTo: 4}}
  jar: {name: Jar, kind: consumable, onUse: {set: {pilot: true}}, yields: *hourly}
  brew: {name: Brew, kind: timed, lasts: P1D, onUse: {set: {pilot: true}}, yields: *hourly}
  set: {name: Set, kind: bundle, gives: {tail: 1}}
  nest: {name: Nest, kind: box, gives: {glass: 1}, yields: *hourly}
loot:
  finds: {name: Finds, entries: {tail: {weight: 1, gives: {tail: 1}}, wax: {weight: 1, gives: {wax: {from: 1, to: 9}}}}}
shops:
  stall:
    name: Stall
    till: {holds: {shells: 20}, refill: {gives: {shells: 4}, every: PT1H}}
    buyback: {groups: [tails], tags: [curio], rate: 0.35, pays: shells, resell: true}
    shelves: {main: {name: Main, offers: {tail: {gives: tail, price: {shells: 15}, stock: {units: 2}}, pilots: {gives: key, price: {shells: 1}, when: "=pilot"}}}}
  barter:
    name: Barter
    buyback: {groups: [tails], rate: 0.5, of: paid}
    shelves: {main: {name: Main, offers: {tails: {gives: tail, count: 2, price: {shells: 25}}}}}
  closed: {name: Closed, hidden: true, buyback: {groups: [tails], rate: 1}, shelves: {main: {name: Main, offers: {}}}}
  club: {name: Club, when: "=level >= 5", buyback: {groups: [tails], rate: 1}, shelves: {main: {name: Main, offers: {}}}}
`);

const sell = (player: Player, request: ActRequest, shared: Shared = UNTOUCHED, nowMs = NOW) =>
  sellCheck(economy, player, shared, { shop: 'stall', ...request }, nowMs);
const codes = ({ reasons }: ActVerdict) => reasons.map(({ code }) => code);
const sold = (player: Player, request: ActRequest, shared: Shared = UNTOUCHED, nowMs = NOW): Acted =>
  sellApply(economy, player, shared, sell(player, request, shared, nowMs));

describe('selling back', () => {
  test('each unit is rounded down, so ten at once pay what ten one by one do', () => {
    const player = playerWith(economy, { tail: 4 });
    expect(sell(player, { item: 'tail' }).gives).toEqual({ shells: 5 });
    expect(sell(player, { item: 'tail', times: 4 }).gives).toEqual({ shells: 20 });
    let one: Acted = sold(player, { item: 'tail' });
    for (let n = 1; n < 4; n++) one = sold(one.player, { item: 'tail' }, one.shared);
    const all = sold(player, { item: 'tail', times: 4 });
    expect(playerHolds(economy, one.player, 'shells')).toBe(20);
    expect(playerHolds(economy, all.player, 'shells')).toBe(20);
    expect(one.shared.tills).toEqual(all.shared.tills);
  });

  test('the last unit sold removes the entry, and the unit goes back on sale', () => {
    const done = sold(playerWith(economy, { tail: 1 }), { item: 'tail' });
    expect(done.player.stacks).toEqual([]);
    expect(done.shared.stocks['tail']).toMatchObject({ units: 3 });
  });

  test('the till holds exactly enough or refuses, is filled by purchases, and refills to what it began with', () => {
    const player = playerWith(economy, { tail: 5, shells: 100 });
    const emptied = sold(player, { item: 'tail', times: 4 });
    expect(tillLevel(economy.shops.get('stall')!, emptied.shared, 'shells', NOW)!.units).toBe(0);
    const short = sell(emptied.player, { item: 'tail' }, emptied.shared);
    expect(short.reasons).toEqual([
      { code: 'till-short', asset: 'shells', held: 0, needed: 5, refilledMs: NOW + 2 * HOUR },
    ]);
    expect(codes(sell(emptied.player, { item: 'tail' }, emptied.shared, NOW + 2 * HOUR))).toEqual([]);
    const verdict = purchaseCheck(economy, emptied.player, emptied.shared, { offer: 'tail' }, NOW);
    const bought = purchaseApply(economy, emptied.player, emptied.shared, verdict);
    expect(tillLevel(economy.shops.get('stall')!, bought.shared, 'shells', NOW)!.units).toBe(15);
    expect(tillLevel(economy.shops.get('stall')!, bought.shared, 'shells', NOW + 90 * DAY)!.units).toBe(20);
  });

  test('by the price paid: what was given away brings nothing, what was bought its part, unit by unit', () => {
    const player = playerWith(economy, { shells: 25, tail: 1 });
    const buy = purchaseCheck(economy, player, UNTOUCHED, { offer: 'tails' }, NOW);
    const bought = purchaseApply(economy, player, UNTOUCHED, buy).player;
    const back = (times: number) => sellCheck(economy, bought, UNTOUCHED, { shop: 'barter', item: 'tail', times }, NOW);
    expect(codes(back(1))).toEqual(['pays-nothing']);
    // Two for 25 are 12 each, rounded down, and half of that is 6 each.
    expect(back(3).gives).toEqual({ shells: 12 });
  });

  test('a unit that has been begun cannot be sold, nor paid', () => {
    const player = playerWith(economy, { wax: 1 });
    const used = useApply(economy, player, useCheck(economy, player, { item: 'wax' }, NOW)).player;
    expect(codes(sell(used, { item: 'wax' }))).toEqual(['not-held']);
    expect(playerHolds(economy, used, 'wax')).toBe(1);
  });
});

describe('using', () => {
  const use = (player: Player, request: ActRequest, nowMs = NOW) => useCheck(economy, player, request, nowMs);
  const used = (player: Player, request: ActRequest) => useApply(economy, player, use(player, request));

  test('uses are counted over all stacks, and using at zero is refused', () => {
    let player = playerWith(economy, { wax: 2 });
    for (let left = 6; left > 0; left--) {
      expect(playerUses(player, economy.items.get('wax') as Consumable)).toBe(left);
      player = used(player, { item: 'wax' }).player;
    }
    expect(player.stacks).toEqual([]);
    expect(codes(use(player, { item: 'wax' }))).toEqual(['not-held']);
  });

  test('a batch of uses is what the same uses one by one are', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 1, max: 5 }),
        fc.array(fc.integer({ min: 1, max: 6 }), { maxLength: 5 }),
        (units, batches) => {
          let together = playerWith(economy, { wax: units });
          let single = together;
          for (const times of batches) {
            const verdict = use(together, { item: 'wax', times });
            expect(verdict.allowed).toBe(playerUses(together, economy.items.get('wax') as Consumable) >= times);
            if (!verdict.allowed) continue;
            const done = useApply(economy, together, verdict);
            together = done.player;
            for (let n = 0; n < times; n++) single = used(single, { item: 'wax' }).player;
            expect(playerHolds(economy, together, 'wax')).toBe(
              verdict.after['wax'] ?? playerHolds(economy, single, 'wax'),
            );
            expect(playerUses(together, economy.items.get('wax') as Consumable)).toBe(
              playerUses(single, economy.items.get('wax') as Consumable),
            );
          }
          expect(playerHolds(economy, together, 'wax')).toBe(playerHolds(economy, single, 'wax'));
        },
      ),
    );
  });

  test('attributes, roles and baskets: each use sees what the one before set', () => {
    const player = playerWith(economy, { lesson: 3, flask: 1, licence: 1 });
    const taught = used(player, { item: 'lesson', times: 3 });
    expect(taught.set).toEqual({ level: 4 });
    const drunk = used(taught.player, { item: 'flask' });
    expect(drunk.given).toEqual({ shells: 40 });
    const pilot = used(drunk.player, { item: 'licence' });
    expect(pilot.player.attributes).toMatchObject({ level: 4, pilot: true, title: 'Pilot' });
    expect(playerHolds(economy, pilot.player, 'licence')).toBe(1);
    const key = (one: Player) => purchaseCheck(economy, one, UNTOUCHED, { offer: 'pilots' }, NOW).reasons;
    expect(key(drunk.player).map(({ code }) => code)).toEqual(['requirement-unmet']);
    expect(key(pilot.player)).toEqual([]);
  });
});

describe('opening', () => {
  test('the key is used up, or kept', () => {
    const player = playerWith(economy, { chest: 2, trunk: 2, key: 1 });
    expect(codes(openCheck(economy, player, { item: 'chest', times: 2 }, NOW))).toEqual(['key-needed']);
    const trunk = openApply(economy, player, openCheck(economy, player, { item: 'trunk', times: 2 }, NOW));
    expect(trunk.given).toEqual({ shells: 10 });
    const chest = openApply(economy, trunk.player, openCheck(economy, trunk.player, { item: 'chest' }, NOW));
    expect([playerHolds(economy, chest.player, 'key'), playerHolds(economy, chest.player, 'chest')]).toEqual([0, 1]);
  });

  test('what is drawn depends on how many were opened before, so a repeat draws the same and the next another', () => {
    const player = playerWith(economy, { crate: 30 });
    const open = (one: Player) => openApply(economy, one, openCheck(economy, one, { item: 'crate' }, NOW));
    expect(open(player).given).toEqual(open(player).given);
    let current = player;
    const seen = new Set<string>();
    for (let n = 0; n < 30; n++) {
      const done = open(current);
      current = done.player;
      seen.add(JSON.stringify(done.drawn));
    }
    expect(seen.size).toBe(2);
    const together = openApply(economy, player, openCheck(economy, player, { item: 'crate', times: 30 }, NOW));
    expect(playerHolds(economy, together.player, 'tail')).toBe(playerHolds(economy, current, 'tail'));
  });

  test('what passes carry is dropped and told, never lost silently', () => {
    let player = playerWith(economy, { crate: 20 });
    const dropped: number[] = [];
    for (let n = 0; n < 20; n++) {
      const done = openApply(economy, player, openCheck(economy, player, { item: 'crate' }, NOW));
      player = done.player;
      dropped.push(done.dropped['wax'] ?? 0);
    }
    expect(playerHolds(economy, player, 'wax')).toBeLessThanOrEqual(5);
    expect(Math.max(...dropped)).toBeGreaterThan(0);
  });
});

describe('time', () => {
  test('a timed item says when it expires, is there until then and gone from then on', () => {
    const player = playerWith(economy, { tea: 2 });
    expect(player.stacks[0]!.expiresMs).toBe(NOW + DAY);
    expect(playerHolds(economy, playerSettle(economy, player, NOW + DAY - 1).player, 'tea')).toBe(2);
    const later = playerSettle(economy, player, NOW + DAY);
    expect(playerHolds(economy, later.player, 'tea')).toBe(0);
    expect(later.movements).toEqual([
      { asset: 'tea', units: 2, from: 'player:profile', to: 'world:expired', cause: 'expired:tea' },
    ]);
  });

  test('a currency that ends turns into another, rounded down once; without one it is lost, and the ledger says so', () => {
    const ends = Date.parse('2027-03-08T00:00Z');
    const player = playerWith(economy, { ribbons: 7, lost: 3 });
    expect(playerHolds(economy, playerSettle(economy, player, ends - 1).player, 'ribbons')).toBe(7);
    const after = playerSettle(economy, player, ends);
    // 7 x 0.35 is 2.45 pearls, exactly.
    expect(['ribbons', 'lost', 'pearls'].map((asset) => playerHolds(economy, after.player, asset))).toEqual([
      0, 0, 245,
    ]);
    expect(after.movements.map(({ asset, units, to }) => [asset, units, to])).toEqual([
      ['ribbons', 7, 'world:ended'],
      ['pearls', 245, 'player:profile'],
      ['lost', 3, 'world:ended'],
    ]);
    expect(playerSettle(economy, after.player, ends + DAY).movements).toEqual([]);
  });

  test('a yield gathers for each unit while it is owned, up to its most, and keeps the unfinished part', () => {
    const player = playerWith(economy, { rope: 1 });
    const collect = (one: Player, nowMs: number) => collectCheck(economy, one, { item: 'rope' }, nowMs);
    expect(collect(player, NOW + HOUR - 1).reasons).toEqual([
      { code: 'nothing-to-collect', item: 'rope', nextMs: NOW + HOUR },
    ]);
    const first = collectApply(economy, player, collect(player, NOW + 1.5 * HOUR));
    expect(first.given).toEqual({ pearls: 50 });
    expect(collect(first.player, NOW + 2 * HOUR).gives).toEqual({ pearls: 50 });
    expect(collect(first.player, NOW + 90 * DAY).gives).toEqual({ pearls: 200 });
    // A second rope that comes just before counts from then on only.
    const two = playerReceive(economy, first.player, { rope: 1 }, 'world:test', 'test', NOW + 1.75 * HOUR).player;
    expect(collect(two, NOW + 2 * HOUR).gives).toEqual({ pearls: 50 });
    expect(collect(two, NOW + 2.75 * HOUR).gives).toEqual({ pearls: 100 });
  });
});

/** A thing of each kind with all that its kind may have, and what a player can do with it. */
const BY_KIND: Record<ItemKindName, [item: string, acts: ItemAct[]]> = {
  durable: ['banner', ['use', 'collect']],
  consumable: ['jar', ['use', 'collect']],
  timed: ['brew', ['use', 'collect']],
  bundle: ['set', []],
  box: ['nest', ['open', 'collect']],
};
test.each(Object.entries(BY_KIND))('what a player can do with a %s follows from its kind', (_kind, [item, acts]) => {
  const start = playerSettle(economy, playerWith(economy, {}), NOW).player;
  const { player } = playerReceive(economy, start, { [item]: 1 }, 'world:test', 'test', NOW);
  const allowed = ITEM_ACT_NAMES.filter(
    (act) => ACTS[act].check(economy, player, UNTOUCHED, { item }, NOW + 2 * HOUR).allowed,
  );
  expect(allowed).toEqual(acts);
});

test('selling pays more than was shown and tells it, and refuses to pay less', () => {
  const asked = (expect: Record<string, number>) => sell(playerWith(economy, { tail: 1 }), { item: 'tail', expect });
  expect(asked({ shells: 4 })).toMatchObject({ allowed: true, gives: { shells: 5 }, expected: { shells: 4 } });
  expect(asked({ shells: 5 })).not.toHaveProperty('expected');
  expect(asked({ shells: 5, pearls: 1 }).allowed).toBe(false);
});

/** One case for each code that an act can be refused with. */
const REFUSED: Record<string, () => ActVerdict> = {
  'unknown-shop': () => sell(playerWith(economy, { tail: 1 }), { item: 'tail', shop: 'stal' }),
  'unknown-item': () => sell(playerWith(economy, {}), { item: 'tal' }),
  'shop-closed': () => sell(playerWith(economy, { tail: 1 }), { item: 'tail', shop: 'closed' }),
  'not-for-this-player': () => sell(playerWith(economy, { tail: 1 }), { item: 'tail', shop: 'club' }),
  'not-taken': () => sell(playerWith(economy, { key: 1 }), { item: 'key' }),
  'not-sellable': () => sell(playerWith(economy, { keepsake: 1 }), { item: 'keepsake' }),
  'pays-nothing': () => sell(playerWith(economy, { glass: 1 }), { item: 'glass' }),
  'not-held': () => sell(playerWith(economy, { tail: 1 }), { item: 'tail', times: 2 }),
  'till-short': () => sell(playerWith(economy, { tail: 5 }), { item: 'tail', times: 5 }),
  'over-cap': () => sell(playerWith(economy, { tail: 1, shells: 996 }), { item: 'tail' }),
  'price-changed': () => sell(playerWith(economy, { tail: 1 }), { item: 'tail', expect: { shells: 6 } }),
  'too-large': () => sell(playerWith(economy, { tail: 1 }), { item: 'tail', times: 1001 }),
  'not-usable': () => useCheck(economy, playerWith(economy, { crate: 1 }), { item: 'crate' }, NOW),
  'bad-formula': () => useCheck(economy, playerWith(economy, { broken: 1 }), { item: 'broken' }, NOW),
  'not-a-box': () => openCheck(economy, playerWith(economy, { tail: 1 }), { item: 'tail' }, NOW),
  'key-needed': () => openCheck(economy, playerWith(economy, { chest: 1 }), { item: 'chest' }, NOW),
  'nothing-to-collect': () => collectCheck(economy, playerWith(economy, { tail: 1 }), { item: 'tail' }, NOW),
};

test('there is a case for every code that only an act can have', () => {
  const acts = REASON_CODES.slice(REASON_CODES.indexOf('too-large') + 1);
  expect(Object.keys(REFUSED)).toEqual(expect.arrayContaining([...acts]));
});

test.each(Object.entries(REFUSED))('%s is the one reason, with a sentence', (code, make) => {
  const { reasons, allowed } = make();
  expect(allowed).toBe(false);
  expect(reasons.map((reason) => reason.code)).toEqual([code]);
  expect(reasonSentence(economy, reasons[0]!)).toMatch(/^[A-Z0-9].*[.?]$/);
  expect(reasonSentence(economy, reasons[0]!)).not.toMatch(/undefined|NaN|\[object/);
});

/** Whatever a player does in the demo economy, every balance stays the sum of its movements, and none goes below zero. */
test('all acts in any order keep the ledger', () => {
  const demo = demoEconomy();
  const items = [
    'drift_crate',
    'tide_crate',
    'storm_wax',
    'mussel_rope',
    'old_coin',
    'bell_tail',
    'festival_pass',
    'breeze_bottle',
  ];
  const step = fc.record({
    act: fc.constantFrom('sell' as const, 'use' as const, 'open' as const, 'collect' as const, 'buy' as const),
    item: fc.constantFrom(...items),
    times: fc.integer({ min: 1, max: 4 }),
    waitMs: fc.integer({ min: 0, max: 20 * DAY }),
  });
  fc.assert(
    fc.property(fc.array(step, { maxLength: 25 }), (steps) => {
      const begin = playerWith(demo, {
        shells: 4000,
        pearls: 60,
        ribbons: 9,
        brass_key: 3,
        drift_crate: 4,
        tide_crate: 3,
        storm_wax: 4,
        mussel_rope: 1,
        old_coin: 5,
        bell_tail: 1,
      });
      const start: Movement[] = [];
      for (const asset of [...demo.currencies.keys(), ...demo.items.keys()]) {
        const units = playerHolds(demo, begin, asset);
        if (units > 0) start.push({ asset, units, from: 'world:test', to: 'player:profile', cause: 'test' });
      }
      let player = begin;
      let shared: Shared = UNTOUCHED;
      let nowMs = NOW;
      const movements = [...start];
      for (const { act, item, times, waitMs } of steps) {
        nowMs += waitMs;
        const done = ((): { player: Player; shared: Shared; movements: Movement[] } | undefined => {
          if (act === 'buy') {
            const verdict = purchaseCheck(demo, player, shared, { offer: item, times }, nowMs);
            return verdict.allowed ? purchaseApply(demo, player, shared, verdict) : undefined;
          }
          const request = { item, times, shop: 'pier_stall' };
          if (act === 'sell') {
            const verdict = sellCheck(demo, player, shared, request, nowMs);
            return verdict.allowed ? sellApply(demo, player, shared, verdict) : undefined;
          }
          const [check, apply] = {
            use: [useCheck, useApply],
            open: [openCheck, openApply],
            collect: [collectCheck, collectApply],
          }[act] as [typeof useCheck, typeof useApply];
          const verdict = check(demo, player, request, nowMs);
          return verdict.allowed ? apply(demo, player, verdict) : undefined;
        })();
        if (!done) continue;
        player = done.player;
        shared = sharedWith(shared, done.shared);
        movements.push(...done.movements);
      }
      expect(ledgerVerify(movements, holdingsOf(demo, player, shared))).toEqual([]);
    }),
    { numRuns: 150 },
  );
});
