import { issuesOf } from '../../../tests/support/economy.js';
import { documentValidate } from './index.js';

const item = (fields: string) => `items:\n  kite: {name: Kite, kind: durable, ${fields}}\n`;
const offer = (fields: string) =>
  `${item('carry: 1')}currencies: {shells: {name: Shells}}\nshops:\n  stall:\n    name: Stall\n    shelves:\n      main:\n        name: Main\n        offers:\n          kite: {gives: kite, ${fields}}\n`;

test.each([
  ['an unknown field', item('colour: red'), 'unknown-field', '/items/kite/colour', 4],
  ['a wrong type', item('name2: 5, carry: many'), 'wrong-type', '/items/kite/carry', 4],
  ['an unknown kind', 'items: {kite: {name: Kite, kind: durabel}}', 'wrong-value', '/items/kite/kind', 3],
  ['a malformed id', 'items: {Kite: {name: Kite, kind: durable}}', 'malformed-id', '/items/Kite', 3],
  [
    'an id that objects have already',
    'items: {constructor: {name: Kite, kind: durable}}',
    'malformed-id',
    '/items/constructor',
    3,
  ],
  ['an id with a point', 'items: {a.b: {name: Kite, kind: durable}}', 'malformed-id', '/items/a.b', 3],
  ['a missing name', 'items: {kite: {kind: durable}}', 'missing-field', '/items/kite/name', 3],
  ['an entry without content', 'items:\n  kite:\n', 'missing-field', '/items/kite', 4],
  ['a list where entries belong', 'items: [kite]', 'wrong-type', '/items', 3],
  ['a negative amount', item('worth: {shells: -5}'), 'bad-amount', '/items/kite/worth/shells', 4],
  [
    'an amount past the ceiling',
    item('worth: {shells: 9007199254740993}'),
    'bad-amount',
    '/items/kite/worth/shells',
    4,
  ],
  ['an amount that is a text', item('worth: {shells: "5"}'), 'bad-amount', '/items/kite/worth/shells', 4],
  ['a price that is a word', offer('price: cheap'), 'wrong-value', '/shops/stall/shelves/main/offers/kite/price', 13],
  [
    'a negative price',
    offer('price: {shells: -1}'),
    'bad-amount',
    '/shops/stall/shelves/main/offers/kite/price/shells',
    13,
  ],
  ['an empty list of prices', offer('price: []'), 'wrong-value', '/shops/stall/shelves/main/offers/kite/price', 13],
  [
    'an unknown period',
    offer('price: free, limits: {fortnight: 1}'),
    'malformed-id',
    '/shops/stall/shelves/main/offers/kite/limits/fortnight',
    13,
  ],
  [
    'a limit of 0',
    offer('price: free, limits: {day: 0}'),
    'wrong-value',
    '/shops/stall/shelves/main/offers/kite/limits/day',
    13,
  ],
  [
    'a condition without its sign',
    offer('price: free, when: "level > 3"'),
    'bad-amount',
    '/shops/stall/shelves/main/offers/kite/when',
    13,
  ],
  [
    'a window that is no instant',
    offer('price: free, from: tomorrow'),
    'wrong-value',
    '/shops/stall/shelves/main/offers/kite/from',
    13,
  ],
  [
    'a duration that is none',
    'currencies: {breeze: {name: B, refill: {amount: 1, every: 6 minutes, upTo: 5}}}',
    'wrong-value',
    '/currencies/breeze/refill/every',
    3,
  ],
  [
    'too many decimals for any currency',
    'currencies: {shells: {name: S, decimals: 5}}',
    'wrong-value',
    '/currencies/shells/decimals',
    3,
  ],
  [
    'an override that is no pointer',
    'scenarios: {a: {name: A, start: "2027-01-01", days: 1, players: 1, mix: {}, set: {price: 5}}}',
    'malformed-id',
    '/scenarios/a/set/price',
    3,
  ],
])('%s is told with its place', (_, yaml, code, pointer, line) => {
  expect(issuesOf(yaml)).toContainEqual({ code, pointer, line });
});

test('everything wrong is told at once, not only the first', () => {
  const issues = issuesOf(
    'items:\n  kite: {kind: odd, worth: {shells: -5}, colour: red}\n  Tail: {name: "", kind: durable}\n',
  );
  expect(issues.map(({ code }) => code).sort()).toEqual([
    'bad-amount',
    'malformed-id',
    'missing-field',
    'unknown-field',
    'wrong-value',
    'wrong-value',
  ]);
});

test('a field that is nearly right comes with a suggestion', () => {
  const checked = documentValidate({ name: 'X', timeZone: 'UTC', itmes: {} });
  expect(checked).toMatchObject({
    ok: false,
    issues: [{ code: 'unknown-field', pointer: '/itmes', fix: 'Did you mean "items"?' }],
  });
});

test.each([null, undefined, 5, 'text', []])('%p is not a document', (raw) => {
  expect(documentValidate(raw).ok).toBe(false);
});

test('an unknown time zone is refused', () => {
  expect(documentValidate({ name: 'X', timeZone: 'Europe/Saltwind' })).toMatchObject({
    ok: false,
    issues: [{ pointer: '/timeZone' }],
  });
});

test('properties deeper than allowed are refused without exhausting the stack', () => {
  let deep: unknown = 1;
  for (let level = 0; level < 100; level++) deep = { deep };
  expect(
    documentValidate({
      name: 'X',
      timeZone: 'UTC',
      items: { kite: { name: 'K', kind: 'durable', properties: { deep } } },
    }),
  ).toMatchObject({ ok: false, issues: [{ code: 'too-deep' }] });
});
