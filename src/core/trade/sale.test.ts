/** Sales: what they pick, what they take off, which holds, and that the price shown is the price charged. */
import { NOW, DAY, economyOf, issuesOf, playerWith } from '../../../tests/support/economy.js';
import { frontMake } from '../storefront/index.js';
import { UNTOUCHED, purchaseApply, purchaseCheck } from './index.js';
import { verdictExplain } from '../texts/index.js';

const ECONOMY = (sales: string, price = '{shells: 15}', more = '') => `
currencies: {shells: {name: Shells}, pearls: {name: Pearls, rounding: up}}
groups: {sails: {name: Sails}}
items:
  sail: {name: Sail, kind: durable, group: sails, tags: [rare], worth: {shells: 15}}
  tail: {name: Tail, kind: durable, worth: {shells: 100}}
shops:
  stall: {name: Stall, shelves: {a: {name: A, offers: {sail: {gives: sail, price: ${price}${more}}, tail: {gives: tail}}}}}
  booth: {name: Booth, shelves: {b: {name: B, offers: {booth_sail: {gives: sail}}}}}
sales: ${sales}
`;
const asked = (
  yaml: string,
  offer: string,
  { times = 1, nowMs = NOW, pay }: { times?: number; nowMs?: number; pay?: string } = {},
) => {
  const economy = economyOf(yaml);
  const request = { offer, times, ...(pay ? { pay } : {}) };
  return purchaseCheck(economy, playerWith(economy, { shells: 1000, pearls: 1000 }), UNTOUCHED, request, nowMs);
};
const total = (...args: Parameters<typeof asked>) => asked(...args).price!.total;

test('an offer is picked when it fits every list that the sale writes', () => {
  const off = (picks: string) => {
    const yaml = ECONOMY(`{s: {name: S, percent: 20, ${picks}}}`);
    return ['sail', 'tail', 'booth_sail'].filter((offer) => asked(yaml, offer).price!.sale !== undefined);
  };
  expect(off('offers: [sail, tail]')).toEqual(['sail', 'tail']);
  expect(off('shops: [stall]')).toEqual(['sail', 'tail']);
  expect(off('groups: [sails]')).toEqual(['sail', 'booth_sail']);
  expect(off('tags: [rare], shops: [booth]')).toEqual(['booth_sail']);
  expect(off('offers: [tail], groups: [sails]')).toEqual([]);
  expect(asked(ECONOMY('{s: {name: S, percent: 20}}'), 'sail').price!.sale).toBeUndefined();
});

test('a part off is rounded as the currency rounds, per unit, and never to nothing', () => {
  const off = (percent: number, price?: string, times = 1) =>
    total(ECONOMY(`{s: {name: S, percent: ${percent}, offers: [sail]}}`, price), 'sail', { times });
  expect(off(10)).toEqual({ shells: 13 });
  expect(off(10, '{pearls: 15}')).toEqual({ pearls: 14 });
  expect(off(99.99)).toEqual({ shells: 1 });
  expect(off(33.33, '{shells: 30, pearls: 3}')).toEqual({ shells: 20, pearls: 3 });
  expect(off(10, '{shells: 15}', 7)).toEqual({ shells: 7 * 13 });
  expect(off(50, '{tail: 3}')).toEqual({ tail: 1 });
  expect(off(50, `{shells: ${2 ** 52 + 1}}`)).toEqual({ shells: 2 ** 51 });
});

test('several at once cost what one after the other would, where a formula and two sales meet', () => {
  const yaml = ECONOMY(
    '{part: {name: Part, percent: 20, offers: [sail]}, set: {name: Set, price: {shells: 40}, offers: [sail]}}',
    '{shells: "=30 + 10 * owned(sail)"}',
  );
  const economy = economyOf(yaml);
  let player = playerWith(economy, { shells: 1000 });
  let paid = 0;
  for (let n = 0; n < 4; n++) {
    const verdict = purchaseCheck(economy, player, UNTOUCHED, { offer: 'sail' }, NOW);
    paid += verdict.price!.total['shells']!;
    player = purchaseApply(economy, player, UNTOUCHED, verdict).player;
  }
  // 24, 32, then 40 by the set price (50 and 60 less a fifth are 40 and 48).
  expect(paid).toBe(24 + 32 + 40 + 40);
  expect(total(yaml, 'sail', { times: 4 })).toEqual({ shells: paid });
});

test('overlapping sales do not add up: the lowest holds, and the answer tells of the others', () => {
  const yaml = ECONOMY(
    '{small: {name: Small, percent: 10, offers: [tail]}, large: {name: Large, percent: 30, shops: [stall]}, set: {name: Set, price: {shells: 80}, offers: [tail]}}',
  );
  const { price, choices } = asked(yaml, 'tail');
  expect(price).toEqual({
    pay: 'shells',
    base: { shells: 100 },
    total: { shells: 70 },
    inputs: [],
    sale: { id: 'large', name: 'Large', price: { shells: 70 }, endsMs: null },
    passedOver: [
      { id: 'set', name: 'Set', price: { shells: 80 }, endsMs: null },
      { id: 'small', name: 'Small', price: { shells: 90 }, endsMs: null },
    ],
  });
  expect(choices).toEqual([{ pay: 'shells', total: { shells: 70 }, before: { shells: 100 } }]);
});

test('a set price holds for the alternative that asks for the same, and never raises one', () => {
  const yaml = ECONOMY(
    '{s: {name: S, price: {shells: 9}, offers: [sail, tail]}}',
    '[{shells: 15}, {pearls: 2}, {shells: 5, pearls: 1}]',
  );
  expect(total(yaml, 'sail', { pay: 'shells' })).toEqual({ shells: 9 });
  expect(total(yaml, 'sail', { pay: 'pearls' })).toEqual({ pearls: 2 });
  expect(total(yaml, 'sail', { pay: 'pearls+shells' })).toEqual({ shells: 5, pearls: 1 });
  expect(total(ECONOMY('{s: {name: S, price: {shells: 16}, offers: [sail]}}'), 'sail')).toEqual({ shells: 15 });
});

test('it begins and ends at the instant, and the player who was shown the other price is not charged', () => {
  const yaml = ECONOMY(
    '{s: {name: S, percent: 20, offers: [tail], from: "2027-03-01T09:00", until: "2027-03-02T09:00"}}',
  );
  const at = (nowMs: number) => total(yaml, 'tail', { nowMs })['shells'];
  expect([NOW - 1, NOW, NOW + DAY - 1, NOW + DAY].map(at)).toEqual([100, 80, 80, 100]);
  const economy = economyOf(yaml);
  const player = playerWith(economy, { shells: 100 });
  const late = purchaseCheck(economy, player, UNTOUCHED, { offer: 'tail', expect: { shells: 80 } }, NOW + DAY);
  expect(late.reasons).toEqual([{ code: 'price-changed', expected: { shells: 80 }, actual: { shells: 100 } }]);
  // A sale that began between looking and buying refuses nobody.
  expect(purchaseCheck(economy, player, UNTOUCHED, { offer: 'tail', expect: { shells: 100 } }, NOW)).toMatchObject({
    allowed: true,
    price: { total: { shells: 80 }, expected: { shells: 100 } },
  });
});

test('a sale for some players only, and a label that is the price charged', () => {
  const economy = economyOf(
    `attributes: {level: {start: 1}}\n${ECONOMY('{s: {name: S, percent: 20, offers: [tail], when: "=level >= 3"}}')}`,
  );
  for (const [level, price] of [
    [2, 100],
    [3, 80],
  ] as const) {
    const player = playerWith(economy, { shells: 100 }, { level });
    const [, tail] = frontMake(economy, economy.shops.get('stall')!, player, UNTOUCHED, NOW).shelves[0]!.offers;
    const verdict = purchaseCheck(economy, player, UNTOUCHED, { offer: 'tail' }, NOW);
    expect(tail!.choices[0]!.total).toEqual({ shells: price });
    expect(purchaseApply(economy, player, UNTOUCHED, verdict).movements[0]).toMatchObject({
      asset: 'shells',
      units: price,
    });
  }
});

test('exactly enough for the sale price is enough, one less is not', () => {
  const economy = economyOf(ECONOMY('{s: {name: S, percent: 20, offers: [tail]}}'));
  const check = (shells: number) =>
    purchaseCheck(economy, playerWith(economy, { shells }), UNTOUCHED, { offer: 'tail' }, NOW);
  expect(check(80)).toMatchObject({ allowed: true, after: { shells: 0 } });
  expect(verdictExplain(economy, check(79)).reasons[0]!.sentence).toBe(
    'Shells: short by 1. It costs 80 and the player has 79.',
  );
});

test('what is free or paid with real money stays as it is', () => {
  const of = (price: string) => asked(ECONOMY('{s: {name: S, percent: 50, offers: [sail]}}', price), 'sail').price;
  expect(of('free')).toEqual({ pay: 'free', base: {}, total: {}, inputs: [] });
  expect(of('{money: {EUR: 4.99}}')).toMatchObject({ money: { EUR: 499 } });
});

test.each([
  ['{s: {name: S, offers: [sail]}}', 'missing-field', '/sales/s'],
  ['{s: {name: S, offers: [sail], percent: 10, price: {shells: 1}}}', 'missing-field', '/sales/s'],
  ['{s: {name: S, offers: [sail], percent: 100}}', 'wrong-value', '/sales/s/percent'],
  ['{s: {name: S, offers: [sail], price: {shells: 0}}}', 'bad-amount', '/sales/s/price/shells'],
  ['{s: {name: S, offers: [snail], percent: 10}}', 'dangling-reference', '/sales/s/offers/0'],
  ['{s: {name: S, shops: [stal], percent: 10}}', 'dangling-reference', '/sales/s/shops/0'],
  [
    '{s: {name: S, offers: [sail], percent: 10, from: "2027-03-02", until: "2027-03-01"}}',
    'wrong-value',
    '/sales/s/until',
  ],
  [
    '{s: {name: S, offers: [sail], percent: 10, runs: {w: {starts: "2027-03-02", repeats: "FREQ=OFTEN", lasts: P1D}}}}',
    'wrong-value',
    '/sales/s/runs/w/repeats',
  ],
  ['{s: {name: S, offers: [sail], percent: 10, from: "2027-02-30"}}', 'wrong-value', '/sales/s/from'],
])('the sale %s is told as %s', (sales, code, pointer) => {
  expect(issuesOf(ECONOMY(sales)).map((issue) => `${issue.code} ${issue.pointer}`)).toContain(`${code} ${pointer}`);
});

describe('times of the calendar', () => {
  test('a limit for each rotation counts anew when the shelf turns', () => {
    const economy = economyOf(`
currencies: {shells: {name: Shells}}
items: {sail: {name: Sail, kind: durable, worth: {shells: 1}}}
shops: {s: {name: S, shelves: {a: {name: A, rotation: {show: 1, every: day, at: "09:00"}, offers: {sail: {gives: sail, limits: {rotation: 1}}}}}}}
`);
    const player = playerWith(economy, { shells: 9 });
    const verdict = purchaseCheck(economy, player, UNTOUCHED, { offer: 'sail' }, NOW);
    expect(verdict.limits).toEqual([{ period: 'rotation', most: 1, used: 0, left: 1, resetsMs: NOW + DAY }]);
    const after = purchaseApply(economy, player, UNTOUCHED, verdict).player;
    const codes = (nowMs: number) =>
      purchaseCheck(economy, after, UNTOUCHED, { offer: 'sail' }, nowMs).reasons.map(({ code }) => code);
    expect([codes(NOW + DAY - 1), codes(NOW + DAY)]).toEqual([['limit-reached'], []]);
    expect(
      issuesOf(
        'currencies: {c: {name: C}}\nshops: {s: {name: S, shelves: {a: {name: A, offers: {o: {gives: c, price: {c: 1}, limits: {rotation: 1}}}}}}}',
      ),
    ).toMatchObject([{ code: 'wrong-value' }]);
  });

  test('stock that comes at nine comes at nine, over a change of clocks', () => {
    const economy = economyOf(`
currencies: {shells: {name: Shells}}
items: {sail: {name: Sail, kind: durable, worth: {shells: 1}}}
shops: {s: {name: S, shelves: {a: {name: A, offers: {sail: {gives: sail, stock: {units: 2, restock: {amount: 1, every: day, at: "09:00"}}}}}}}}
`);
    const player = playerWith(economy, { shells: 9 });
    const evening = Date.parse('2027-03-27T20:00Z');
    const bought = purchaseApply(
      economy,
      player,
      UNTOUCHED,
      purchaseCheck(economy, player, UNTOUCHED, { offer: 'sail', times: 2 }, evening),
    );
    const left = (text: string) =>
      purchaseCheck(economy, bought.player, bought.shared, { offer: 'sail' }, Date.parse(text)).stock;
    expect(left('2027-03-28T07:59:59Z')).toMatchObject({ left: 0, restocksMs: Date.parse('2027-03-28T08:00Z') });
    expect(left('2027-03-28T08:00Z')).toMatchObject({ left: 1, restocksMs: Date.parse('2027-03-29T08:00Z') });
    expect(left('2027-03-29T08:00Z')).toMatchObject({ left: 2, restocksMs: null });
  });

  test('a shop keeps its hours, says when it opens, and an offer off show says when it comes', () => {
    const economy = economyOf(`
currencies: {shells: {name: Shells}}
items: {sail: {name: Sail, kind: durable, worth: {shells: 1}}, tail: {name: Tail, kind: durable, worth: {shells: 1}}}
shops: {s: {name: S, open: {days: {starts: "2027-01-01T10:00", repeats: FREQ=DAILY, lasts: PT8H}}, shelves: {a: {name: A, rotation: {show: 1, every: day, avoid: 1}, offers: {sail: {gives: sail}, tail: {gives: tail}}}}}}
`);
    const player = playerWith(economy, { shells: 9 });
    const reasons = ['sail', 'tail'].flatMap(
      (offer) => purchaseCheck(economy, player, UNTOUCHED, { offer }, NOW).reasons,
    );
    expect(reasons.filter(({ code }) => code === 'shop-closed')).toEqual([
      { code: 'shop-closed', shop: 's', opensMs: NOW + 3_600_000 },
      { code: 'shop-closed', shop: 's', opensMs: NOW + 3_600_000 },
    ]);
    expect(reasons.filter(({ code }) => code === 'not-on-show')).toMatchObject([
      { fromMs: Date.parse('2027-03-02T00:00Z') },
    ]);
  });
});
