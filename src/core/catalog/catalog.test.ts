import { parse } from 'csv-parse/sync';
import fc from 'fast-check';
import {
  NOW,
  demoDocument,
  demoEconomy,
  demoFiles,
  documentOf,
  economyOf,
  playerWith,
} from '../../../tests/support/economy.js';
import { SECTIONS } from '../document/index.js';
import { documentChanges, documentPatch, usesOf } from '../document/index.js';
import { economyCompile } from '../economy/index.js';
import { folderRead, folderWrite } from '../files/index.js';
import type { EconomyDocument } from '../document/index.js';
import fastJsonPatch from 'fast-json-patch';
import { assetFlow, csvRead, csvWrite, documentEdit, formulaValues, moneyRows, SHEET_NAMES } from './index.js';
import type { Edit, Edited } from './index.js';

const edit = (document: EconomyDocument, request: Edit): Extract<Edited, { ok: true }> => {
  const edited = documentEdit(document, request);
  if (!edited.ok) throw new Error(JSON.stringify(edited.issues));
  return edited;
};
const refused = (document: EconomyDocument, request: Edit) => {
  const edited = documentEdit(document, request);
  if (edited.ok) throw new Error('it was not refused');
  return edited;
};
const words = (before: EconomyDocument, after: EconomyDocument) =>
  documentChanges(before, after).map((change) => change.words);

describe('CSV', () => {
  test.each([...SHEET_NAMES])('%s go out and come back the same', (sheet) => {
    const document = demoDocument();
    const read = csvRead(document, sheet, csvWrite(document, sheet));
    expect(read.ok && read.document).toEqual(document);
    expect(read.ok && read.notes).toEqual([expect.stringMatching(/^\d+ rows? read, 0 of them new$/)]);
  });

  test('whatever a text holds, it goes out and comes back, and no spreadsheet would run it', () => {
    const text = fc
      .tuple(
        fc.constantFrom('', '=', '+', '-', '@', "'", "'=", '\t=', '"', ',', ';', '\n'),
        fc.string({ maxLength: 20 }),
      )
      .map((parts) => parts.join('').trim())
      .filter((one) => one !== '');
    fc.assert(
      fc.property(text, (description) => {
        const document = demoDocument();
        document.items!['oak_reel']!.description = description;
        const csv = csvWrite(document, 'items');
        const cells = (parse(csv) as string[][]).flat();
        expect(cells.filter((cell) => /^[=+\-@\t\r]/.test(cell))).toEqual([]);
        const read = csvRead(document, 'items', csv);
        expect(read.ok && read.document.items!['oak_reel']!.description).toBe(description);
      }),
    );
  });

  test('semicolons with decimal points are told as that, and read so; decimal commas win where both are there', () => {
    const sheet = (...worths: string[]) =>
      csvRead(
        documentOf(`currencies: { pearls: { name: Pearls, decimals: 2 } }`),
        'items',
        ['id;name;kind;worth', ...worths.map((worth, n) => `reel_${n};Reel;durable;${worth}`)].join('\n'),
      );
    const points = sheet('12.50 pearls', '3 pearls');
    expect(points).toMatchObject({
      ok: true,
      notes: ['2 rows read, 2 of them new', expect.stringContaining('decimal points')],
      document: { items: { reel_0: { worth: { pearls: 12.5 } } } },
    });
    expect(sheet('12.50 pearls', '2,50 pearls')).toMatchObject({
      ok: false,
      problems: [{ line: 2, message: expect.stringContaining('such as 900 shells or 2,50 pearls') as string }],
    });
    expect(sheet('1250 pearls')).toMatchObject({ notes: ['1 row read, 1 of them new'] });
  });

  test('what spreadsheets write is understood: byte-order mark, semicolons, quoted newlines, decimal commas', () => {
    const document = documentOf('currencies: {pearls: {name: Pearls, decimals: 2}}');
    const csv =
      '\ufeffid;name;kind;worth;carry;description\r\nreel;"Oak ""old"" Reel";durable;2,50 pearls;1;"Two\nlines"\r\n\r\n';
    const read = csvRead(document, 'items', csv);
    expect(read).toMatchObject({ ok: true, notes: ['1 row read, 1 of them new'] });
    expect(read.ok && read.document.items!['reel']).toEqual({
      name: 'Oak "old" Reel',
      kind: 'durable',
      worth: { pearls: 2.5 },
      carry: 1,
      description: 'Two\nlines',
    });
  });

  test('cells pasted from a spreadsheet come with tabs; empty ones take a value away, unnamed columns stay', () => {
    const document = demoDocument();
    const read = csvRead(document, 'items', 'id\tname\tdescription\noak_reel\tOak Reel\t\n');
    const before = document.items!['oak_reel']!;
    expect(read.ok && read.document.items!['oak_reel']).toEqual({ ...before, description: undefined });
    expect(read.ok && words(document, read.document)).toEqual([
      'Oak Reel, description: Winds in twice as fast. removed',
    ]);
  });

  test('everything that is wrong is told at once with line and column, and nothing is taken', () => {
    const document = demoDocument();
    const csv = 'id,name,kind,wroth\n';
    expect(csvRead(document, 'items', csv)).toEqual({
      ok: false,
      problems: [{ line: 1, column: 'wroth', message: 'there is no column "wroth" here; did you mean "worth"?' }],
    });
    const rows =
      'id,name,kind,worth,carry\nOak,Oak,durable,1 shells,1\ntin_reel,,durable,lots,x\ntin_reel,Tin,durable,"1,5 shells",1\n';
    const read = csvRead(document, 'items', rows);
    expect(!read.ok && read.problems.map(({ line, column }) => [line, column])).toEqual([
      [2, 'id'],
      [3, 'name'],
      [3, 'worth'],
      [3, 'carry'],
      [4, 'id'],
      [4, 'worth'],
    ]);
    const offers = csvRead(document, 'offers', 'shop,shelf,id,gives\nnowhere,main,kite,oak_reel\n');
    expect(!offers.ok && offers.problems[0]).toMatchObject({ line: 2, column: 'shop' });
    expect(csvRead(document, 'items', 'id,name\n"broken')).toMatchObject({ ok: false, problems: [{ line: 2 }] });
  });
});

describe('where things are used', () => {
  const document = demoDocument();
  test('in prices, bundles, tables, boxes, rules, personas and formulas', () => {
    const where = (id: string) => usesOf(document, { kind: 'asset', id }).map(({ pointer }) => pointer);
    expect(where('drift_frame')).toEqual([
      '/cases/kit_once/steps/0/expect/holds/drift_frame',
      '/items/first_flight_kit/gives/drift_frame',
      '/personas/weekender/shops/wishes/0',
      '/personas/racer/shops/wishes/0',
      '/shops/pier_stall/shelves/frames/offers/drift_frame/gives',
    ]);
    expect(where('brass_key')).toEqual([
      '/cases/wagon_level/steps/2/expect/holds/brass_key',
      '/cases/crate_opens/player/holds/brass_key',
      '/cases/crate_opens/steps/0/expect/holds/brass_key',
      '/items/tide_crate/opensWith/item',
      '/shops/lantern_wagon/shelves/crates/offers/brass_key/gives',
    ]);
    expect(where('wind_chime')).toContain('/shops/pier_stall/shelves/care/offers/wind_chime/price/shells');
    expect(usesOf(document, { kind: 'loot', id: 'rare_finds' })).toHaveLength(2);
    expect(usesOf(document, { kind: 'group', id: 'tails' }).map(({ words: said }) => said)).toContain(
      'shop Pier Stall, buyback groups 0',
    );
    expect(usesOf(document, { kind: 'attribute', id: 'pilot' }).map(({ pointer }) => pointer)).toEqual([
      '/items/pilot_licence/onUse/set/pilot',
      '/shops/pier_stall/shelves/frames/offers/cloud_frame/when',
      '/shops/lantern_wagon/shelves/tonight/offers/twin_frame/when',
    ]);
    expect(usesOf(document, { kind: 'store', id: 'pocket_store' })).toHaveLength(3);
  });
});

describe('removing', () => {
  test('what is used is refused with what would dangle, and with mend goes together with it', () => {
    const document = demoDocument();
    const { uses, issues } = refused(document, { kind: 'remove', pointer: '/items/old_coin' });
    expect(uses!.map(({ pointer }) => pointer)).toEqual([
      '/cases/curios_sell/player/holds/old_coin',
      '/cases/curios_sell/steps/0/sell',
      '/cases/curios_sell/steps/0/expect/holds/old_coin',
      '/loot/rare_finds/entries/old_coin/gives/old_coin',
      '/loot/washed_ashore/entries/old_coin/gives/old_coin',
    ]);
    expect(issues.every(({ fix }) => fix.length > 10)).toBe(true);
    const after = edit(document, { kind: 'remove', pointer: '/items/old_coin', mend: true }).document;
    expect(economyCompile(after).issues).toEqual([]);
    expect(after.loot!['rare_finds']!.entries['old_coin']).toBeUndefined();
    // A case without one of its steps would be another case.
    expect(Object.keys(document.cases!).filter((id) => !after.cases![id])).toEqual(['curios_sell']);
    expect(document.items!['old_coin']).toBeDefined();
  });

  test('places of a list are taken out from the end, the tenth before the second', () => {
    const document = demoDocument();
    const { wishes } = document.personas!['racer']!.shops;
    const others = [
      'gull_frame',
      'storm_frame',
      'comet_tail',
      'ripple_sail',
      'oak_reel',
      'bell_tail',
      'linen_sail',
      'silk_sail',
    ];
    wishes!.splice(
      0,
      wishes!.length,
      others[0]!,
      others[1]!,
      'sea_salt',
      ...others.slice(2),
      'moth_frame',
      'sea_salt',
      'twin_frame',
    );
    const after = edit(document, { kind: 'remove', pointer: '/items/sea_salt', mend: true }).document;
    expect(after.personas!['racer']!.shops.wishes).toEqual([...others, 'moth_frame', 'twin_frame']);
  });

  test('a formula is never mended by guess', () => {
    const edited = refused(demoDocument(), { kind: 'remove', pointer: '/items/wind_chime', mend: true });
    expect(edited.issues[0]!.fix).toMatch(/by hand/);
  });

  test('an alternative price goes alone; the only price takes its offer along, so that nothing becomes free', () => {
    const document = documentOf(`
currencies: {shells: {name: Shells, start: 1}, pearls: {name: Pearls, start: 1}}
items: {kite: {name: Kite, kind: durable, worth: {shells: 1}}}
shops: {s: {name: S, shelves: {m: {name: M, offers: {both: {gives: kite, price: [{shells: 3}, {pearls: 1}]}, one: {gives: kite, price: {pearls: 2}}}}}}}`);
    const after = edit(document, { kind: 'remove', pointer: '/currencies/pearls', mend: true }).document;
    expect(after.shops!['s']!.shelves['m']!.offers).toEqual({ both: { gives: 'kite', price: [{ shells: 3 }] } });
  });

  test('a shop takes its shelves along; what its offers are bought by elsewhere is told', () => {
    const document = documentOf(`
currencies: {shells: {name: Shells}}
items: {kite: {name: Kite, kind: durable}}
shops:
  a: {name: A, shelves: {m: {name: M, offers: {kite: {gives: kite, price: {shells: 1}}}}}}
  b: {name: B, when: "=bought(kite) >= 1", shelves: {m: {name: M, offers: {}}}}`);
    expect(refused(document, { kind: 'remove', pointer: '/shops/a' }).uses).toMatchObject([
      { pointer: '/shops/b/when', cut: null },
    ]);
    expect(edit(document, { kind: 'remove', pointer: '/shops/b' }).document.shops).not.toHaveProperty('b');
  });
});

describe('arranging', () => {
  const order = (document: EconomyDocument) => Object.keys(document.shops!['pier_stall']!.shelves['care']!.offers);

  test('moving is an order that the patch, the words and the files keep', () => {
    const document = demoDocument();
    const pointer = '/shops/pier_stall/shelves/care/offers/pennant';
    const after = edit(document, { kind: 'move', pointer, before: 'wax_1' }).document;
    expect(order(after).slice(0, 2)).toEqual(['pennant', 'wax_1']);
    const patched = fastJsonPatch.applyPatch(structuredClone(document), documentPatch(document, after)).newDocument;
    expect(JSON.stringify(patched)).toBe(JSON.stringify(after));
    expect(words(document, after)).toEqual([`shelf Care at Pier Stall, offers: new order ${order(after).join(', ')}`]);
    const files = folderWrite(demoFiles(), after);
    expect(JSON.stringify(folderRead(files).raw['shops'])).toBe(JSON.stringify(after.shops));
    expect(files.find(({ path }) => path === 'shops.yaml')!.text).toContain('# Volume tiers: the unit price falls.');
  });

  test('an offer moves to another shelf, and back it is as it was', () => {
    const document = demoDocument();
    const into = '/shops/lantern_wagon/shelves/crates/offers';
    const moved = edit(document, {
      kind: 'move',
      pointer: '/shops/pier_stall/shelves/care/offers/pennant',
      into,
      before: 'brass_key',
    });
    expect(Object.keys(moved.document.shops!['lantern_wagon']!.shelves['crates']!.offers).slice(1, 4)).toEqual([
      'tide_crate',
      'pennant',
      'brass_key',
    ]);
    const back = edit(moved.document, {
      kind: 'move',
      pointer: moved.made!,
      into: '/shops/pier_stall/shelves/care/offers',
      before: 'sea_salt',
    });
    expect(JSON.stringify(back.document)).toBe(JSON.stringify(document));
    expect(refused(document, { kind: 'move', pointer: '/items/oak_reel' }).issues).toHaveLength(1);
  });

  test('a shop is duplicated with all it holds, and offers get ids of their own', () => {
    const { document, made } = edit(demoDocument(), { kind: 'duplicate', pointer: '/shops/pier_stall' });
    expect(made).toBe('/shops/pier_stall_2');
    expect(Object.keys(document.shops!)).toEqual([
      'pier_stall',
      'pier_stall_2',
      'lantern_wagon',
      'pearl_counter',
      'festival_booth',
    ]);
    expect(document.shops!['pier_stall_2']!.name).toBe('Pier Stall 2');
    expect(economyCompile(document).issues).toEqual([]);
    expect(Object.keys(document.shops!['pier_stall_2']!.shelves['care']!.offers)).toContain('wax_2');
    const offer = edit(document, {
      kind: 'duplicate',
      pointer: '/shops/pier_stall/shelves/care/offers/wax_1',
      name: 'Wax again',
    });
    expect(offer.made).toBe('/shops/pier_stall/shelves/care/offers/wax_4');
    expect(economyCompile(offer.document).issues).toEqual([]);
  });

  test('one of each section is duplicated, and the economy still stands; a language is not', () => {
    let document = demoDocument();
    const before = structuredClone(document);
    const copied = SECTIONS.filter((section) => section !== 'texts').map((section) => {
      const [id] = Object.keys(document[section] ?? {});
      const edited = edit(document, { kind: 'duplicate', pointer: `/${section}/${id}` });
      document = edited.document;
      return [section, edited.made !== undefined && Object.keys(document[section]!).length];
    });
    expect(copied).toEqual(
      SECTIONS.filter((section) => section !== 'texts').map((section) => [
        section,
        Object.keys(before[section] ?? {}).length + 1,
      ]),
    );
    expect(economyCompile(document).issues).toEqual([]);
    const [language] = Object.keys(before.texts!);
    expect(refused(before, { kind: 'duplicate', pointer: `/texts/${language}` }).issues).toHaveLength(1);
  });
});

describe('repricing', () => {
  test('ten percent more, rounded up to five: exactly, and formulas stay', () => {
    const document = demoDocument();
    const edited = edit(document, {
      kind: 'reprice',
      where: { group: 'festival' },
      asset: 'shells',
      percent: 10,
      round: { to: 5, way: 'up' },
    });
    expect(words(document, edited.document)).toEqual([
      'Flag Garland, worth in Shells: 80 -> 90',
      'Paper Lantern, worth in Shells: 20 -> 25',
      'Pennant, worth in Shells: 25 -> 30',
      'Wind Chime, worth in Shells: 60 -> 70',
      'Wind Chime x3 at Lantern Wagon: 190 -> 210 Shells',
      'Paper Lantern x5 at Lantern Wagon: 80 -> 90 Shells',
    ]);
    expect(edited.notes).toEqual([
      '/shops/pier_stall/shelves/care/offers/wind_chime/price/shells is a formula and stays: =60 * 1.15 ^ owned(wind_chime)',
    ]);
  });

  test('a price never becomes free by rounding, and binary fractions take no part', () => {
    const document = documentOf(`
currencies: {shells: {name: Shells}, pearls: {name: Pearls, decimals: 2}}
items: {a: {name: A, kind: durable, worth: {shells: 1}}, b: {name: B, kind: durable, worth: {pearls: 1.1}}}`);
    const after = edit(document, { kind: 'reprice', where: {}, percent: -60, round: { to: 0, way: 'down' } }).document;
    expect([after.items!['a']!.worth, after.items!['b']!.worth]).toEqual([{ shells: 1 }, { pearls: 0.44 }]);
    // 1.10 and 10 % more is 1.21 to the hundredth, where floating point says 1.2100000000000002.
    const more = edit(document, {
      kind: 'reprice',
      where: { ids: ['b'] },
      percent: 10,
      round: { to: 0, way: 'up' },
    }).document;
    expect(more.items!['b']!.worth).toEqual({ pearls: 1.21 });
  });

  test('up and then down by the same rounding never passes the amount it was rounded from', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 1, max: 1e6 }),
        fc.integer({ min: -99, max: 500 }),
        fc.constantFrom(1, 5, 10, 250),
        (amount, percent, to) => {
          const document = documentOf(
            `currencies: {shells: {name: Shells}}\nitems: {a: {name: A, kind: durable, worth: {shells: ${amount}}}}`,
          );
          const scaled = (way: 'up' | 'down' | 'nearest') => {
            const edited = documentEdit(document, { kind: 'reprice', where: {}, percent, round: { to, way } });
            return (edited.ok ? edited.document : document).items!['a']!.worth!['shells'] as number;
          };
          const exact = (amount * (100 + percent)) / 100;
          const [up, down, nearest] = [scaled('up'), scaled('down'), scaled('nearest')];
          for (const one of [up, down, nearest]) expect(one % to === 0 || one === amount).toBe(true);
          expect(up).toBeGreaterThanOrEqual(exact - 1e-6);
          expect(down <= exact + 1e-6 || down === to).toBe(true);
          expect(Math.abs(nearest - exact)).toBeLessThanOrEqual(Math.max(to / 2, to - exact) + 1e-6);
        },
      ),
    );
  });

  test('of one shop only its own prices change; nothing that fits is told', () => {
    const document = demoDocument();
    const edited = edit(document, { kind: 'reprice', where: { shop: 'pearl_counter' }, percent: 100 });
    expect(words(document, edited.document)).toHaveLength(6);
    expect(refused(document, { kind: 'reprice', where: { tag: 'nothing' }, percent: 5 }).issues[0]!.message).toBe(
      'no price fits that',
    );
  });
});

describe('prices by a rule', () => {
  const worth = (item: string) => `/items/${item}/worth/shells`;
  const frames = ['drift_frame', 'moth_frame', 'gull_frame', 'puffin_frame'].map(worth);

  test('each is so many times the one before, as numbers that people like, or to the unit', () => {
    const document = demoDocument();
    const prices = (request: Omit<Extract<Edit, { kind: 'ladder' }>, 'kind' | 'at'>) => {
      const after = edit(document, { kind: 'ladder', at: frames, ...request }).document;
      return frames.map((at) => after.items![at.split('/')[2]!]!.worth!['shells']);
    };
    expect(prices({ first: 150, factor: 1.5 })).toEqual([150, 230, 350, 500]);
    expect(prices({ first: 150, factor: 1.5, preferred: false })).toEqual([150, 225, 338, 506]);
    // Prices that hardly grow still grow; those that are not to grow are equal.
    expect(prices({ first: 2, factor: 1.01 })).toEqual([2, 3, 4, 5]);
    expect(prices({ first: 200, factor: 1 })).toEqual([200, 200, 200, 200]);
    expect(document.items!['moth_frame']!.worth).toEqual({ shells: 240 });
  });

  test('of a currency with decimals too', () => {
    const document = documentOf(`
currencies: {pearls: {name: Pearls, decimals: 2}}
items: {a: {name: A, kind: durable, worth: {pearls: 1}}, b: {name: B, kind: durable, worth: {pearls: 1}}}`);
    const at = ['/items/a/worth/pearls', '/items/b/worth/pearls'];
    const { items } = edit(document, { kind: 'ladder', at, first: 0.5, factor: 1.7 }).document;
    expect([items!['a']!.worth, items!['b']!.worth]).toEqual([{ pearls: 0.5 }, { pearls: 0.85 }]);
  });

  test.each([
    [{ at: [], first: 1, factor: 2 }, 'no price is named'],
    [{ at: frames, first: 0, factor: 2 }, 'prices cannot begin at 0'],
    [{ at: frames, first: 1.5, factor: 2 }, 'prices cannot begin at 1.5'],
    [{ at: frames, first: 100, factor: 0.9 }, 'prices cannot grow by 0.9'],
    [{ at: frames, first: 1e15, factor: 100 }, 'its price would pass the ceiling of amounts'],
    [{ at: [worth('drift_frame'), worth('drift_frame')], first: 1, factor: 2 }, 'it is named twice'],
    [{ at: [worth('drift_frame'), '/items/moon_frame/worth/pearls'], first: 1, factor: 2 }, 'no price in shells'],
    [{ at: [worth('drift_frame'), '/items/drift_frame/carry'], first: 1, factor: 2 }, 'there is nothing at'],
    [{ at: ['/shops/pier_stall/shelves/care/offers/wind_chime/price/shells'], first: 1, factor: 2 }, 'it is a formula'],
  ])('%j is refused: %s', (request, message) => {
    expect(refused(demoDocument(), { kind: 'ladder', ...request }).issues[0]!.message).toContain(message);
  });
});

describe('volume tiers', () => {
  const pointer = '/shops/pier_stall/shelves/care/offers/storm_wax';
  test('one gesture makes the packs behind the offer, each unit cheaper', () => {
    const document = demoDocument();
    const edited = edit(document, {
      kind: 'tiers',
      pointer,
      tiers: [
        { count: 3, discount: 5 },
        { count: 5, discount: 12.5 },
      ],
    });
    const { offers } = edited.document.shops!['pier_stall']!.shelves['care']!;
    expect([offers['storm_wax_3'], offers['storm_wax_5']]).toEqual([
      { gives: 'storm_wax', count: 3, price: { shells: 114 } },
      { gives: 'storm_wax', count: 5, price: { shells: 175 } },
    ]);
    expect(Object.keys(offers).indexOf('storm_wax_3')).toBe(Object.keys(offers).indexOf('storm_wax') + 1);
    expect(edited.notes).toEqual([
      'Storm Wax x1: 40 shells for each',
      'Storm Wax x3: 38 shells for each',
      'Storm Wax x5: 35 shells for each',
    ]);
  });

  test.each([
    [
      'counts that do not rise',
      pointer,
      [
        { count: 5, discount: 5 },
        { count: 5, discount: 9 },
      ],
    ],
    [
      'discounts that fall',
      pointer,
      [
        { count: 3, discount: 10 },
        { count: 5, discount: 5 },
      ],
    ],
    ['a formula', '/shops/pier_stall/shelves/care/offers/wind_chime', [{ count: 3, discount: 5 }]],
    ['a basket', '/shops/lantern_wagon/shelves/exchange/offers/shell_purse', [{ count: 3, discount: 5 }]],
    ['no offer', '/items/glide_wax', [{ count: 3, discount: 5 }]],
  ])('%s are refused with a way out', (_what, at, tiers) => {
    expect(refused(demoDocument(), { kind: 'tiers', pointer: at, tiers }).issues[0]!.fix.length).toBeGreaterThan(10);
  });
});

test('setting makes the groups on the way, and refuses what no economy could hold', () => {
  const document = demoDocument();
  const after = edit(document, { kind: 'set', pointer: '/items/oak_reel/properties/turns', value: 2 }).document;
  expect(after.items!['oak_reel']!.properties).toEqual({ turns: 2 });
  expect(refused(document, { kind: 'set', pointer: '/items/oak_reel/carry', value: 'many' }).issues[0]).toMatchObject({
    pointer: '/items/oak_reel/carry',
  });
  expect(refused(document, { kind: 'set', pointer: '/items/nothing/here' }).issues[0]!.code).toBe('dangling-reference');
});

test('putting adds whole things, says what it replaces, and refuses what no economy could hold', () => {
  const document = demoDocument();
  const persona = { ...document.personas!['racer']!, name: 'Gull' };
  const { document: after, notes } = edit(document, {
    kind: 'put',
    things: { personas: { gull: persona, racer: persona } },
  });
  expect(notes).toEqual(['personas/racer was there and is replaced.']);
  expect(Object.keys(after.personas!)).toEqual([...Object.keys(document.personas!), 'gull']);
  expect(after.personas!['racer']!.name).toBe('Gull');
  expect(refused(document, { kind: 'put', things: { people: {} } }).issues[0]!.message).toBe(
    'there is no section "people"',
  );
  const never = { personas: { gull: { ...persona, sessions: { perDay: -1, minutes: 5 } } } };
  expect(refused(document, { kind: 'put', things: never }).issues[0]).toMatchObject({
    pointer: '/personas/gull/sessions/perDay',
  });
  expect(document).toEqual(demoDocument());
});

test('where a currency comes from, where it goes, and what it buys', () => {
  const flow = assetFlow(demoDocument(), demoEconomy(), 'ribbons');
  expect(flow.sources.map(({ name, words: said }) => `${name}: ${said}`)).toEqual([
    'Festival Pass: 1 Ribbon every PT6H',
    'loot table Festival surprises: 1 Ribbon to 6 Ribbons, weight 15',
    "earning rule Lantern keeper's thanks: 3 Ribbons on lantern_lit",
  ]);
  expect(flow.sinks.map(({ words: said }) => said)).toEqual(['what is left when it ends']);
  expect(flow.buys.map(({ units }) => units)).toEqual([8, 10, 12, 15, 30, 60]);
});

test('what formulas come to for a player, with what they read', () => {
  const economy = demoEconomy();
  const values = formulaValues(economy, playerWith(economy, { wind_chime: 2 }, { level: 4, pilot: true }), NOW);
  const at = (end: string) => values.find(({ pointer }) => pointer.endsWith(end));
  expect(at('wind_chime/price/shells')).toMatchObject({ value: 79, inputs: [{ name: 'owned(wind_chime)', value: 2 }] });
  expect(at('flight_lesson/price/shells')).toMatchObject({ value: 1000 });
  expect(at('cloud_frame/when')).toMatchObject({ value: true });
  expect(at('twin_frame/when')).toMatchObject({ value: false });
});

test('real money: gross is tax, the share of the store and net, to the cent', () => {
  const rows = moneyRows(demoEconomy());
  expect(rows.filter(({ offer, code }) => offer === 'pearls_55' && code === 'EUR')).toEqual([
    {
      offer: 'pearls_55',
      name: 'Purse of pearls',
      code: 'EUR',
      gross: 499,
      store: 'harbour_store',
      product: 'cove_pearls_55',
      tax: 94,
      fee: 122,
      net: 283,
    },
    {
      offer: 'pearls_55',
      name: 'Purse of pearls',
      code: 'EUR',
      gross: 499,
      store: 'pocket_store',
      product: 'pearls.55',
      tax: 94,
      fee: 61,
      net: 344,
    },
  ]);
  for (const { gross, tax, fee, net } of rows) expect(tax + fee + net).toBe(gross);
  const economy = economyOf(
    'currencies: {p: {name: P}}\nshops: {s: {name: S, shelves: {m: {name: M, offers: {p: {gives: {p: 1}, price: {money: {JPY: 120}}}}}}}}',
  );
  expect(moneyRows(economy)).toMatchObject([{ code: 'JPY', gross: 120, store: null, net: 120 }]);
});
