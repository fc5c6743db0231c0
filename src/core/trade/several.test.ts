/** Several at once are what one after another would be: in the verdict, in every amount, and in what is remembered. */
import fc from 'fast-check';
import { NOW, economyOf, playerWith } from '../../../tests/support/economy.js';
import type { Basket } from '../amount/index.js';
import type { Player } from '../player/index.js';
import { ACTS, UNTOUCHED, purchaseApply, purchaseCheck, sharedWith } from './index.js';
import type { ActKind, Shared } from './index.js';

const PRICES = [
  '{shells: 7}',
  '{shells: "=10 + 10 * owned(wax)"}',
  '{shells: "=12 - 2 * bought(IT)"}',
  '{pearls: "=balance(pearls) / 3"}',
  '{wax: 1}',
  '{shells: "=3 + level"}',
  '{wax: 2, shells: "=owned(frame)"}',
];
const GIVES = [
  'wax',
  'kit',
  '{shells: 9}',
  '{wax: "=2 - bought(IT)"}',
  '{wax: "=1 + owned(frame)", pearls: 0.4}',
  '{lantern: 1, wax: 1}',
  '{frame: "=level - 1"}',
  '{tickets: 4}',
];
const WHENS = ['', 'when: "=bought(IT) < 2"', 'when: "=owned(wax) <= 4"', 'when: "=balance(shells) >= 20"'];
const MORE = ['', 'limits: {day: 3}', 'stock: {units: 2, restock: {amount: 1, every: PT1H}}'];
const SALES = [
  '',
  'sales: {s: {name: S, offers: [o1, o2, o3], percent: 90, when: "=bought(o1) == 0"}}',
  'sales: {s: {name: S, shops: [stall], percent: 35}, t: {name: T, offers: [o2], percent: 60, when: "=owned(wax) % 2 == 1"}}',
];
const SHOPS = ['', 'when: "=balance(shells) > 15"', 'when: "=owned(kit) == 0 and owned(wax) < 9"'];

const offer = (id: string) =>
  fc
    .tuple(fc.constantFrom(...GIVES), fc.constantFrom(...PRICES), fc.constantFrom(...WHENS), fc.constantFrom(...MORE))
    .map(([gives, price, when, more]) =>
      `${id}: {${[`gives: ${gives}`, `price: ${price}`, when, more].filter(Boolean).join(', ')}}`.replaceAll('IT', id),
    );

const WORLDS = fc
  .sample(
    fc.tuple(
      offer('o1'),
      offer('o2'),
      offer('o3'),
      fc.constantFrom(...SALES),
      fc.constantFrom(...SHOPS),
      fc.constantFrom('worth', 'paid'),
    ),
    { numRuns: 60, seed: 31 },
  )
  .map(([o1, o2, o3, sales, when, of]) =>
    economyOf(`
attributes: {level: {start: 1}}
groups: {all: {name: All}}
currencies:
  shells: {name: Shells, cap: 120, refill: {amount: 1, every: PT1H, upTo: 30}}
  pearls: {name: Pearls, decimals: 2}
  tickets: {name: Tickets, cap: 10, overCap: refuse}
items:
  frame: {name: Frame, kind: durable, carry: 3, worth: {shells: 9}, group: all}
  wax: {name: Wax, kind: consumable, uses: 2, carry: 12, stack: 5, worth: {shells: 2}, group: all, onUse: {gives: {pearls: "=1 + owned(wax) / 2", tickets: 3}}}
  pill: {name: Pill, kind: consumable, onUse: {set: {level: "=level + 1"}, gives: {shells: "=level * 10"}}}
  lantern: {name: Lantern, kind: timed, lasts: P1D, group: all}
  kit: {name: Kit, kind: bundle, gives: {wax: 1, frame: 1}}
  key: {name: Key, kind: durable, carry: 4}
  crate: {name: Crate, kind: box, gives: {shells: 3, key: 1}, loot: finds, opensWith: {item: key}}
loot: {finds: {name: Finds, entries: {wax: {weight: 1, gives: {wax: 1}}, more: {weight: 1, gives: {shells: {from: 1, to: 9}}}}}}
${sales}
shops:
  stall:
    name: Stall
    ${when}
    buyback: {groups: [all], rate: 0.5, of: ${of}}
    shelves: {main: {name: Main, offers: {${o1}, ${o2}, ${o3}}}}
`),
  );

const holds = fc.record({
  shells: fc.nat(120),
  pearls: fc.nat(900),
  wax: fc.nat(11),
  frame: fc.nat(3),
  pill: fc.nat(4),
  key: fc.nat(3),
  crate: fc.nat(4),
});

interface Doing {
  allowed: boolean;
  player: Player;
  shared: Shared;
  sum: Basket;
}
type Press = (player: Player, shared: Shared, times: number) => Doing;

function oneByOne(press: Press, start: Doing, times: number): Doing {
  let now = start;
  const sum: Basket = {};
  for (let time = 0; time < times; time++) {
    const next = press(now.player, now.shared, 1);
    if (!next.allowed) return { ...now, allowed: false, sum: {} };
    now = next;
    for (const asset in next.sum) sum[asset] = (sum[asset] ?? 0) + next.sum[asset]!;
  }
  return { ...now, sum };
}

test('for all offers and acts, on random economies and players', () => {
  const allowed = new Map<string, number>();
  fc.assert(
    fc.property(
      fc.constantFrom(...WORLDS),
      holds,
      fc.integer({ min: 1, max: 6 }),
      fc.integer({ min: 1, max: 3 }),
      fc.constantFrom<['buy' | ActKind, string]>(
        ['buy', 'o1'],
        ['buy', 'o2'],
        ['buy', 'o3'],
        ['sell', 'wax'],
        ['sell', 'frame'],
        ['use', 'wax'],
        ['use', 'pill'],
        ['open', 'crate'],
      ),
      (economy, held, times, level, [kind, what]) => {
        const buy: Press = (player, shared, count) => {
          const verdict = purchaseCheck(economy, player, shared, { offer: what, times: count }, NOW);
          if (!verdict.allowed) return { allowed: false, player, shared, sum: {} };
          const bought = purchaseApply(economy, player, shared, verdict);
          const sum = { ...verdict.gives };
          for (const asset in verdict.price!.total) sum[`paid ${asset}`] = verdict.price!.total[asset]!;
          return { allowed: true, player: bought.player, shared: sharedWith(shared, bought.shared), sum };
        };
        const act =
          (name: ActKind): Press =>
          (player, shared, count) => {
            const verdict = ACTS[name].check(economy, player, shared, { item: what, times: count, shop: 'stall' }, NOW);
            if (!verdict.allowed) return { allowed: false, player, shared, sum: {} };
            const done = ACTS[name].apply(economy, player, shared, verdict);
            return {
              allowed: true,
              player: done.player,
              shared: sharedWith(shared, done.shared),
              sum: {
                ...verdict.gives,
                ...Object.fromEntries(Object.entries(done.given).map(([a, n]) => [`given ${a}`, n])),
              },
            };
          };
        const press = kind === 'buy' ? buy : act(kind);
        let player = playerWith(economy, held, { level });
        // What was bought before remembers what it cost, each at its own price.
        for (const before of ['o1', 'o2']) {
          const verdict = purchaseCheck(economy, player, UNTOUCHED, { offer: before }, NOW);
          if (kind === 'sell' && verdict.allowed) player = purchaseApply(economy, player, UNTOUCHED, verdict).player;
        }
        const start: Doing = { allowed: true, player, shared: UNTOUCHED, sum: {} };
        const together = press(player, UNTOUCHED, times);
        const singly = oneByOne(press, start, times);
        expect(together.allowed).toBe(singly.allowed);
        if (!together.allowed) return;
        expect(together.sum).toEqual(singly.sum);
        expect(together.player).toEqual(singly.player);
        expect(together.shared).toEqual(singly.shared);
        if (times > 1) allowed.set(kind, (allowed.get(kind) ?? 0) + 1);
      },
    ),
    { numRuns: 1500, seed: 31 },
  );
  // It is of no use where everything is refused.
  expect([...allowed.entries()].filter(([, count]) => count < 20)).toEqual([]);
  expect([...allowed.keys()].sort()).toEqual(['buy', 'open', 'sell', 'use']);
});
