import { NOW, economyOf, documentOf } from '../../../tests/support/economy.js';
import { economyAudit } from './index.js';
import { economyConversions } from './conversions.js';
import { moneyLoops } from './loops.js';

const HEAD = `
currencies: {shells: {name: Shells, start: 9}, pearls: {name: Pearls, start: 9}, ribbons: {name: Ribbons, start: 9}}
groups: {tails: {name: Tails}}
`;
const loops = (yaml: string) =>
  moneyLoops(economyConversions(economyOf(HEAD + yaml), NOW)).map(({ asset, steps, takes, gives }) => ({
    asset,
    steps: steps.map(({ words }) => words),
    gain: Number((gives - takes).toFixed(6)),
  }));
const shop = (offers: string, more = '') =>
  `shops: {s: {name: Stall, ${more}shelves: {m: {name: M, offers: {${offers}}}}}}`;

test('an exchange there and back that gains is a circle; one that only keeps its worth is none', () => {
  const exchange = (back: number) =>
    loops(
      shop(`there: {gives: {pearls: 1}, price: {shells: 100}}, back: {gives: {shells: ${back}}, price: {pearls: 1}}`),
    );
  expect(exchange(99)).toEqual([]);
  expect(exchange(100)).toEqual([]);
  expect(exchange(101)).toEqual([
    { asset: 'shells', gain: 1, steps: ['buy Pearls at Stall for 100 Shells', 'buy Shells at Stall for 1 Pearls'] },
  ]);
});

test('a bundle whose parts sell back for more than it costs', () => {
  const items = `items:
  tail: {name: Tail, kind: durable, group: tails, worth: {shells: 40}}
  reel: {name: Reel, kind: durable, group: tails, worth: {shells: 60}}
  kit: {name: Kit, kind: bundle, gives: {tail: 2, reel: 1}}
`;
  const at = (price: number) =>
    loops(items + shop(`kit: {gives: kit, price: {shells: ${price}}}`, 'buyback: {groups: [tails], rate: 0.5}, '));
  expect(at(70)).toEqual([]);
  expect(at(69)).toEqual([
    {
      asset: 'shells',
      gain: 1,
      steps: [
        'buy Kit at Stall for 69 Shells',
        'sell Tail back at Stall for 20 Shells',
        'sell Reel back at Stall for 30 Shells',
      ],
    },
  ]);
});

test('a box with its key, on average, is found and told as one by chance', () => {
  const yaml = (most: number) => `
items:
  key: {name: Key, kind: durable}
  crate: {name: Crate, kind: box, loot: finds, opensWith: {item: key}}
loot: {finds: {name: Finds, entries: {much: {weight: 1, gives: {shells: ${most}}}, none: {weight: 3}}}}
${shop('key: {gives: key, price: {shells: 5}}, crate: {gives: crate, price: {shells: 20}}')}`;
  expect(loops(yaml(100))).toEqual([]);
  expect(loops(yaml(104))[0]).toMatchObject({ asset: 'shells', gain: 1 });
  const codes = economyAudit(documentOf(HEAD + yaml(104))).map(({ code }) => code);
  expect(codes).toContain('money-loop-by-chance');
  expect(codes).not.toContain('money-loop');
});

test('using, three currencies in a row, and paying back by the price paid', () => {
  const flask = `items: {flask: {name: Flask, kind: consumable, uses: 3, onUse: {gives: {shells: 4}}}}\n`;
  expect(loops(flask + shop('flask: {gives: flask, price: {shells: 12}}'))).toEqual([]);
  expect(loops(flask + shop('flask: {gives: flask, price: {shells: 11}}'))).toMatchObject([{ gain: 1 }]);
  const three = shop(
    'a: {gives: {pearls: 2}, price: {shells: 10}}, b: {gives: {ribbons: 3}, price: {pearls: 2}}, c: {gives: {shells: 11}, price: {ribbons: 3}}',
  );
  expect(loops(three)).toHaveLength(1);
  expect(loops(three)[0]!.steps).toHaveLength(3);
  const paid = (rate: number) =>
    loops(
      `items: {tail: {name: Tail, kind: durable, group: tails}}\n${shop('tail: {gives: tail, price: {shells: 10}}', `buyback: {groups: [tails], rate: ${rate}, of: paid}, `)}`,
    );
  expect(paid(1)).toEqual([]);
  expect(paid(1.1)).toHaveLength(1);
});

test('limits that cap a circle are named; what cannot be met or paid in the game closes none', () => {
  const document = documentOf(
    HEAD +
      shop(
        'there: {gives: {pearls: 1}, price: {shells: 10}, limits: {day: 3}, stock: {units: 5}}, back: {gives: {shells: 12}, price: {pearls: 1}, when: "=day >= 1"}',
      ),
  );
  const [loop] = economyAudit(document).filter(({ code }) => code === 'money-loop');
  expect(loop!.message).toBe(
    'a circle that gains 2 Shells a round, from 10 Shells: buy Pearls at Stall for 10 Shells, then buy Shells at Stall for 1 Pearls; limited by Pearls: 3 per day, Pearls: 5 in stock, Shells: only if day >= 1',
  );
  expect(
    loops(
      shop(
        'there: {gives: {pearls: 1}, price: {shells: 10}, hidden: true}, back: {gives: {shells: 12}, price: {pearls: 1}}',
      ),
    ),
  ).toEqual([]);
  expect(
    loops(
      shop('there: {gives: {pearls: 1}, price: {money: {EUR: 1}}}, back: {gives: {shells: 12}, price: {pearls: 1}}'),
    ),
  ).toEqual([]);
});

test('of circles that hold each other only the shortest is told', () => {
  const found = loops(
    shop(
      'a: {gives: {pearls: 1}, price: {shells: 10}}, b: {gives: {shells: 12}, price: {pearls: 1}}, c: {gives: {ribbons: 1}, price: {pearls: 1}}, d: {gives: {pearls: 1}, price: {ribbons: 1}}',
    ),
  );
  expect(found.map(({ steps }) => steps.length)).toEqual([2]);
});

describe('circles over time', () => {
  const found = (shops: string, more = '') =>
    economyAudit(
      documentOf(`${HEAD}
items: {tail: {name: Tail, kind: durable, group: tails, worth: {shells: 10}}, reel: {name: Reel, kind: durable, worth: {pearls: 1}}}
shops:
  buyer: {name: Buyer, buyback: {groups: [tails], rate: 0.5}, shelves: {}}
${shops}
${more}`),
    )
      .filter(({ code }) => code === 'money-loop')
      .map(({ message }) => message);
  const stall = '  stall: {name: Stall, shelves: {a: {name: A, offers: {tail: {gives: tail}}}}}';

  test('a sale that goes below what selling back pays is told, with the sale', () => {
    const sale = (percent: number) =>
      found(
        stall,
        `sales: {s: {name: Sale, percent: ${percent}, offers: [tail], from: "2027-03-01", until: "2027-03-08"}}`,
      );
    expect(sale(50)).toEqual([]);
    expect(sale(60)).toEqual([
      'a circle that gains 1 Shells a round, from 4 Shells: buy Tail at Stall for 4 Shells (Sale), then sell Tail back at Buyer for 5 Shells; limited by Tail: only while Sale runs',
    ]);
  });

  test('two windows that never meet make no circle, and those that do, make one', () => {
    const exchange = (from: string, until: string) =>
      found(`
  one: {name: One, until: "2027-04-01", shelves: {a: {name: A, offers: {to_pearls: {gives: {pearls: 2}, price: {shells: 1}}}}}}
  two: {name: Two, from: "${from}", until: "${until}", shelves: {a: {name: A, offers: {to_shells: {gives: {shells: 1}, price: {pearls: 1}}}}}}`)
        .length;
    expect(exchange('2027-04-01', '2027-05-01')).toBe(0);
    expect(exchange('2027-03-31', '2027-05-01')).toBe(1);
  });

  test('of a shelf that shows one at a time no two offers are together', () => {
    const shown = (show: number) =>
      found(`
  wagon: {name: Wagon, shelves: {a: {name: A, rotation: {show: ${show}, every: day}, offers: {to_pearls: {gives: {pearls: 2}, price: {shells: 1}}, to_shells: {gives: {shells: 1}, price: {pearls: 1}}}}}}`)
        .length;
    expect([shown(1), shown(2)]).toEqual([0, 1]);
  });
});
