import fc from 'fast-check';
import { DAY, HOUR, MINUTE, NOW, demoEconomy, economyOf, playerWith } from '../../../tests/support/economy.js';
import { UNTOUCHED, purchaseApply, purchaseCheck, sharedWith } from '../trade/index.js';
import type { Shared } from '../trade/index.js';
import { frontMake } from './index.js';

const economy = economyOf(`
attributes: {level: {start: 1}}
currencies:
  shells: {name: Shells}
  pearls: {name: Pearls}
  breeze: {name: Breeze, refill: {amount: 1, every: PT20M, upTo: 8}}
items:
  frame: {name: Frame, kind: durable, carry: 1, worth: {shells: 100}, icon: "🪁", description: A frame}
  wax: {name: Wax, kind: consumable, worth: {shells: 10}}
shops:
  stall:
    name: Stall
    shelves:
      main:
        name: Main
        offers:
          wax: {gives: wax}
          frame: {gives: frame}
          storm: {gives: wax, count: 9, price: {shells: 130}}
          levelled: {gives: wax, price: {shells: 1}, when: "=level >= 3"}
          either: {gives: wax, price: [{pearls: 1}, {shells: 5}]}
          daily: {gives: wax, price: {shells: 2}, limits: {day: 1}}
          gone: {gives: wax, price: {shells: 1}, hidden: true}
          later: {gives: wax, price: {shells: 1}, from: "2027-03-01T10:00"}
      secret: {name: Secret, hidden: true, offers: {secret: {gives: wax, price: {shells: 1}}}}
      empty: {name: Empty, offers: {}}
`);
const shop = economy.shops.get('stall')!;
const front = (holds: Record<string, number>, nowMs = NOW) =>
  frontMake(economy, shop, playerWith(economy, holds), UNTOUCHED, nowMs);

test('what is hidden, not yet on show or on an empty shelf is not seen', () => {
  const { shelves } = front({ shells: 100 });
  expect(shelves.map(({ id, offers }) => [id, offers.map((offer) => offer.id)])).toEqual([
    ['main', ['wax', 'frame', 'storm', 'levelled', 'either', 'daily']],
  ]);
  expect(front({}, NOW + HOUR).shelves[0]!.offers.map(({ id }) => id)).toContain('later');
});

test('every label is the price that the check charges', () => {
  const player = playerWith(economy, { shells: 120, pearls: 1 });
  for (const offer of frontMake(economy, shop, player, UNTOUCHED, NOW).shelves[0]!.offers) {
    for (const { pay, total, allowed } of offer.choices) {
      const verdict = purchaseCheck(economy, player, UNTOUCHED, { offer: offer.id, pay, expect: total }, NOW);
      expect([verdict.price!.total, verdict.allowed]).toEqual([total, allowed]);
    }
  }
});

test('an offer with alternatives is allowed when one of them is', () => {
  const either = front({ shells: 5 }).shelves[0]!.offers.find(({ id }) => id === 'either')!;
  expect(either.choices.map(({ pay, allowed }) => [pay, allowed])).toEqual([
    ['pearls', false],
    ['shells', true],
  ]);
  expect(either.verdict).toMatchObject({ allowed: true, price: { pay: 'shells' } });
});

test('an unmet requirement is shown with its sentence', () => {
  const levelled = front({ shells: 100 }).shelves[0]!.offers.find(({ id }) => id === 'levelled')!;
  expect(levelled.verdict.reasons).toMatchObject([
    { code: 'requirement-unmet', sentence: 'It needs level >= 3 (level is 1).' },
  ]);
});

test('what can be bought comes dearest share first, and the goal is the nearest that only money is missing for', () => {
  const { affordable, nextGoal } = front({ shells: 110 });
  expect(affordable).toEqual(['frame', 'wax', 'either', 'daily']);
  expect(nextGoal).toEqual({ offer: 'storm', short: { shells: 20 } });
});

describe('until when the answer holds', () => {
  test('the next window, refill tick or limit period, whichever is first', () => {
    expect(front({ breeze: 8 }).changesMs).toBe(NOW + HOUR);
    expect(front({ breeze: 3 }).changesMs).toBe(NOW + 20 * MINUTE);
    expect(front({ breeze: 8 }, NOW + 2 * HOUR).changesMs).toBe(Date.UTC(2027, 2, 2));
  });

  test("nothing changes before it, by the player's own doing aside", () => {
    const player = playerWith(economy, { shells: 60, breeze: 3 });
    const now = frontMake(economy, shop, player, UNTOUCHED, NOW);
    const just = frontMake(economy, shop, player, UNTOUCHED, now.changesMs! - 1);
    const timeless = (value: object) => JSON.stringify(value).replace(/"atMs":\d+/g, '');
    expect(timeless(just)).toBe(timeless(now));
    expect(timeless(frontMake(economy, shop, player, UNTOUCHED, now.changesMs!))).not.toBe(timeless(now));
  });

  test('in the demo, whatever was bought, no answer changes before it says', () => {
    const demo = demoEconomy();
    const offers = [...demo.offers.keys()];
    const purchase = fc.record({ offer: fc.constantFrom(...offers), pay: fc.constantFrom('shells', 'pearls') });
    fc.assert(
      fc.property(
        fc.array(purchase, { maxLength: 12 }),
        fc.integer({ min: 0, max: 2 * DAY }),
        fc.integer({ min: 0, max: 400 }),
        (purchases, waitMs, cash) => {
          // Something to sell, to a till that may be short of it; a tea that will be cold, a rope that yields.
          const holds = {
            shells: 5000,
            pearls: 40,
            breeze: 3,
            ribbons: 4,
            old_coin: 2,
            bell_tail: 1,
            brass_reel: 1,
            dawn_tea: 1,
            mussel_rope: 1,
          };
          let player = playerWith(demo, holds, { level: 3 });
          let shared: Shared = { ...UNTOUCHED, tills: { pier_stall: { shells: { units: cash, sinceMs: NOW } } } };
          for (const request of purchases) {
            const verdict = purchaseCheck(demo, player, shared, request, NOW);
            if (!verdict.allowed) continue;
            const bought = purchaseApply(demo, player, shared, verdict);
            player = bought.player;
            shared = sharedWith(shared, bought.shared);
          }
          const timeless = (value: object) => JSON.stringify(value).replace(/"atMs":\d+/g, '');
          for (const shop of demo.shops.values()) {
            const now = frontMake(demo, shop, player, shared, NOW + waitMs);
            const just = frontMake(demo, shop, player, shared, (now.changesMs ?? NOW + 30 * DAY) - 1);
            expect(timeless(just)).toBe(timeless(now));
          }
        },
      ),
      { numRuns: 60 },
    );
  });

  test('a formula on the day ends at midnight', () => {
    const daily = economyOf(
      'currencies: {shells: {name: Shells}}\nitems: {wax: {name: Wax, kind: consumable}}\nshops: {stall: {name: S, shelves: {m: {name: M, offers: {wax: {gives: wax, price: {shells: "=10 + day"}}}}}}}',
    );
    const view = frontMake(daily, daily.shops.get('stall')!, playerWith(daily, {}), UNTOUCHED, NOW);
    expect(view.changesMs).toBe(Date.UTC(2027, 2, 2));
    expect(
      frontMake(daily, daily.shops.get('stall')!, playerWith(daily, {}), UNTOUCHED, NOW + 3 * DAY).shelves[0]!
        .offers[0]!.choices[0]!.total,
    ).toEqual({ shells: 13 });
  });
});
