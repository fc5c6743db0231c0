import { NOW, economyOf, documentOf } from '../../../tests/support/economy.js';
import { economyAudit } from './index.js';
import { conversionsAt, economyConversions } from './conversions.js';
import { moneyLoops } from './loops.js';
import { Probes } from './probes.js';

const HEAD = `
currencies: {shells: {name: Shells, start: 9}, pearls: {name: Pearls, start: 9}, ribbons: {name: Ribbons, start: 9}}
groups: {tails: {name: Tails}}
`;
const loops = (yaml: string) => {
  const economy = economyOf(HEAD + yaml);
  const conversions = economyConversions(economy, new Probes(economy, documentOf(HEAD + yaml)));
  return moneyLoops(conversionsAt(conversions, NOW)).map(({ asset, steps, takes, gives }) => ({
    asset,
    steps: steps.map(({ words }) => words),
    gain: Number((gives - takes).toFixed(6)),
  }));
};
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

  test('what was bought keeps until a later window opens, and no circle goes back in time', () => {
    const exchange = (from: string, until: string) =>
      found(`
  one: {name: One, from: "2027-03-01", until: "2027-04-01", shelves: {a: {name: A, offers: {to_pearls: {gives: {pearls: 2}, price: {shells: 1}}}}}}
  two: {name: Two, from: "${from}", until: "${until}", shelves: {a: {name: A, offers: {to_shells: {gives: {shells: 1}, price: {pearls: 1}}}}}}`);
    expect(exchange('2027-03-31', '2027-05-01')).toHaveLength(1);
    expect(exchange('2027-04-01', '2027-05-01')).toHaveLength(1);
    // Pearls of March buy shells in February only: too late. From pearls to pearls it is the other way round.
    expect(exchange('2027-02-01', '2027-03-01')[0]).toMatch(
      /from 1 Pearls: buy Shells at Two .* then buy Pearls at One/,
    );
    expect(exchange('2027-02-01', '2027-03-01')).toHaveLength(1);
  });

  test('bought in a sale, sold when a shop opens', () => {
    const buyer = (window: string) =>
      economyAudit(
        documentOf(`${HEAD}
items: {tail: {name: Tail, kind: durable, group: tails, worth: {shells: 10}}}
shops:
  buyer: {name: Buyer, ${window}, buyback: {groups: [tails], rate: 0.5}, shelves: {}}
  ${stall.trim()}
sales: {s: {name: Sale, percent: 60, offers: [tail], from: "2027-03-01", until: "2027-03-08"}}`),
      ).filter(({ code }) => code === 'money-loop');
    expect(buyer('from: "2027-06-01"')).toHaveLength(1);
    expect(buyer('until: "2027-03-01"')).toHaveLength(0);
  });

  test('of a shelf that shows one at a time the second comes another day', () => {
    const shown = (show: number) =>
      found(`
  wagon: {name: Wagon, shelves: {a: {name: A, rotation: {show: ${show}, every: day}, offers: {to_pearls: {gives: {pearls: 2}, price: {shells: 1}}, to_shells: {gives: {shells: 1}, price: {pearls: 1}}}}}}`);
    expect(shown(1)).toHaveLength(1);
    expect(shown(1)[0]).toContain('Pearls: only while it is on show');
  });

  test('a currency that is bought for less than it turns into when it ends', () => {
    const ends = (rate: number) =>
      economyAudit(
        documentOf(`
currencies: {shells: {name: Shells, start: 9}, ribbons: {name: Ribbons, ends: {at: "2027-04-01", into: shells, rate: ${rate}}}}
shops: {booth: {name: Booth, until: "2027-04-01", shelves: {a: {name: A, offers: {ribbons: {gives: {ribbons: 1}, price: {shells: 2}}}}}}}`),
      ).filter(({ code }) => code === 'money-loop');
    expect(ends(2)).toEqual([]);
    expect(ends(5).map(({ message }) => message)).toEqual([
      'a circle that gains 3 Shells a round, from 2 Shells: buy Ribbons at Booth for 2 Shells, then keep Ribbons until they end, for 5 Shells each; limited by Ribbons: once, at their end',
    ]);
  });
});

describe('circles for some players only', () => {
  const BUYER = `
attributes: {level: {start: 1}}
items: {tail: {name: Tail, kind: durable, carry: 9, group: tails, worth: {shells: 10}}}`;
  const found = (offer: string, more = '') =>
    economyAudit(
      documentOf(`${HEAD}${BUYER}
shops: {s: {name: Stall, buyback: {groups: [tails], rate: 0.5}, shelves: {m: {name: M, offers: {tail: ${offer}}}}}}
${more}`),
    )
      .filter(({ code }) => code === 'money-loop')
      .map(({ message }) => message.slice(message.indexOf('limited by')));

  test('a sale with a condition hides none', () => {
    const sale = (when: string) => `sales: {s: {name: Sale, percent: 60, offers: [tail]${when}}}`;
    expect(found('{gives: tail}', sale(''))).toHaveLength(1);
    expect(found('{gives: tail}', sale(', when: "=level >= 3"'))).toEqual([
      'limited by Tail: only while Sale runs, and only if level >= 3',
    ]);
  });

  test('a price that falls with the level, or with what is owned or was bought, is seen where it is low', () => {
    const price = (formula: string) => found(`{gives: tail, price: {shells: "=${formula}"}}`);
    expect(price('if(level >= 7, 4, 20)')).toEqual(['limited by Tail: only while level is 7']);
    expect(price('if(level >= 7, 5, 20)')).toEqual([]);
    expect(price('20 - 2 * owned(tail)')).toEqual(['limited by Tail: only while 8 Tail owned']);
    expect(price('20 - 1.8 * owned(tail)')).toEqual([]);
    expect(found('{gives: tail, price: {shells: "=9 - bought(tail)"}, limits: {lifetime: 6}}')).toEqual([
      'limited by Tail: 6 ever, Tail: only while 5 Tail bought',
    ]);
  });
});

test('of an attribute that is compared with thousands of numbers, some are looked at, and both ends', () => {
  const offers = Array.from(
    { length: 1000 },
    (_, n) => `o${n}: {gives: tail, when: "=level >= ${10 * n + 10}", price: {shells: "=9 * level"}}`,
  );
  const yaml = `${HEAD}attributes: {level: {name: Level, start: 1}}
items: {tail: {name: Tail, kind: durable, group: tails, carry: 9}}
${shop(offers.join(', '))}`;
  const economy = economyOf(yaml);
  const offer = economy.offers.get('o0')!;
  const [choice] = offer.prices!;
  if (choice?.kind !== 'assets') throw new Error('it has a price');
  const seen = new Probes(economy, documentOf(yaml))
    .byAll(offer, choice.basket)
    .map(({ scope }) => scope.name('level'));
  expect([seen.length, Math.min(...seen.map(Number)), Math.max(...seen.map(Number))]).toEqual([201, 1, 10_001]);
});
