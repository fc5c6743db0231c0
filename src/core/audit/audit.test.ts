import { demoDocument, documentOf, demoFiles } from '../../../tests/support/economy.js';
import { economyLoad } from '../economy/index.js';
import type { EconomyDocument } from '../economy/index.js';
import { AUDIT_RULES, economyAudit, findingCounts } from './index.js';

const offersOf = (document: EconomyDocument) =>
  Object.assign({}, ...Object.values(document.shops!['pier_stall']!.shelves).map(({ offers }) => offers)) as Record<
    string,
    Record<string, unknown>
  >;
const audit = (change: (document: EconomyDocument) => void) => {
  const document = demoDocument();
  change(document);
  return economyAudit(document).map(({ code, pointer, subject }) => ({ code, pointer, subject }));
};

test('nothing is found in the demo economy', () => {
  expect(economyAudit(demoDocument())).toEqual([]);
});

/** For each rule a fault planted in the demo economy, and where it must be found. */
const FAULTS: Record<string, { plant: (document: EconomyDocument) => void; pointer: string; subject: string }> = {
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
      document.items!['brass_key'] = { name: 'Brass Key', kind: 'durable', icon: 'k', description: 'A key.' };
      offersOf(document)['oak_reel']!['price'] = { brass_key: 1 };
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
      document.currencies!['ribbons'] = { name: 'Ribbons' };
    },
    pointer: '/currencies/ribbons',
    subject: 'Ribbons',
  },
  'currency-without-sink': {
    plant: (document) => {
      document.currencies!['ribbons'] = { name: 'Ribbons', start: 5 };
    },
    pointer: '/currencies/ribbons',
    subject: 'Ribbons',
  },
  'limit-never-binds': {
    plant: (document) => {
      offersOf(document)['first_flight_kit']!['limits'] = { lifetime: 1, day: 4 };
    },
    pointer: '/shops/pier_stall/shelves/frames/offers/first_flight_kit/limits/day',
    subject: 'First Flight Kit at Pier Stall',
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

test.each(Object.entries(FAULTS))('%s is found where it is', (code, { plant, pointer, subject }) => {
  expect(audit(plant)).toContainEqual({ code, pointer, subject });
});

test('every finding says a way out', () => {
  for (const { plant } of Object.values(FAULTS)) {
    const document = demoDocument();
    plant(document);
    for (const { fix, message } of economyAudit(document))
      expect([fix, message].every((text) => text.length > 8)).toBe(true);
  }
});

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
  expect(economyAudit(document!, placeOf)[0]).toMatchObject({
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
