import fc from 'fast-check';
import { NOW, demoEconomy, economyOf, issuesOf, playerWith } from '../../../tests/support/economy.js';
import type { Box, Economy, LootTable } from '../economy/index.js';
import { playerScope } from '../player/index.js';
import { keyOf, randomStream } from '../random/index.js';
import { boxOdds, lootOdds, lootRoll, playerLoot } from './index.js';

const ITEMS = `
currencies: {shells: {name: Shells, decimals: 1}}
items:
  wax: {name: Wax, kind: consumable}
  charm: {name: Charm, kind: consumable}
  sail: {name: Sail, kind: durable, carry: 1}
  kit: {name: Kit, kind: bundle, gives: {wax: 2, charm: 1}}
`;
const scopeOf = (economy: Economy, holds = {}) => playerScope(economy, playerWith(economy, holds), NOW);
const oddsOf = (yaml: string, table = 'top', holds = {}) => {
  const economy = economyOf(`${ITEMS}loot:\n${yaml}`);
  return lootOdds(economy, economy.loot.get(table)!, scopeOf(economy, holds));
};
const of = (odds: ReturnType<typeof oddsOf>, asset: string) => odds.assets.find((one) => one.asset === asset)!;

describe('exact odds', () => {
  test('weights are shares, ranges have their mean, and nothing may come', () => {
    const odds = oddsOf(`
  top:
    name: Top
    entries:
      wax: {weight: 3, gives: {wax: {from: 1, to: 3}}}
      shells: {weight: 1, gives: {shells: {from: 0, to: 0.3}}}
      nothing: {weight: 4}
`);
    expect(of(odds, 'wax').chance).toBeCloseTo(3 / 8, 14);
    expect(of(odds, 'wax').expected).toBeCloseTo(6 / 8, 14);
    // Four amounts from 0 to 3 tenths, one of which is none at all.
    expect(of(odds, 'shells').chance).toBeCloseTo((1 / 8) * (3 / 4), 14);
    expect(of(odds, 'shells').expected).toBeCloseTo(1.5 / 8, 14);
    expect(odds.nothing).toBeCloseTo(4 / 8 + 1 / 32, 14);
    expect(odds.entries.map(({ times }) => times)).toEqual([3 / 8, 1 / 8, 4 / 8]);
  });

  test('nesting, several picks and bundles multiply out', () => {
    const odds = oddsOf(`
  top: {name: Top, picks: 2, entries: {rare: {weight: 1, table: rare}, none: {weight: 3}}}
  rare: {name: Rare, picks: {from: 1, to: 2}, entries: {sail: {weight: 1, gives: {sail: 1}}, kit: {weight: 4, gives: {kit: 1}}}}
`);
    const inRare = 0.5 * (1 / 5) + 0.5 * (1 - (4 / 5) ** 2);
    expect(of(odds, 'sail').chance).toBeCloseTo(1 - (1 - inRare / 4) ** 2, 14);
    expect(of(odds, 'charm').expected).toBeCloseTo(2 * 0.25 * 1.5 * 0.8, 14);
    expect(of(odds, 'wax').expected).toBeCloseTo(2 * of(odds, 'charm').expected, 14);
    expect(odds.assets.map(({ asset }) => asset)).not.toContain('kit');
  });

  test('entries whose condition fails, or whose weight is not above 0, are not drawn', () => {
    const yaml = `
  top:
    name: Top
    entries:
      sail: {weight: 1, gives: {sail: 1}, when: "=owned(sail) == 0"}
      wax: {weight: 1, gives: {wax: 1}}
      never: {weight: 0, gives: {charm: 1}}
`;
    expect(of(oddsOf(yaml), 'sail').chance).toBe(0.5);
    expect(oddsOf(yaml, 'top', { sail: 1 }).assets.map(({ asset }) => asset)).toEqual(['wax']);
    expect(oddsOf(yaml, 'top', { sail: 1 }).entries.map(({ times }) => times)).toEqual([0, 1, 0]);
  });

  /** Sums over every order of draws, which is exact and slow. */
  function bruteForce(weights: number[], picks: number, wanted: (drawn: number[]) => number): number {
    const visit = (drawn: number[], chance: number): number => {
      const left = weights.map((_, index) => index).filter((index) => !drawn.includes(index));
      if (drawn.length === picks || left.length === 0) return chance * wanted(drawn);
      const total = left.reduce((sum, index) => sum + weights[index]!, 0);
      return left.reduce((sum, index) => sum + visit([...drawn, index], (chance * weights[index]!) / total), 0);
    };
    return visit([], 1);
  }

  test('drawing without replacement agrees with the sum over all orders, to 1e-12', () => {
    fc.assert(
      fc.property(
        fc.array(fc.oneof(fc.integer({ min: 1, max: 1000 }), fc.constantFrom(0.001, 1e6)), {
          minLength: 2,
          maxLength: 6,
        }),
        fc.integer({ min: 1, max: 6 }),
        (weights, picks) => {
          const entries = weights
            .map((weight, index) => `e${index}: {weight: ${weight}, gives: {${index === 0 ? 'sail' : 'wax'}: 1}}`)
            .join(', ');
          const odds = oddsOf(`  top: {name: Top, distinct: true, picks: ${picks}, entries: {${entries}}}`);
          const sail = bruteForce(weights, picks, (drawn) => (drawn.includes(0) ? 1 : 0));
          const wax = bruteForce(weights, picks, (drawn) => drawn.filter((index) => index !== 0).length);
          expect(Math.abs(of(odds, 'sail').chance - sail)).toBeLessThan(1e-12);
          expect(Math.abs(odds.entries[0]!.times - sail)).toBeLessThan(1e-12);
          expect(Math.abs(of(odds, 'wax').expected - wax)).toBeLessThan(1e-11);
        },
      ),
      { numRuns: 60 },
    );
  });

  test('the guarantee: the first opening, the long run, and how many openings are needed', () => {
    const odds = oddsOf(`
  top:
    name: Top
    entries: {sail: {weight: 1, gives: {sail: 1}}, wax: {weight: 9, gives: {wax: 1}}}
    guarantee: {entry: sail, within: 5}
`);
    const sail = of(odds, 'sail');
    expect(sail.chance).toBeCloseTo(0.1, 14);
    // A wait lasts 1, 2, 3 or 4 openings by luck, 5 otherwise.
    const meanWait = 1 + 0.9 + 0.9 ** 2 + 0.9 ** 3 + 0.9 ** 4;
    expect(sail.longRunChance).toBeCloseTo(1 / meanWait, 14);
    expect(sail.openings).toMatchObject({ half: 5, nine: 5, most: 5 });
    expect(sail.curve.map(({ share }) => share)).toEqual(
      [0.1, 1 - 0.9 ** 2, 1 - 0.9 ** 3, 1 - 0.9 ** 4, 1].map((share) => expect.closeTo(share, 13)),
    );
  });

  test('without a guarantee the openings follow the geometric law', () => {
    const odds = oddsOf('  top: {name: Top, entries: {sail: {weight: 1, gives: {sail: 1}}, none: {weight: 9}}}');
    expect(of(odds, 'sail').openings).toMatchObject({ half: 7, nine: 22, most: 44 });
    expect(1 - 0.9 ** 7).toBeGreaterThanOrEqual(0.5);
    expect(1 - 0.9 ** 6).toBeLessThan(0.5);
  });
});

describe('rolling', () => {
  /** What the demo's tables give in 20,000 openings against the odds: within five standard errors. */
  test.each(['drift_finds', 'tide_finds', 'festival_finds'])('%s comes as its odds say', (id) => {
    const economy = demoEconomy();
    const table = economy.loot.get(id)!;
    const trials = 20_000;
    const random = randomStream(3, id);
    const first = scopeOf(economy);
    const { once } = lootOdds(economy, table, first);
    // What comes once has come: the long run is of the openings after that.
    const scope = once.length > 0 ? { ...first, owned: () => 1 } : first;
    const odds = lootOdds(economy, table, scope);
    expect(odds.once).toEqual([]);
    for (const { asset, longRunChance } of lootOdds(economy, table, first).assets)
      expect(longRunChance).toBeCloseTo(odds.assets.find((one) => one.asset === asset)?.longRunChance ?? 0, 10);
    const seen = new Map<string, { with: number; units: number }>();
    let since = 0;
    for (let n = 0; n < trials; n++) {
      const rolled = lootRoll(economy, table, scope, random, since);
      since = rolled.since;
      for (const [asset, units] of Object.entries(rolled.gives)) {
        const tally = seen.get(asset) ?? { with: 0, units: 0 };
        seen.set(asset, { with: tally.with + (units > 0 ? 1 : 0), units: tally.units + units });
      }
    }
    for (const { asset, longRunChance, longRunExpected } of odds.assets) {
      const { with: hits, units } = seen.get(asset) ?? { with: 0, units: 0 };
      const error = Math.sqrt((longRunChance * (1 - longRunChance)) / trials);
      expect(Math.abs(hits / trials - longRunChance)).toBeLessThan(5 * error + 1e-9);
      expect(units / trials / longRunExpected).toBeGreaterThan(0.8);
      expect(units / trials / longRunExpected).toBeLessThan(1.25);
    }
  });

  test('the guaranteed entry comes at the latest in the N-th opening, and a distinct table never repeats', () => {
    const economy = demoEconomy();
    const table = economy.loot.get('tide_finds')!;
    fc.assert(
      fc.property(fc.integer(), (seed) => {
        let player = playerWith(economy, {});
        const waits: number[] = [];
        for (let n = 0, wait = 0; n < 60; n++) {
          const rolled = playerLoot(economy, player, table.id, NOW, keyOf(seed, n));
          player = rolled.player;
          wait++;
          if (rolled.drawn.includes('aurora_sail')) {
            waits.push(wait);
            wait = 0;
          }
        }
        expect(Math.max(...waits)).toBeLessThanOrEqual(12);
        const { drawn } = playerLoot(economy, player, 'festival_finds', NOW, keyOf(seed));
        expect(new Set(drawn).size).toBe(3);
      }),
      { numRuns: 40 },
    );
  });

  test('the same keys draw the same, on whatever machine', () => {
    const economy = demoEconomy();
    const draw = () => playerLoot(economy, playerWith(economy, {}), 'drift_finds', NOW, keyOf(7, 'ines', 1));
    expect(draw()).toEqual(draw());
    expect(draw().gives).toMatchInlineSnapshot(`
{
  "glide_wax": 4,
}
`);
  });
});

test('a box has what it always gives and what its table draws', () => {
  const economy = demoEconomy();
  const odds = boxOdds(economy, economy.items.get('tide_crate') as Box, scopeOf(economy));
  expect(odds.assets[0]).toMatchObject({ asset: 'sea_salt', chance: 1, expected: 5, openings: { most: 1 } });
  expect(odds.nothing).toBe(0);
});

test('a bundle in a box counts as what it unpacks into', () => {
  const economy = economyOf(`${ITEMS}  chest: {name: Chest, kind: box, gives: {kit: 2}}`);
  const odds = boxOdds(economy, economy.items.get('chest') as Box, scopeOf(economy));
  expect(odds.assets.map(({ asset, expected }) => [asset, expected])).toEqual([
    ['wax', 4],
    ['charm', 2],
  ]);
});

test('tables that reach themselves, entries that do two things, and names that lead nowhere are told', () => {
  expect(
    issuesOf(`${ITEMS}loot:
  a: {name: A, entries: {b: {weight: 1, table: b}}}
  b: {name: B, entries: {a: {weight: 1, table: a}, both: {weight: 1, table: c, gives: {wax: 1}}, gone: {weight: 1, table: nowhere}}}
  c: {name: C, entries: {x: {weight: 1, gives: {wx: 1}}}, guarantee: {entry: y, within: 3}}
`).map(({ code, pointer }) => [code, pointer]),
  ).toEqual([
    ['dangling-reference', '/loot/b/entries/gone/table'],
    ['dangling-reference', '/loot/c/entries/x/gives/wx'],
    ['dangling-reference', '/loot/c/guarantee/entry'],
    ['wrong-value', '/loot/b/entries/both'],
    ['circular-table', '/loot/b/entries/a/table'],
  ]);
});

test('a table of 300 entries without replacement is worked out', () => {
  const entries = Array.from({ length: 300 }, (_, index) => `e${index}: {weight: ${index + 1}, gives: {wax: 1}}`);
  const economy = economyOf(
    `${ITEMS}loot: {top: {name: Top, distinct: true, picks: 10, entries: {${entries.join(', ')}}}}`,
  );
  const table: LootTable = economy.loot.get('top')!;
  const odds = lootOdds(economy, table, scopeOf(economy));
  expect(odds.assets[0]!.expected).toBeCloseTo(10, 11);
  expect(odds.entries.reduce((sum, { times }) => sum + times, 0)).toBeCloseTo(10, 11);
});

describe('until all of a set are had', () => {
  const needed = (loot: string, together: string[]) => {
    const economy = economyOf(`${ITEMS}loot: {t: ${loot}}`);
    return lootOdds(economy, economy.loot.get('t')!, scopeOf(economy), {}, together).together!;
  };

  test('one of three at each opening: five and a half openings on average, by the harmonic sum', () => {
    const even = needed(
      '{name: T, entries: {a: {weight: 1, gives: {wax: 1}}, b: {weight: 1, gives: {charm: 1}}, c: {weight: 1, gives: {shells: 1}}}}',
      ['wax', 'charm', 'shells'],
    );
    // 3 (1 + 1/2 + 1/3); all after n: 1 - 3 (2/3)^n + 3 (1/3)^n.
    expect(even.mean).toBeCloseTo(5.5, 12);
    const share = (n: number) => 1 - 3 * (2 / 3) ** n + 3 * (1 / 3) ** n;
    const first = (least: number) => Array.from({ length: 50 }, (_, n) => n).find((n) => n >= 3 && share(n) >= least);
    expect([even.half, even.nine, even.most]).toEqual([first(0.5), first(0.9), first(0.99)]);
  });

  test('what comes together needs no more than one of it, and a set of one is that one', () => {
    const both = '{name: T, entries: {a: {weight: 1, gives: {wax: 1, charm: 1}}, nothing: {weight: 3}}}';
    expect(needed(both, ['wax', 'charm'])).toMatchObject({ mean: expect.closeTo(4, 12) as number, half: 3 });
    expect(needed(both, ['wax', 'charm', 'wax'])).toEqual(needed(both, ['wax', 'charm']));
    expect(needed(both, ['wax'])).toMatchObject({ mean: expect.closeTo(4, 12) as number, half: 3 });
    // Without replacement both come at once.
    const two =
      '{name: T, picks: 2, distinct: true, entries: {a: {weight: 1, gives: {wax: 1}}, b: {weight: 9, gives: {charm: 1}}}}';
    expect(needed(two, ['wax', 'charm'])).toMatchObject({ mean: 1, half: 1, most: 1 });
  });

  test('a guarantee ends the wait: the mean of what comes at the latest with the third opening', () => {
    const table =
      '{name: T, entries: {a: {weight: 1, gives: {charm: 1}}, b: {weight: 3, gives: {wax: 1}}}, guarantee: {entry: a, within: 3}}';
    // 1/4 + 2 * 3/4 * 1/4 + 3 * (3/4)^2.
    expect(needed(table, ['charm'])).toMatchObject({ mean: expect.closeTo(2.3125, 12) as number, most: 3 });
    // Both: wax is missing only where the first openings gave charms.
    const both = needed(table, ['charm', 'wax']).mean!;
    // From no charm and no wax: c after k misses, or w after charms; summed by hand over the first opening.
    // First wax (3/4): then a charm within two more, 1/4 + 2 * 3/4 = 1.75 on average. First charm (1/4): wax by 3/4 each, 4/3.
    expect(both).toBeCloseTo(1 + 0.75 * 1.75 + 0.25 * (4 / 3), 12);
  });

  test('what never comes is said to', () => {
    expect(needed('{name: T, entries: {a: {weight: 1, gives: {wax: 1}}}}', ['wax', 'charm'])).toEqual({
      assets: ['wax', 'charm'],
      mean: null,
      half: null,
      nine: null,
      most: null,
    });
  });
});
