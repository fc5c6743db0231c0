import { demoEconomy, economyOf, issuesOf, documentOf } from '../../../tests/support/economy.js';
import { documentChanges, documentPatch } from '../document/index.js';
import { choiceBasket, economyCompile, fixedUnits, issueBlocksSaving, quantitiesEvaluate } from './index.js';

const CURRENCIES = 'currencies: {shells: {name: Shells}, pearls: {name: Pearls, decimals: 2, rounding: up}}\n';
const shop = (offers: string) => `shops: {stall: {name: Stall, shelves: {main: {name: Main, offers: {${offers}}}}}}\n`;
const KITE = 'items: {kite: {name: Kite, kind: durable, worth: {shells: 100}}}\n';

test('amounts become smallest units of their currency', () => {
  const economy = economyOf(CURRENCIES + KITE + shop('kite: {gives: kite, price: {pearls: 2.5, shells: 3}}'));
  expect(
    economy.offers
      .get('kite')!
      .prices!.flatMap(choiceBasket)
      .map((one) => [one.asset, fixedUnits(one)]),
  ).toEqual([
    ['pearls', 250],
    ['shells', 3],
  ]);
});

test("an offer without a price asks the item's worth, times its count", () => {
  const economy = economyOf(CURRENCIES + KITE + shop('three: {gives: kite, count: 3}'));
  expect(economy.offers.get('three')!.prices).toMatchObject([
    { pay: 'shells', basket: [{ asset: 'shells', units: 300 }] },
  ]);
  expect(economy.offers.get('three')!.name).toBe('Kite x3');
});

test('two shops may ask different prices for one item', () => {
  const economy = economyOf(
    `${CURRENCIES}${KITE}shops: {a: {name: A, shelves: {m: {name: M, offers: {one: {gives: kite}}}}}, b: {name: B, shelves: {m: {name: M, offers: {two: {gives: kite, price: {shells: 80}}}}}}}`,
  );
  expect([...economy.offers.values()].map(({ prices }) => fixedUnits(prices!.flatMap(choiceBasket)[0]!))).toEqual([
    100, 80,
  ]);
});

test.each([
  [
    'a price in nothing',
    shop('kite: {gives: kite, price: {shels: 5}}'),
    'dangling-reference',
    '/shops/stall/shelves/main/offers/kite/price/shels',
  ],
  [
    'an offer of nothing',
    shop('kite: {gives: kyte}'),
    'dangling-reference',
    '/shops/stall/shelves/main/offers/kite/gives',
  ],
  [
    'a group that is not there',
    'groups: {frames: {name: F}}\nitems: {kite: {name: K, kind: durable, group: frame}}',
    'dangling-reference',
    '/items/kite/group',
  ],
  [
    'more decimals than the currency has',
    shop('kite: {gives: kite, price: {pearls: 2.505}}'),
    'bad-amount',
    '/shops/stall/shelves/main/offers/kite/price/pearls',
  ],
  [
    'a fraction of an item',
    shop('kite: {gives: {kite: 1.5}, price: free}'),
    'bad-amount',
    '/shops/stall/shelves/main/offers/kite/gives/kite',
  ],
  [
    'a formula with an unknown name',
    shop('kite: {gives: kite, price: {shells: "=10 * levle"}}'),
    'bad-formula',
    '/shops/stall/shelves/main/offers/kite/price/shells',
  ],
  [
    'a formula about nothing',
    shop('kite: {gives: kite, price: {shells: "=10 * owned(kyte)"}}'),
    'dangling-reference',
    '/shops/stall/shelves/main/offers/kite/price/shells',
  ],
  [
    'a count with a basket',
    shop('kite: {gives: {kite: 1}, count: 2, price: free}'),
    'wrong-value',
    '/shops/stall/shelves/main/offers/kite/count',
  ],
  [
    'two alternatives in the same currency',
    shop('kite: {gives: kite, price: [{shells: 1}, {shells: 2}]}'),
    'conflicting-reference',
    '/shops/stall/shelves/main/offers/kite/price',
  ],
  [
    'a window that ends before it begins',
    shop('kite: {gives: kite, from: "2027-03-02", until: "2027-03-01"}'),
    'wrong-value',
    '/shops/stall/shelves/main/offers/kite/until',
  ],
  [
    'a rule on an event that is not there',
    'earning: {r: {name: R, on: race, gives: {shells: 1}}}',
    'dangling-reference',
    '/earning/r/on',
  ],
  ['a rule that does nothing', 'events: {race: {}}\nearning: {r: {name: R, on: race}}', 'missing-field', '/earning/r'],
  ['an item that is also a currency', 'items: {shells: {name: S, kind: durable}}', 'duplicate-id', '/items/shells'],
  ['a start above the cap', 'items: {}', 'wrong-value', '/currencies/breeze/start'],
])('%s is an issue', (_, yaml, code, pointer) => {
  const currencies = CURRENCIES.replace(
    '}}',
    `}${pointer.includes('breeze') ? ', breeze: {name: B, start: 9, cap: 5}' : ''}}`,
  );
  const items = yaml.startsWith('items') || yaml.startsWith('groups') ? '' : KITE;
  expect(issuesOf(currencies + items + yaml)).toContainEqual(expect.objectContaining({ code, pointer }));
});

test('an offer id may stand only once in the whole economy', () => {
  const issues = issuesOf(
    `${CURRENCIES}${KITE}shops: {a: {name: A, shelves: {m: {name: M, offers: {one: {gives: kite}}}}}, b: {name: B, shelves: {m: {name: M, offers: {one: {gives: kite}}}}}}`,
  );
  expect(issues).toMatchObject([{ code: 'duplicate-id', pointer: '/shops/b/shelves/m/offers/one' }]);
});

test('bundles that hold each other are cut and reported, and nothing hangs', () => {
  const issues = issuesOf(
    'items: {a: {name: A, kind: bundle, gives: {b: 1}}, b: {name: B, kind: bundle, gives: {c: 1}}, c: {name: C, kind: bundle, gives: {a: 1}}}',
  );
  expect(issues).toContainEqual(expect.objectContaining({ code: 'circular-bundle', pointer: '/items/c/gives/a' }));
});

test('a draft may hold references to nothing, but not what cannot be read', () => {
  const [dangling] = economyCompile(documentOf(CURRENCIES + KITE)).issues;
  expect(dangling).toBeUndefined();
  expect(issueBlocksSaving({ code: 'dangling-reference', pointer: '', message: '', fix: '' })).toBe(false);
  expect(issueBlocksSaving({ code: 'bad-formula', pointer: '', message: '', fix: '' })).toBe(true);
});

test('a formula that gives no amount names itself and its inputs', () => {
  const economy = economyOf(
    `${CURRENCIES}${KITE}attributes: {level: {start: 1}}\n${shop('kite: {gives: kite, price: {shells: "=100 - 60 * level"}}')}`,
  );
  const scope = { name: () => 2, owned: () => 0, balance: () => 0, bought: () => 0 };
  const result = quantitiesEvaluate(choiceBasket(economy.offers.get('kite')!.prices![0]!), scope);
  expect(result).toMatchObject({
    ok: false,
    problem: { formula: '=100 - 60 * level', value: -20, inputs: [{ name: 'level', value: 2 }] },
  });
});

test('the demo economy has no issue', () => {
  const economy = demoEconomy();
  expect([
    economy.currencies.size,
    economy.items.size,
    economy.shops.size,
    economy.loot.size,
    economy.personas.size,
  ]).toEqual([4, 60, 4, 5, 4]);
});

test("changes are told in a designer's words", () => {
  const before = documentOf(CURRENCIES + KITE + shop('kite: {gives: kite, price: {shells: 900}}'));
  const after = structuredClone(before);
  (after.shops!['stall']!.shelves['main']!.offers['kite']!.price as Record<string, number>)['shells'] = 750;
  after.items!['tail'] = { name: 'Ribbon Tail', kind: 'durable' };
  after.currencies!['shells']!.name = 'Sea shells';
  after.items!['kite']!.description = 'Light.\nFor calm mornings.\n';
  expect(documentChanges(before, after).map(({ words }) => words)).toEqual([
    'currency Sea shells, name: Shells -> Sea shells',
    'Kite, description: Light. / For calm mornings. (new)',
    'Ribbon Tail: added',
    'Kite at Stall: 900 -> 750 Sea shells',
  ]);
  expect(documentPatch(before, before)).toEqual([]);
});

test('bundles in bundles in bundles are worked out once each: thirty layers of two take no time', () => {
  const layers = Array.from(
    { length: 30 },
    (_, layer) => `b${layer}: {name: B, kind: bundle, gives: {${layer === 0 ? 'wax: 1' : `b${layer - 1}: 2`}}}`,
  );
  const economy = economyOf(`items: {wax: {name: Wax, kind: consumable}, ${layers.join(', ')}}`);
  expect(economy.items.get('b29')).toMatchObject({ kind: 'bundle', contents: { wax: 2 ** 29 } });
  expect(
    issuesOf(
      `items: {wax: {name: W, kind: consumable}, a: {name: A, kind: bundle, gives: {wax: 9007199254740991}}, b: {name: B, kind: bundle, gives: {a: 2}}}`,
    ),
  ).toEqual([expect.objectContaining({ code: 'bad-amount', pointer: '/items/b/gives' })]);
});

test('half a price is no price: an alternative that names something unknown does not count', () => {
  const document = documentOf(CURRENCIES + KITE + shop('kite: {gives: kite, price: {shells: 10}}'));
  const broken = structuredClone(document);
  broken.shops!['stall']!.shelves['main']!.offers['kite']!.price = { shells: 10, pearlz: 5 };
  expect(economyCompile(broken).economy.offers.get('kite')!.prices).toBeUndefined();
});

test("a persona's formula that fails is told with its place when the economy is compiled, not when a run starts", () => {
  expect(
    issuesOf(`
attributes: {level: {start: 1}}
activities: {fly: {name: Fly, minutes: 5, emits: {}}}
personas: {racer: {name: Racer, attributes: {level: "=levl + 1"}, sessions: {perDay: 1, minutes: 5}, plays: {fly: 1}, shops: {policy: impulse}}}
`),
  ).toEqual([expect.objectContaining({ code: 'bad-formula', pointer: '/personas/racer/attributes/level' })]);
});
