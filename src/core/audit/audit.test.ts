import { demoDocument, documentOf, demoFiles } from '../../../tests/support/economy.js';
import fastJsonPatch from 'fast-json-patch';
import type { Operation } from 'fast-json-patch';
import { economyLoad } from '../economy/index.js';
import type { EconomyDocument, GoalDocument } from '../document/index.js';
import { DOUBT_FAULTS } from '../../../tests/support/doubtFaults.js';
import { SLIP_FAULTS } from '../../../tests/support/slipFaults.js';
import { TIME_FAULTS } from '../../../tests/support/timeFaults.js';
import { AUDIT_RULES, economyAudit, findingCounts } from './index.js';

const offersOf = (document: EconomyDocument) =>
  Object.assign({}, ...Object.values(document.shops!['pier_stall']!.shelves).map(({ offers }) => offers)) as Record<
    string,
    Record<string, unknown>
  >;
const findingsAfter = (change: (document: EconomyDocument) => void) => {
  const document = demoDocument();
  change(document);
  return economyAudit(document, { pictures: new Set() });
};
const told = (findings: ReturnType<typeof economyAudit>) =>
  findings
    .filter(({ silenced }) => silenced === undefined)
    .map(({ code, pointer, subject }) => ({ code, pointer, subject }));
const audit = (change: (document: EconomyDocument) => void) => told(findingsAfter(change));

test('nothing is found in the demo economy', () => {
  expect(audit(() => undefined)).toEqual([]);
});

/** A goal that is planted. */
const goal = (written: Omit<GoalDocument, 'name'>) => (document: EconomyDocument) => {
  document.goals = { planted: { name: 'Planted', ...written } };
};

/** For each rule a fault planted in the demo economy, and where it must be found. */
const FAULTS: Record<string, { plant: (document: EconomyDocument) => void; pointer: string; subject: string }> = {
  ...TIME_FAULTS,
  ...DOUBT_FAULTS,
  ...SLIP_FAULTS,
  'no-price': {
    plant: (document) => {
      delete document.items!['oak_reel']!.worth;
    },
    pointer: '/shops/pier_stall/shelves/sails/offers/oak_reel',
    subject: 'Oak Reel at Pier Stall',
  },
  'zero-price': {
    plant: (document) => {
      offersOf(document)['wax_1']!['price'] = { shells: 0 };
    },
    pointer: '/shops/pier_stall/shelves/care/offers/wax_1/price/shells',
    subject: 'Glide Wax at Pier Stall',
  },
  unused: {
    plant: (document) => {
      document.loot!['gale_finds'] = { name: 'Gale finds', entries: { wax: { weight: 1, gives: { glide_wax: 1 } } } };
    },
    pointer: '/loot/gale_finds',
    subject: 'Gale finds',
  },
  'price-formula-fails': {
    plant: (document) => {
      offersOf(document)['wax_1']!['price'] = { shells: '=10 - 20 * level' };
    },
    pointer: '/shops/pier_stall/shelves/care/offers/wax_1/price/shells',
    subject: 'Glide Wax at Pier Stall',
  },
  'price-above-cap': {
    plant: (document) => {
      document.items!['storm_frame']!.worth = { shells: 20_001 };
    },
    pointer: '/shops/pier_stall/shelves/frames/offers/storm_frame',
    subject: 'Storm Frame at Pier Stall',
  },
  'price-unreachable': {
    plant: (document) => {
      document.items!['jade_key'] = { name: 'Jade Key', kind: 'durable', icon: 'k', description: 'A key.' };
      offersOf(document)['oak_reel']!['price'] = { jade_key: 1 };
    },
    pointer: '/shops/pier_stall/shelves/sails/offers/oak_reel',
    subject: 'Oak Reel at Pier Stall',
  },
  'own-once-never-buyable': {
    plant: (document) => {
      offersOf(document)['drift_frame']!['count'] = 2;
    },
    pointer: '/shops/pier_stall/shelves/frames/offers/drift_frame/gives',
    subject: 'Drift Frame x2 at Pier Stall',
  },
  'text-states-other-price': {
    plant: (document) => {
      document.items!['oak_reel']!.description = 'Yours for 180 shells!';
    },
    pointer: '/items/oak_reel/description',
    subject: 'Oak Reel at Pier Stall',
  },
  'own-once-stays-buyable': {
    plant: (document) => {
      delete document.items!['oak_reel']!.carry;
    },
    pointer: '/items/oak_reel',
    subject: 'Oak Reel at Pier Stall',
  },
  'item-unobtainable': {
    plant: (document) => {
      offersOf(document)['oak_reel']!['hidden'] = true;
    },
    pointer: '/items/oak_reel',
    subject: 'Oak Reel',
  },
  'currency-without-source': {
    plant: (document) => {
      document.currencies!['tickets'] = { name: 'Tickets' };
    },
    pointer: '/currencies/tickets',
    subject: 'Tickets',
  },
  'currency-without-sink': {
    plant: (document) => {
      document.currencies!['tickets'] = { name: 'Tickets', start: 5 };
    },
    pointer: '/currencies/tickets',
    subject: 'Tickets',
  },
  'limit-never-binds': {
    plant: (document) => {
      offersOf(document)['first_flight_kit']!['limits'] = { lifetime: 1, day: 4 };
    },
    pointer: '/shops/pier_stall/shelves/frames/offers/first_flight_kit/limits/day',
    subject: 'First Flight Kit at Pier Stall',
  },
  'never-on-show': {
    plant: (document) => {
      offersOf(document)['oak_reel']!['when'] = '=1 > 2';
    },
    pointer: '/shops/pier_stall/shelves/sails/offers/oak_reel/when',
    subject: 'Oak Reel at Pier Stall',
  },
  'table-empty': {
    plant: (document) => {
      for (const entry of Object.values(document.loot!['rare_finds']!.entries)) entry.weight = 0;
    },
    pointer: '/loot/rare_finds',
    subject: 'Rare finds',
  },
  'key-unobtainable': {
    plant: (document) => {
      delete document.shops!['lantern_wagon']!.shelves['crates']!.offers['brass_key'];
    },
    pointer: '/items/tide_crate/opensWith',
    subject: 'Tide Crate',
  },
  'money-loop': {
    plant: (document) => {
      document.shops!['pier_stall']!.buyback!.rate = 1.2;
    },
    pointer: '/shops/pier_stall/shelves/sails/offers/ribbon_tail',
    subject: 'Shells',
  },
  'money-loop-by-chance': {
    plant: (document) => {
      document.loot!['drift_finds']!.entries['sea_glass']!.gives = { sea_glass: { from: 40, to: 60 } };
    },
    pointer: '/shops/lantern_wagon/shelves/crates/offers/drift_crate',
    subject: 'Shells',
  },
  'free-without-limit': {
    plant: (document) => {
      offersOf(document)['oak_reel']!['price'] = 'free';
    },
    pointer: '/shops/pier_stall/shelves/sails/offers/oak_reel/price',
    subject: 'Oak Reel at Pier Stall',
  },
  'use-without-end': {
    plant: (document) => {
      document.items!['pilot_licence']!.onUse = { gives: { shells: 1 } };
    },
    pointer: '/items/pilot_licence/onUse',
    subject: "Pilot's Licence",
  },
  'earning-loop': {
    plant: (document) => {
      document.activities!['given_up'] = {
        name: 'Race given up at once',
        minutes: 0.2,
        emits: { race_finished: { place: 5, difficulty: 3 } },
      };
    },
    pointer: '/activities/given_up',
    subject: 'Race given up at once',
  },
  'buyback-at-cost': {
    plant: (document) => {
      document.shops!['pier_stall']!.buyback!.rate = 1;
    },
    pointer: '/shops/pier_stall/buyback/rate',
    subject: 'Oak Reel at Pier Stall',
  },
  'tier-unit-price-rises': {
    plant: (document) => {
      offersOf(document)['wax_5']!['price'] = { shells: 80 };
    },
    pointer: '/shops/pier_stall/shelves/care/offers/wax_5/price',
    subject: 'Glide Wax x5 at Pier Stall',
  },
  'bundle-dearer-than-parts': {
    plant: (document) => {
      offersOf(document)['first_flight_kit']!['price'] = { shells: 300 };
    },
    pointer: '/shops/pier_stall/shelves/frames/offers/first_flight_kit/price',
    subject: 'First Flight Kit at Pier Stall',
  },
  'bundle-below-floor': {
    plant: (document) => {
      offersOf(document)['first_flight_kit']!['price'] = { shells: 100 };
    },
    pointer: '/shops/pier_stall/shelves/frames/offers/first_flight_kit/price',
    subject: 'First Flight Kit at Pier Stall',
  },
  'price-after-end': {
    plant: (document) => {
      delete document.shops!['festival_booth']!.until;
    },
    pointer: '/shops/festival_booth/shelves/ribbons/offers/petal_sail',
    subject: 'Petal Sail at Festival Booth',
  },
  'product-missing': {
    plant: (document) => {
      document.stores!['gull_store'] = { name: 'Gull Store' };
    },
    pointer: '/shops/pearl_counter/shelves/pearls/offers/pearls_55/price',
    subject: 'Purse of pearls at Pearl Counter',
  },
  'goal-incomplete': {
    plant: goal({ counts: 'events', target: 1 }),
    pointer: '/goals/planted',
    subject: 'goal Planted',
  },
  'goal-unreachable': {
    plant: goal({ counts: 'owned', items: ['brass_key', 'oak_reel'], distinct: true, target: 3 }),
    pointer: '/goals/planted',
    subject: 'goal Planted',
  },
  'goal-pays-more': {
    plant: goal({ counts: 'purchases', offers: ['drift_frame'], target: 2, every: 'week', gives: { shells: 301 } }),
    pointer: '/goals/planted',
    subject: 'goal Planted',
  },
  'reward-kept-out': {
    plant: goal({ counts: 'events', event: 'race_finished', target: 1, gives: { breeze: 1000 } }),
    pointer: '/goals/planted',
    subject: 'goal Planted',
  },
  'goal-of-teams': {
    plant: (document) => {
      document.teams = { crew: { name: 'Crew', most: 9 } };
      goal({ counts: 'owned', tags: ['rare'], target: 3, team: 'crew' })(document);
    },
    pointer: '/goals/planted/counts',
    subject: 'goal Planted',
  },
  'ranking-incomplete': {
    plant: (document) => {
      document.rankings = { first: { name: 'First', by: 'earned' } };
    },
    pointer: '/rankings/first',
    subject: 'ranking First',
  },
  'level-cheaper': {
    plant: (document) => {
      document.tracks = {
        flyer: { name: 'Flyer', earns: 'shells', attribute: 'level', levels: { 2: { costs: 10 }, 3: { costs: 9 } } },
      };
    },
    pointer: '/tracks/flyer',
    subject: 'track Flyer',
  },
  'target-incomplete': {
    plant: (document) => {
      document.targets!['shells_do_not_pile_up']!.item = 'oak_reel';
    },
    pointer: '/targets/shells_do_not_pile_up/item',
    subject: 'target Shells do not pile up',
  },
  'target-contradiction': {
    plant: (document) => {
      document.targets!['sooner'] = { ...document.targets!['storm_frame_in_reach']!, name: 'Sooner', from: 2, to: 9 };
    },
    pointer: '/targets/sooner',
    subject: 'target Sooner',
  },
  'target-never-seen': {
    plant: (document) => {
      document.scenarios!['first_month']!.days = 20;
    },
    pointer: '/targets/storm_frame_in_reach',
    subject: expect.stringContaining('Weekenders own') as string,
  },
  'target-never-decided': {
    plant: (document) => {
      document.targets!['never_poor'] = { name: 'Never poor', measure: 'refused', reason: 'not-enough', to: 0 };
    },
    pointer: '/targets/never_poor/to',
    subject: 'target Never poor',
  },
  'lever-without-effect': {
    plant: (document) => {
      document.levers!['storm_frame']!.at = ['/items/storm_frame/name'];
    },
    pointer: '/levers/storm_frame',
    subject: 'lever Storm Frame',
  },
  'weight-not-positive': {
    plant: (document) => {
      document.loot!['drift_finds']!.entries['wax']!.weight = -1;
    },
    pointer: '/loot/drift_finds/entries/wax/weight',
    subject: 'wax in Finds of a drift crate',
  },
  'picture-missing': {
    plant: (document) => {
      document.items!['oak_reel']!.icon = 'pictures/oak_reel.png';
    },
    pointer: '/items/oak_reel/icon',
    subject: 'Oak Reel',
  },
  'stock-never-binds': {
    plant: (document) => {
      offersOf(document)['first_flight_kit']!['stock'] = { units: 4, scope: 'player' };
    },
    pointer: '/shops/pier_stall/shelves/frames/offers/first_flight_kit/stock',
    subject: 'First Flight Kit at Pier Stall',
  },
  'buyback-pays-nothing': {
    plant: (document) => {
      document.items!['driftwood']!.worth = { shells: 1 };
    },
    pointer: '/items/driftwood/worth',
    subject: 'Driftwood at Pier Stall',
  },
  'loot-own-once': {
    plant: (document) => {
      delete document.loot!['tide_finds']!.entries['aurora_sail']!.when;
    },
    pointer: '/loot/tide_finds/entries/aurora_sail',
    subject: 'Aurora Sail in Finds of a tide crate',
  },
  'guarantee-without-effect': {
    plant: (document) => {
      document.loot!['rare_finds']!.guarantee = { entry: 'star_charm', within: 5 };
    },
    pointer: '/loot/rare_finds/guarantee',
    subject: 'Rare finds',
  },
  'ends-without-conversion': {
    plant: (document) => {
      document.currencies!['ribbons']!.ends = { at: '2027-05-10T00:00' };
    },
    pointer: '/currencies/ribbons/ends',
    subject: 'Ribbons',
  },
  'missing-text': {
    plant: (document) => {
      delete document.items!['oak_reel']!.icon;
    },
    pointer: '/items/oak_reel',
    subject: 'Oak Reel',
  },
};

test('there is a planted fault for every rule, and every rule has a line of help', () => {
  expect(Object.keys(FAULTS).sort()).toEqual(AUDIT_RULES.map(({ code }) => code).sort());
  for (const { help } of AUDIT_RULES) expect(help).toMatch(/\.$/);
  expect(new Set(AUDIT_RULES.map(({ code }) => code)).size).toBe(AUDIT_RULES.length);
});

test.each(Object.entries(FAULTS))(
  '%s is found where it is, and whatever is found says a way out',
  (code, { plant, pointer, subject }) => {
    const findings = findingsAfter(plant);
    expect(told(findings)).toContainEqual({ code, pointer, subject });
    for (const { fix, message } of findings) expect([fix, message].every((text) => text.length > 8)).toBe(true);
  },
);

test('a reference to nothing is an error, and the rest is audited all the same', () => {
  const found = audit((document) => {
    offersOf(document)['wax_1']!['gives'] = 'glide_wx';
    delete document.items!['oak_reel']!.worth;
  });
  expect(found.map(({ code }) => code)).toEqual(expect.arrayContaining(['dangling-reference', 'no-price']));
});

test('errors come first, and are counted', () => {
  const findings = economyAudit(
    documentOf(
      'currencies: {shells: {name: Shells, start: 1}}\nitems: {kite: {name: Kite, kind: durable}}\nshops: {s: {name: S, shelves: {m: {name: M, offers: {kite: {gives: kite}}}}}}',
    ),
  );
  expect(findingCounts(findings)).toEqual({ error: 1, warning: 3, hint: 1 });
  expect(findings.map(({ severity }) => severity)).toEqual(['error', 'warning', 'warning', 'warning', 'hint']);
});

test('findings of a folder carry the file, line and column', () => {
  const files = demoFiles().map((file) =>
    file.path === 'items.yaml'
      ? { ...file, text: file.text.replace('Winds in twice as fast.', 'Only 180 shells.') }
      : file,
  );
  const { document, placeOf } = economyLoad(files);
  const line =
    files
      .find(({ path }) => path === 'items.yaml')!
      .text.split('\n')
      .findIndex((text) => text.includes('Only 180')) + 1;
  expect(economyAudit(document!, { placeOf })[0]).toMatchObject({
    code: 'text-states-other-price',
    place: { file: 'items.yaml', line },
  });
});

test('a text that states the real price is let be', () => {
  expect(
    audit((document) => {
      document.items!['oak_reel']!.description = 'Only 200 shells.';
    }),
  ).toEqual([]);
});

test.each([
  ['Yours for 1 pearl!', 1],
  ['Yours for 1 pearlfish!', 0],
])('a text that says "%s" states a price: %d', (text, found) => {
  const findings = audit((document) => {
    document.items!['oak_reel']!.description = text;
  });
  expect(findings.filter(({ code }) => code === 'text-states-other-price')).toHaveLength(found);
});

describe('prices along what is owned and was bought', () => {
  const found = (offer: string, carry = '') =>
    economyAudit(
      documentOf(`
currencies: {shells: {name: Shells, start: 9}}
items: {pennant: {name: Pennant, kind: durable${carry}}}
shops: {s: {name: Stall, shelves: {m: {name: M, offers: {pennant: ${offer}}}}}}`),
    )
      .filter(({ code }) => code === 'zero-price' || code === 'price-formula-fails')
      .map(({ code, message }) => `${code}: ${message}`);
  const price = (formula: string, more = '') => `{gives: pennant, price: {shells: "=${formula}"}${more}}`;

  test('one that comes to 0 after some is found, but not past what limits and carry allow', () => {
    const zero = 'zero-price: =max(0, 50 - 10 * owned(pennant)) comes to 0 Shells for a player with 5 Pennant owned';
    expect(found(price('max(0, 50 - 10 * owned(pennant))'))).toEqual([zero]);
    expect(found(price('max(0, 50 - 10 * owned(pennant))'), ', carry: 6')).toEqual([zero]);
    expect(found(price('max(0, 50 - 10 * owned(pennant))'), ', carry: 5')).toEqual([]);
    const bought = (lifetime: number) =>
      found(price('max(0, 50 - 10 * bought(pennant))', `, limits: {lifetime: ${lifetime}}`));
    expect(bought(5)).toEqual([]);
    expect(bought(6)).toHaveLength(1);
  });

  test('one that fails after some is found too', () => {
    expect(found(price('45 - 10 * owned(pennant)'), ', carry: 6')).toEqual([
      'price-formula-fails: =45 - 10 * owned(pennant) gives -5, not an amount from 0 to the ceiling (owned(pennant) = 5)',
    ]);
  });
});

test('several things in one offer that cost more together than one by one are found', () => {
  const together = (price: number) =>
    audit((document) => {
      document.shops!['pier_stall']!.shelves['care']!.offers['travel_set'] = {
        name: 'Travel set',
        gives: { glide_wax: 2, sea_salt: 1 },
        price: { shells: price },
      };
    }).filter(({ code }) => code === 'bundle-dearer-than-parts');
  // Two Glide Wax for 15 each in the pack of one, less in larger ones, and Sea Salt for 8.
  expect(together(39)).toEqual([
    {
      code: 'bundle-dearer-than-parts',
      pointer: '/shops/pier_stall/shelves/care/offers/travel_set/price',
      subject: 'Travel set at Pier Stall',
    },
  ]);
  expect(together(30)).toEqual([]);
});

describe('what the audit offers to mend', () => {
  const mended = (document: EconomyDocument, code: string) => {
    const { mend } = economyAudit(document).find((finding) => finding.code === code && finding.mend)!;
    return fastJsonPatch.applyPatch(structuredClone(document), mend!.operations as Operation[]).newDocument;
  };
  test.each([
    'own-once-stays-buyable',
    'limit-never-binds',
    'stock-never-binds',
    'weight-not-positive',
    'loot-own-once',
    'guarantee-without-effect',
  ])('taking the way out of %s leaves nothing of it', (code) => {
    const document = demoDocument();
    FAULTS[code]!.plant(document);
    const after = mended(document, code);
    expect(economyAudit(after).filter((finding) => finding.code === code)).toEqual([]);
    expect(economyAudit(after).filter(({ severity }) => severity === 'error')).toEqual([]);
  });
  test('a mistyped id is put right, as a value and as a key', () => {
    const document = demoDocument();
    offersOf(document)['wax_1']!['gives'] = 'glide_wx';
    document.items!['oak_reel']!.worth = { shels: 200 };
    let after = document;
    for (let left = 2; left > 0; left--) after = mended(after, 'dangling-reference');
    expect(economyAudit(after).filter(({ code }) => code === 'dangling-reference')).toEqual([]);
    expect(after.items!['oak_reel']!.worth).toEqual({ shells: 200 });
  });
});

describe('silencing', () => {
  test('a hint is silenced with a reason, and no longer counted', () => {
    const document = demoDocument();
    delete document.items!['oak_reel']!.icon;
    const before = findingCounts(economyAudit(document)).hint;
    document.audit!.silenced!['missing-text /items/oak_reel'] = 'Its picture comes in spring.';
    const findings = economyAudit(document);
    expect(findingCounts(findings).hint).toBe(before - 1);
    expect(findings.find(({ code }) => code === 'missing-text')!.silenced).toBe('Its picture comes in spring.');
  });
  test('an error cannot be silenced, and a silence without effect is told', () => {
    const document = demoDocument();
    delete document.items!['oak_reel']!.worth;
    document.audit!.silenced!['no-price /shops/pier_stall/shelves/sails/offers/oak_reel'] = 'Later.';
    const findings = economyAudit(document);
    expect(findingCounts(findings).error).toBe(1);
    expect(findings.map(({ code }) => code)).toContain('silence-without-effect');
  });
});

test('a gift is let be where it is limited, or owned once and never sold back', () => {
  const gift = (change: object, offer: string) =>
    audit((document) => {
      Object.assign(offersOf(document)[offer]!, { price: 'free' }, change);
    }).filter(({ code }) => code === 'free-without-limit');
  expect(gift({ limits: { lifetime: 1 } }, 'oak_reel')).toEqual([]);
  expect(gift({}, 'gull_frame')).toEqual([]);
});

test('a lesson that is no consumable could be taken without end', () => {
  const found = audit((document) => {
    document.items!['flight_lesson']!.kind = 'durable';
  });
  expect(found).toContainEqual({
    code: 'use-without-end',
    pointer: '/items/flight_lesson/onUse',
    subject: 'Flight Lesson',
  });
});

describe('conditions that nobody can meet', () => {
  const found = (when: string) =>
    audit((document) => {
      offersOf(document)['oak_reel']!['when'] = when;
    }).some(({ code }) => code === 'never-on-show');
  test.each([
    '=level >= 3 and level < 3',
    '=level > 5 and level < 5.5 and level == 2',
    '=level > 3 and level < 3',
    '=platform == "phone" and platform == "desk"',
    '=pilot and not pilot',
    '=owned(glide_wax) > 3 and owned(glide_wax) < 2',
    '=day < 0 and level > 1 and level < 1',
    '=1 > 2',
  ])('%s is told', (when) => expect(found(when)).toBe(true));
  test.each([
    '=level >= 3 and level < 4',
    '=level > 3 and level < 3.5 or pilot',
    '=not (level < 900)',
    '=level > 3 and level < 3.5',
    '=platform == "desk" or platform == "phone"',
    '=owned(glide_wax) == 0 and bought(wax_5) >= 7',
    '=level * 3 == 21',
    '=min(level, 4) == 4 and max(level, 2) < 900',
    '=level - 7 > 100',
    '=balance(shells) >= 10000 and pilot',
  ])('%s is let be', (when) => expect(found(when)).toBe(false));
});

describe('goals that nobody reaches', () => {
  const why = (goals: NonNullable<EconomyDocument['goals']>): string[] =>
    economyAudit({ ...demoDocument(), goals })
      .filter(({ code }) => code === 'goal-unreachable')
      .map(({ message }) => message);
  const name = 'Planted';

  test.each<[Omit<GoalDocument, 'name'>, string | undefined]>([
    [{ counts: 'purchases', offers: ['drift_frame'], target: 1 }, undefined],
    [{ counts: 'purchases', groups: ['festival'], target: 0.5 }, undefined],
    [{ counts: 'owned', items: ['brass_key'], target: 100_000_000 }, 'a player may hold'],
    [{ counts: 'earned', currency: 'pearls', target: 1 }, undefined],
    [{ counts: 'earned', currency: 'breeze', target: 1 }, undefined],
    [{ counts: 'spent', currency: 'breeze', target: 1 }, 'nothing on show costs'],
    [{ counts: 'attribute', attribute: 'level', target: 900 }, undefined],
    [{ counts: 'attribute', attribute: 'platform', target: 2 }, 'the attribute is no number'],
    [{ counts: 'attribute', attribute: 'level', target: 1 }, undefined],
    [{ counts: 'events', event: 'race_finished', by: 0, target: 1 }, 'each event counts 0'],
  ])('%j', (written, told) => {
    const found = why({ planted: { name, ...written } });
    expect(found).toEqual(told === undefined ? [] : [expect.stringContaining(told)]);
  });

  test('three that wait for each other are told, one that waits for them is not part of the circle', () => {
    const goal = (after: string) => ({ name, counts: 'events' as const, event: 'race_finished', target: 1, after });
    expect(why({ a: goal('b'), b: goal('c'), c: goal('a'), d: goal('a') })).toHaveLength(3);
  });
});

test('prices that come to nothing are found, and trouble no hint about what a new player can buy', () => {
  const offers = Array.from({ length: 9 }, (_, place) => `o${place}: {gives: kite, price: {shells: "=level - 1"}}`);
  const found = economyAudit(
    documentOf(
      `attributes: {level: {start: 1}}\ncurrencies: {shells: {name: Shells}}\nitems: {kite: {name: Kite, kind: durable, carry: 1}}\nshops: {s: {name: S, shelves: {m: {name: M, offers: {${offers.join(', ')}}}}}}`,
    ),
  ).map(({ code }) => code);
  expect(found).toContain('zero-price');
  expect(found).not.toContain('start-buys-nearly-all');
});
