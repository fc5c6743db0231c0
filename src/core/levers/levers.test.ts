/** Levers: what they move, where they stand, and what cannot be one. */
import { demoDocument, documentOf } from '../../../tests/support/economy.js';
import { pointerSegments } from '../issue/index.js';
import { overridesApply, valueAt } from '../document/index.js';
import { leverAt, leverNearest, leverNow, leverOf, leverSteps, leversNamed, leversSet } from './index.js';
import type { Lever } from './index.js';

const world = () =>
  documentOf(`
groups: {sails: {name: Sails}}
currencies: {shells: {name: Shells}, pearls: {name: Pearls, decimals: 2}}
items:
  sail: {name: Sail, kind: durable, group: sails, worth: {shells: 15, pearls: 0.25}}
  tail: {name: Tail, kind: durable, worth: {shells: 5}}
  crate: {name: Crate, kind: box, loot: finds}
loot: {finds: {name: Finds, entries: {sail: {weight: 3, gives: {sail: 1}}}}}
stores: {gull: {name: Gull}}
shops:
  pier:
    name: Pier
    shelves:
      main:
        name: Main
        offers:
          sail: {gives: sail, price: [{shells: 9}, {money: {EUR: 1.99}, products: {gull: sail}}], limits: {day: 3}}
          tail: {gives: tail, price: {shells: "=4 + owned(sail)"}}
events: {walk: {fields: {}}}
earning: {walk: {name: Walk, on: walk, chance: 0.8, gives: {shells: 2}}}
levers:
  sails: {name: All sails, group: sails, moves: factor, from: 0.5, to: 2, step: 0.1}
  sail: {name: Sail, at: [/items/sail/worth/shells], moves: value, from: 10, to: 30}
`);

const SAIL = '/shops/pier/shelves/main/offers/sail';
const TAIL = '/shops/pier/shelves/main/offers/tail/price/shells';

function levers(...names: string[]): Lever[] {
  const read = leversNamed(world(), names);
  if (!read.ok) throw new Error(JSON.stringify(read.issues));
  return read.value;
}

test('a group moves all prices of its things by one factor, money that people pay excepted', () => {
  const [sails] = levers('sails');
  expect(sails!.at).toEqual(['/items/sail/worth/shells', '/items/sail/worth/pearls', `${SAIL}/price/0/shells`]);
  expect(leversSet(world(), [{ lever: sails!, value: 1.1 }])).toEqual({
    // 16.5 to whole shells, 0.275 to hundredths of a pearl, 9.9.
    '/items/sail/worth/shells': 17,
    '/items/sail/worth/pearls': 0.28,
    [`${SAIL}/price/0/shells`]: 10,
  });
  expect(leversSet(world(), [{ lever: sails!, value: 1 }])).toEqual({});
});

test('a price never becomes nothing, a formula is multiplied, and numbers stay what they may be', () => {
  const all = levers(
    '/items/tail/worth/shells*0..1',
    `${TAIL}*0.5..2`,
    `${SAIL}/limits/day*0.1..2`,
    '/earning/walk/chance*0.5..3',
    '/loot/finds/entries/sail/weight*0.5..3',
  );
  const set = leversSet(
    world(),
    [0.01, 1.5, 0.1, 3, 0.5].map((value, index) => ({ lever: all[index]!, value })),
  );
  expect(set).toEqual({
    '/items/tail/worth/shells': 1,
    [TAIL]: '=(4 + owned(sail)) * 1.5',
    [`${SAIL}/limits/day`]: 1,
    '/earning/walk/chance': 1,
    '/loot/finds/entries/sail/weight': 1.5,
  });
  const moved = overridesApply(world(), set);
  expect(moved.ok).toBe(true);
});

test('a number is set first, and a factor multiplies what was set, whatever the order', () => {
  const [sails, sail] = levers('sails', 'sail');
  const set = leversSet(world(), [
    { lever: sails!, value: 2 },
    { lever: sail!, value: 20 },
  ]);
  expect(set['/items/sail/worth/shells']).toBe(40);
});

test('where it stands, and by which steps it goes', () => {
  const [sails, sail] = levers('sails', 'sail');
  expect([leverNow(world(), sails!), leverNow(world(), sail!)]).toEqual([1, 15]);
  // Without a step of its own it goes by one that is round.
  expect([sail!.step, leverSteps(sail!), leverAt(sail!, 3), leverNearest(sail!, 15.4)]).toEqual([1, 20, 13, 5]);
  expect([leverSteps(sails!), leverAt(sails!, 6), leverNearest(sails!, 99)]).toEqual([15, 1.1, 15]);
  for (const lever of Object.entries(demoDocument().levers!).map(([id, one]) => leverOf(demoDocument(), id, one)))
    for (const pointer of lever.at) expect(valueAt(demoDocument(), pointerSegments(pointer))).toBeDefined();
});

test.each([
  ['sials', 'there is no lever "sials"', /Did you mean "sails"/],
  ['nothing', 'there is no lever "nothing"', /Levers: sails, sail/],
  ['/items/sail/worth/shells=a..b', 'is no number', /FROM\.\.TO/],
  ['/items/sail/worth/shells=30..10', 'cannot go from 30 up to 10', /smaller number first/],
  ['/items/sail/worth/shells=10..30:40', 'a step of 40 is more', /smaller step/],
  ['/items/sail/name=1..3', 'is no number: "Sail"', /Name a number/],
  ['/items/sial/worth/shells=1..3', 'leads to nothing', /Name a number/],
  [`${TAIL}=1..3`, 'is a formula', /multiply/],
  ['/items/sail/worth/shells*-1..3', 'a factor below 0', /0 or more/],
  ['group:tails*0.5..2', 'it moves nothing', /group that has prices/],
])('%s is refused', (name, problem, fix) => {
  const read = leversNamed(world(), [name]);
  expect(read).toMatchObject({
    ok: false,
    issues: [{ message: expect.stringContaining(problem), fix: expect.stringMatching(fix) }],
  });
});
