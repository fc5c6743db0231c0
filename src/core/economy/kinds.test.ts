/** Bad input for every field of currencies, items, loot, tills, buyback and prices: where it is, and that a way out is told. */
import fastJsonPatch from 'fast-json-patch';
import fc from 'fast-check';
import { demoDocument, demoEconomy, demoFiles, documentOf, economyOf } from '../../../tests/support/economy.js';
import { economyLoad } from './index.js';
import { folderRead, folderWrite } from '../files/index.js';
import { documentChanges, documentPatch } from '../document/index.js';
import type { EconomyDocument } from '../document/index.js';

const HEAD = `name: Test cove
timeZone: Europe/Lisbon
attributes: {level: {start: 1}, pilot: {start: false}, title: {start: ""}}
groups: {care: {name: Care}}
`;
const issues = (yaml: string) =>
  economyLoad([{ path: 'test.yaml', text: HEAD + yaml }]).issues.map(({ code, pointer, message, fix }) => ({
    code,
    pointer,
    told: message.length > 8 && fix.length > 5,
  }));
const item = (fields: string) =>
  `currencies: {shells: {name: Shells}}\nitems: {key: {name: Key, kind: durable}, thing: {name: Thing, ${fields}}}`;
const loot = (fields: string) => `items: {wax: {name: Wax, kind: durable}}\nloot: {finds: {name: Finds, ${fields}}}`;
const shop = (fields: string) =>
  `currencies: {shells: {name: Shells}}\nitems: {wax: {name: Wax, kind: durable}}\nshops: {stall: {name: Stall, ${fields}}}`;
const offer = (fields: string) => shop(`shelves: {main: {name: Main, offers: {one: {gives: wax, ${fields}}}}}`);
const OFFER = '/shops/stall/shelves/main/offers/one';

const WRONG: [what: string, yaml: string, code: string, pointer: string][] = [
  ['an end without an instant', 'currencies: {a: {name: A, ends: {}}}', 'missing-field', '/currencies/a/ends/at'],
  ['an end at no instant', 'currencies: {a: {name: A, ends: {at: soon}}}', 'wrong-value', '/currencies/a/ends/at'],
  [
    'an end into nothing',
    'currencies: {a: {name: A, ends: {at: "2027-01-01", into: b}}}',
    'dangling-reference',
    '/currencies/a/ends/into',
  ],
  [
    'an end into itself',
    'currencies: {a: {name: A, ends: {at: "2027-01-01", into: a}}}',
    'wrong-value',
    '/currencies/a/ends/into',
  ],
  [
    'an end into one that ends',
    'currencies: {a: {name: A, ends: {at: "2027-01-01", into: b}}, b: {name: B, ends: {at: "2027-01-02"}}}',
    'wrong-value',
    '/currencies/a/ends/into',
  ],
  [
    'a rate into nothing',
    'currencies: {a: {name: A, ends: {at: "2027-01-01", rate: 2}}}',
    'wrong-value',
    '/currencies/a/ends/rate',
  ],
  [
    'a rate below zero',
    'currencies: {a: {name: A, ends: {at: "2027-01-01", rate: -2}}}',
    'wrong-value',
    '/currencies/a/ends/rate',
  ],
  ['a kind that is none', item('kind: magical'), 'wrong-value', '/items/thing/kind'],
  ['uses of a durable', item('kind: durable, uses: 3'), 'wrong-value', '/items/thing/uses'],
  ['no use at all', item('kind: consumable, uses: 0'), 'wrong-value', '/items/thing/uses'],
  ['a timed thing that does not say how long', item('kind: timed'), 'missing-field', '/items/thing'],
  ['a time of no length', item('kind: timed, lasts: P0D'), 'wrong-value', '/items/thing/lasts'],
  ['a box that holds nothing', item('kind: box'), 'missing-field', '/items/thing'],
  ['a box with a table that is not there', item('kind: box, loot: finds'), 'dangling-reference', '/items/thing/loot'],
  [
    'a key that is not there',
    item('kind: box, gives: {key: 1}, opensWith: {item: kee}'),
    'dangling-reference',
    '/items/thing/opensWith/item',
  ],
  ['a key for what is no box', item('kind: durable, opensWith: {item: key}'), 'wrong-value', '/items/thing/opensWith'],
  ['a use that does nothing', item('kind: consumable, onUse: {}'), 'missing-field', '/items/thing/onUse'],
  [
    'a use that sets what is no attribute',
    item('kind: consumable, onUse: {set: {luck: 1}}'),
    'dangling-reference',
    '/items/thing/onUse/set/luck',
  ],
  [
    'a use that sets a number to a text',
    item('kind: consumable, onUse: {set: {level: high}}'),
    'wrong-value',
    '/items/thing/onUse/set/level',
  ],
  [
    'a use that sets a flag by a number',
    item('kind: consumable, onUse: {set: {pilot: "=level + 1"}}'),
    'bad-formula',
    '/items/thing/onUse/set/pilot',
  ],
  [
    'a use that sets a list',
    item('kind: consumable, onUse: {set: {level: [1]}}'),
    'wrong-type',
    '/items/thing/onUse/set/level',
  ],
  [
    'a yield of nothing',
    item('kind: durable, yields: {every: PT1H, upTo: 3}'),
    'missing-field',
    '/items/thing/yields/gives',
  ],
  [
    'a yield that gathers for no interval',
    item('kind: durable, yields: {gives: {shells: 1}, every: PT1H, upTo: 0}'),
    'wrong-value',
    '/items/thing/yields/upTo',
  ],
  ['a table without entries', loot('picks: 2'), 'missing-field', '/loot/finds/entries'],
  ['picks below zero', loot('picks: -1, entries: {}'), 'wrong-value', '/loot/finds/picks'],
  ['picks from many to few', loot('picks: {from: 3, to: 1}, entries: {}'), 'wrong-value', '/loot/finds/picks'],
  ['a thousand picks', loot('picks: 1000, entries: {}'), 'wrong-value', '/loot/finds/picks'],
  ['an entry without weight', loot('entries: {a: {gives: {wax: 1}}}'), 'missing-field', '/loot/finds/entries/a/weight'],
  ['a weight that is none', loot('entries: {a: {weight: heavy}}'), 'wrong-type', '/loot/finds/entries/a/weight'],
  [
    'a formula as an amount',
    loot('entries: {a: {weight: 1, gives: {wax: "=2"}}}'),
    'bad-amount',
    '/loot/finds/entries/a/gives/wax',
  ],
  [
    'a range that falls',
    loot('entries: {a: {weight: 1, gives: {wax: {from: 3, to: 1}}}}'),
    'bad-amount',
    '/loot/finds/entries/a/gives/wax',
  ],
  [
    'half a thing',
    loot('entries: {a: {weight: 1, gives: {wax: {from: 0.5, to: 2}}}}'),
    'bad-amount',
    '/loot/finds/entries/a/gives/wax',
  ],
  [
    'a guarantee of nothing',
    loot('entries: {a: {weight: 1}}, guarantee: {entry: b, within: 3}'),
    'dangling-reference',
    '/loot/finds/guarantee/entry',
  ],
  [
    'a guarantee within no opening',
    loot('entries: {a: {weight: 1}}, guarantee: {entry: a, within: 0}'),
    'wrong-value',
    '/loot/finds/guarantee/within',
  ],
  [
    'a condition on what nobody knows',
    loot('entries: {a: {weight: 1, when: "=wisdom > 3"}}'),
    'bad-formula',
    '/loot/finds/entries/a/when',
  ],
  [
    'a till that refills what it does not hold',
    shop('till: {holds: {shells: 5}, refill: {gives: {wax: 1}, every: PT1H}}, shelves: {}'),
    'wrong-value',
    '/shops/stall/till/refill/gives/wax',
  ],
  [
    'a till of what is not there',
    shop('till: {holds: {gold: 5}}, shelves: {}'),
    'dangling-reference',
    '/shops/stall/till/holds/gold',
  ],
  ['a buyback of nothing', shop('buyback: {rate: 0.5}, shelves: {}'), 'missing-field', '/shops/stall/buyback'],
  [
    'a buyback without a rate',
    shop('buyback: {groups: [care]}, shelves: {}'),
    'missing-field',
    '/shops/stall/buyback/rate',
  ],
  [
    'a buyback of a group that is not there',
    shop('buyback: {groups: [cares], rate: 0.5}, shelves: {}'),
    'dangling-reference',
    '/shops/stall/buyback/groups/0',
  ],
  [
    'a buyback paid in what is not there',
    shop('buyback: {groups: [care], rate: 0.5, pays: gold}, shelves: {}'),
    'dangling-reference',
    '/shops/stall/buyback/pays',
  ],
  ['money of no currency', offer('price: {money: {euro: 1}}'), 'malformed-id', `${OFFER}/price/money/euro`],
  ['no money', offer('price: {money: {EUR: 0}}'), 'bad-amount', `${OFFER}/price/money/EUR`],
  ['a third of a cent', offer('price: {money: {EUR: 0.333}}'), 'bad-amount', `${OFFER}/price/money/EUR`],
  ['yen with decimals', offer('price: {money: {JPY: 1.5}}'), 'bad-amount', `${OFFER}/price/money/JPY`],
  [
    'a product of a store that is not there',
    offer('price: {money: {EUR: 1}, products: {corner: x}}'),
    'dangling-reference',
    `${OFFER}/price/products/corner`,
  ],
  [
    'two prices in money',
    offer('price: [{money: {EUR: 1}}, {money: {USD: 1}}]'),
    'conflicting-reference',
    `${OFFER}/price`,
  ],
  [
    'a store that keeps more than all',
    'stores: {corner: {name: Corner, fee: 1.2}}',
    'wrong-value',
    '/stores/corner/fee',
  ],
  [
    'a rule that rolls what is not there',
    'events: {e: {}}\nearning: {r: {name: R, on: e, loot: finds}}',
    'dangling-reference',
    '/earning/r/loot',
  ],
  ['an attribute that starts with a list', 'attributes: {luck: {start: [1]}}', 'wrong-type', '/attributes/luck/start'],
  ['a floor above all', 'audit: {bundleFloor: 2}', 'wrong-value', '/audit/bundleFloor'],
  ['a silence of nothing', 'audit: {silenced: {everything: no}}', 'malformed-id', '/audit/silenced/everything'],
];

test.each(WRONG)('%s', (_what, yaml, code, pointer) => {
  const text = yaml.startsWith('attributes') ? yaml : yaml;
  const found = yaml.startsWith('attributes')
    ? economyLoad([{ path: 'test.yaml', text: `name: T\ntimeZone: UTC\n${text}` }]).issues.map((issue) => ({
        code: issue.code,
        pointer: issue.pointer,
        told: issue.fix.length > 5,
      }))
    : issues(text);
  expect(found).toContainEqual({ code, pointer, told: true });
});

test('a flag is a truth in formulas, and nothing else', () => {
  const economy = economyOf(`
attributes: {pilot: {start: false}}
shops: {a: {name: A, when: "=pilot and not (pilot == false)", shelves: {}}}`);
  const scope = { name: () => true, owned: () => 0, balance: () => 0, bought: () => 0 };
  expect(economy.shops.get('a')!.when!.run(scope)).toBe(true);
  expect(issues('shops: {a: {name: A, when: "=pilot > 1", shelves: {}}}')[0]).toMatchObject({
    code: 'bad-formula',
    pointer: '/shops/a/when',
  });
});

test('a real-money price is an alternative of its own, and is never read as free', () => {
  const economy = demoEconomy();
  const [price] = economy.offers.get('pearls_10')!.prices!;
  expect(price).toMatchObject({ kind: 'money', pay: 'money', amounts: { EUR: 99, USD: 109 } });
  const both = documentOf(
    'currencies: {pearls: {name: Pearls, start: 1}}\nshops: {s: {name: S, shelves: {m: {name: M, offers: {p: {gives: {pearls: 5}, price: [{pearls: 4}, {money: {EUR: 1}}]}}}}}}',
  );
  expect(both.shops!['s']!.shelves['m']!.offers['p']!.price).toHaveLength(2);
});

/** Any order of shops, shelves and offers survives the patch and the files, comments included. */
test('orders travel: by patch, by files, and back again', () => {
  const document = demoDocument();
  const shuffled = <T>(entries: Record<string, T>, keys: number[]): Record<string, T> =>
    Object.fromEntries(
      Object.entries(entries)
        .map((entry, index) => ({ entry, key: keys[index % keys.length]! }))
        .sort((a, b) => a.key - b.key)
        .map(({ entry }) => entry),
    );
  fc.assert(
    fc.property(fc.array(fc.integer(), { minLength: 5, maxLength: 40 }), (keys) => {
      const after: EconomyDocument = structuredClone(document);
      after.shops = shuffled(after.shops!, keys);
      for (const one of Object.values(after.shops)) {
        one.shelves = shuffled(one.shelves, keys);
        for (const shelf of Object.values(one.shelves)) shelf.offers = shuffled(shelf.offers, keys);
      }
      const patched = fastJsonPatch.applyPatch(structuredClone(document), documentPatch(document, after)).newDocument;
      expect(JSON.stringify(patched.shops)).toBe(JSON.stringify(after.shops));
      const files = folderWrite(demoFiles(), after);
      expect(JSON.stringify(folderRead(files).raw['shops'])).toBe(JSON.stringify(after.shops));
      expect(files.find(({ path }) => path === 'shops.yaml')!.text).toContain(
        '# Each chime costs more than the one before.',
      );
      expect(documentChanges(document, after).every(({ field }) => field === 'order')).toBe(true);
    }),
    { numRuns: 25 },
  );
});
