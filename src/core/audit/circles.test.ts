/** Circles that were played by somebody and that the audit did not see. Each with a harmless one beside it. */
import { documentOf, economyOf } from '../../../tests/support/economy.js';
import { economyAudit } from './index.js';

const HEAD = `
attributes: {level: {start: 1}, team: {start: none}}
groups: {kites: {name: Kites}}
currencies: {shells: {name: Shells, start: 9}, pearls: {name: Pearls, start: 9}, ribbons: {name: Ribbons, cap: 900}}
events: {race: {fields: {place: number}}}
earning: {prize: {name: Prize, on: race, gives: {shells: 3, ribbons: 1}}}
`;
const codes = (yaml: string): string[] =>
  economyAudit(documentOf(HEAD + yaml))
    .map(({ code }) => code)
    .filter((code) => code.startsWith('money-loop') || code === 'goal-pays-more' || code === 'gives-nothing');
const message = (yaml: string, code: string): string | undefined =>
  economyAudit(documentOf(HEAD + yaml)).find((one) => one.code === code)?.message;

const SELLS = (of: string, rate: number, offers: string, items = '') => `
items:
  frame: {name: Frame, kind: durable, carry: 9, group: kites, worth: {shells: 44}}
  wax: {name: Wax, kind: consumable, carry: 200, group: kites, worth: {shells: 2}}
  kit: {name: Kit, kind: bundle, gives: {frame: 1, wax: 3}}
  ${items}
shops: {pier: {name: Pier, buyback: {groups: [kites], rate: ${rate}, of: ${of}}, shelves: {m: {name: M, offers: {${offers}}}}}}
`;

test('what unpacks and sells back by the price paid, one part here and the other there', () => {
  expect(codes(SELLS('paid', 0.5, 'kit: {gives: kit, price: {shells: 50}}'))).toEqual([]);
  const twice = SELLS('paid', 1.2, 'kit: {gives: kit, price: {shells: 50}}');
  expect(message(twice, 'money-loop')).toMatch(
    /buy Kit at Pier for 50 Shells, sell Frame and Wax back at Pier for a part/,
  );
  // A part of what was paid for the frame, and the worth of the wax somewhere else.
  const mixed = (worth: number) =>
    codes(
      SELLS('paid', 1, 'both: {gives: {frame: 1, wax: 3}, price: {shells: 50}}').replace(
        'shops: {',
        `shops: {den: {name: Den, buyback: {items: [wax], rate: ${worth}, pays: shells}, shelves: {}}, `,
      ),
    );
  expect(mixed(1)).toEqual([]);
  expect(mixed(2)).toContain('money-loop');
});

const LOW = (condition: string, low: number, attribute = '') =>
  codes(
    `${SELLS('worth', 0.5, `frame: {gives: frame, price: {shells: "=if(${condition}, ${low}, 90)"}}`)}\n${attribute}`,
  );

test.each([
  ['text in single quotes', "team == 'harbour'", ''],
  ['text in double quotes', 'team == \\"harbour\\"', ''],
  ['the number on the left', '12 <= level', ''],
  [
    'a level that a track brings',
    'level % 5 == 4',
    'tracks: {t: {name: T, earns: ribbons, attribute: level, further: {to: 9, costs: "=level"}}}',
  ],
  [
    'a level that a goal sets',
    'level > 30',
    'goals: {g: {name: G, counts: events, event: race, target: 3, sets: {level: 40}}}',
  ],
  ['the balance of another currency', 'balance(ribbons) >= 70', ''],
  ['a day that nobody names', 'day % 7 == 3', ''],
  ['a count above 60', 'owned(wax) >= 150', ''],
])('a low price by %s', (_, condition, more) => {
  expect(LOW(condition, 21, more)).toContain('money-loop');
  expect(LOW(condition, 22, more)).toEqual([]);
});

test('a level that using a thing brings, again and again', () => {
  const yaml = (low: number) =>
    codes(
      SELLS(
        'worth',
        0.5,
        `frame: {gives: frame, price: {shells: "=if(level == 7, ${low}, 90)"}}, pill: {gives: pill, price: {pearls: 1}}`,
        'pill: {name: Pill, kind: consumable, onUse: {set: {level: "=level + 2"}}}',
      ),
    );
  expect(yaml(21)).toContain('money-loop');
  expect(yaml(22)).toEqual([]);
});

test('exchanges, uses and boxes that give by level or by what is owned', () => {
  const exchange = (most: number) =>
    codes(
      SELLS(
        'worth',
        0.5,
        `out: {gives: {pearls: "=if(level >= 3, ${most}, 1)"}, price: {shells: 10}}, back: {gives: {shells: 10}, price: {pearls: 5}}`,
      ),
    );
  expect(exchange(5)).toEqual([]);
  expect(exchange(6)).toContain('money-loop');
  const flask = (most: number) =>
    codes(
      SELLS(
        'worth',
        0.5,
        'flask: {gives: flask, price: {shells: 10}}',
        `flask: {name: Flask, kind: consumable, onUse: {gives: {shells: "=if(owned(frame) > 2, ${most}, 1)"}}}`,
      ),
    );
  expect(flask(10)).toEqual([]);
  expect(flask(11)).toContain('money-loop');
  const crate = (most: number) =>
    codes(
      `${SELLS('worth', 0.5, 'crate: {gives: crate, price: {shells: 10}}', 'crate: {name: Crate, kind: box, loot: finds}')}
loot: {finds: {name: Finds, entries: {few: {weight: 1, gives: {shells: 1}, when: "=level < 4"}, many: {weight: 1, gives: {shells: ${most}}, when: "=level >= 4"}}}}`,
    );
  expect(crate(10)).toEqual([]);
  expect(crate(11)).toContain('money-loop-by-chance');
});

describe('goals and levels that pay more than they cost', () => {
  const goal = (goals: string, more = '', offers = 'wax: {gives: wax, price: {shells: 10}}') =>
    codes(`${SELLS('worth', 0.5, offers, more)}\ngoals: {${goals}}`);

  test('in the same currency, as a thing that sells back, swapped, and drawn', () => {
    const buys = (gives: string) => `g: {name: G, counts: purchases, offers: [wax], target: 3, every: week, ${gives}}`;
    // Three for 30, which sell back for 3.
    expect(goal(buys('gives: {shells: 27}'))).toEqual([]);
    expect(goal(buys('gives: {shells: 28}'))).toEqual(['goal-pays-more']);
    expect(goal(buys('gives: {frame: 1}'))).toEqual([]);
    expect(goal(buys('gives: {frame: 2}'))).toEqual(['goal-pays-more']);
    const swap = 'wax: {gives: wax, price: {shells: 10}}, swap: {gives: {shells: 7}, price: {pearls: 1}}';
    expect(goal(buys('gives: {pearls: 3}'), '', swap)).toEqual([]);
    expect(goal(buys('gives: {pearls: 4}'), '', swap)).toEqual(['goal-pays-more']);
    const loot = (most: number) =>
      `${buys('loot: finds')}}\nloot: {finds: {name: Finds, entries: {a: {weight: 1, gives: {shells: ${most}}}, b: {weight: 1}}}`;
    expect(goal(loot(54))).toEqual([]);
    expect(goal(loot(56))).toEqual(['goal-pays-more']);
  });

  test('against a purchase in a sale, with its limits told', () => {
    const yaml = (most: number) => `${SELLS('worth', 0.5, 'wax: {gives: wax, price: {shells: 10}}')}
goals: {g: {name: G, counts: spent, currency: shells, target: 20, gives: {wax: ${most}}}}
sales: {s: {name: Sale, offers: [wax], percent: 80, from: "2027-03-01", until: "2027-03-08"}}`;
    // Ten of them for 20, which sell back for 10; ten more make it even.
    expect(codes(yaml(10))).toEqual([]);
    expect(codes(yaml(11))).toEqual(['goal-pays-more']);
    expect(message(yaml(11), 'goal-pays-more')).toBe(
      'a circle that gains 1 Shells a round, from 20 Shells: 10 times: buy Wax at Pier for 2 Shells (Sale), which reaches G, then sell Wax back at Pier for 1 Shells; limited by Wax: only while Sale runs, G: once',
    );
  });

  test('of a team; two by the same purchases; one that only the other opens; levels by what is opened', () => {
    const crew =
      'g: {name: G, counts: purchases, offers: [wax], target: 5, team: crew, gives: {shells: 99}}}\nteams: {crew: {name: Crew, most: 9}';
    expect(goal(crew)).toEqual(['goal-pays-more']);
    const two = (gives: number) =>
      `g: {name: G, counts: purchases, offers: [wax], target: 3, gives: {shells: 14}}, h: {name: H, counts: spent, currency: shells, target: 30, gives: {shells: ${gives}}}`;
    expect(goal(two(13))).toEqual([]);
    expect(goal(two(14))).toEqual(['goal-pays-more']);
    const chain = (gives: number) =>
      `g: {name: G, counts: purchases, offers: [wax], target: 1}, h: {name: H, counts: purchases, offers: [wax], target: 2, after: g, gives: {shells: ${gives}}}`;
    expect(goal(chain(27))).toEqual([]);
    expect(goal(chain(28))).toEqual(['goal-pays-more']);
    const levels = (gives: number) =>
      codes(
        `${SELLS('worth', 0.5, 'crate: {gives: crate, price: {shells: 10}}', 'crate: {name: Crate, kind: box, gives: {ribbons: 5}}')}
tracks: {t: {name: T, earns: ribbons, attribute: level, levels: {"2": {costs: 20, gives: {shells: ${gives}}}}}}`,
      );
    expect(levels(39)).toEqual([]);
    expect(levels(40)).toEqual(['goal-pays-more']);
  });

  test('of different things, and of a level that is bought', () => {
    const tails = (gives: number) =>
      `${SELLS('worth', 0.5, 'frame: {gives: frame, price: {shells: 30}}, wax: {gives: wax, price: {shells: 2}}')}
goals: {g: {name: G, counts: owned, items: [frame, wax], distinct: true, target: 2, gives: {shells: ${gives}}}}`;
    expect(codes(tails(9))).toEqual([]);
    expect(codes(tails(10))).toEqual(['goal-pays-more']);
    const pill = (gives: number) =>
      codes(
        `${SELLS('worth', 0.5, 'pill: {gives: pill, price: {shells: 10}}', 'pill: {name: Pill, kind: consumable, onUse: {set: {level: "=level + 1"}}}')}
goals: {g: {name: G, counts: attribute, attribute: level, target: 3, gives: {shells: ${gives}}}}`,
      );
    expect(pill(20)).toEqual([]);
    expect(pill(21)).toEqual(['goal-pays-more']);
  });
});

test.each([
  ['{}', true],
  ['{wax: 0}', true],
  ['{wax: "=0"}', true],
  ['{wax: "=level - 1"}', true],
  ['{wax: "=level - 1"}, when: "=level >= 2"', false],
  ['{wax: "=level"}', false],
  ['hollow', true],
])('an offer that gives %s: paid and nothing given is an error', (gives, isTold) => {
  const yaml = SELLS(
    'worth',
    0.1,
    `one: {gives: ${gives}, price: {shells: 5}}`,
    'hollow: {name: Hollow, kind: bundle, gives: {wax: 0}}',
  );
  expect(economyOf(HEAD + yaml).offers.size).toBe(1);
  expect(codes(yaml).includes('gives-nothing')).toBe(isTold);
});
