import fc from 'fast-check';
import { arbitraryOf } from '../../../tests/support/arbitrary.js';
import { demoDocument, documentOf } from '../../../tests/support/economy.js';
import { documentEdit } from '../catalog/index.js';
import { pointerOf } from '../issue/index.js';
import { blockOf, fieldsOf, isOptional } from '../schema/index.js';
import type { AnySchema, RefKind } from '../schema/index.js';
import { economyCompile } from '../economy/index.js';
import { danglingReferences, documentReferences, usesOf } from './index.js';
import type { EconomyDocument } from './index.js';
import { economySchema } from './schema.js';

const PLANTED = 'planted_thing';
const PLACE = `/items/${PLANTED}/worth/shells`;

interface Place {
  kind: RefKind;
  path: string[];
  /** A value of the schema in which `PLANTED` stands at the place. */
  value: unknown;
}

const sample = (schema: AnySchema): unknown => fc.sample(arbitraryOf(schema), { numRuns: 1, seed: 7 })[0];

/** Every place of a schema that names something, each in the smallest value that holds it. */
function places(schema: AnySchema): Place[] {
  const block = blockOf(schema);
  const below = (key: string, inner: AnySchema, around: (value: unknown) => unknown): Place[] =>
    places(inner).map(({ kind, path, value }) => ({ kind, path: [key, ...path], value: around(value) }));
  switch (block.kind) {
    case 'value':
      return [
        ...(block.ref ? [{ kind: block.ref, path: [], value: PLANTED }] : []),
        ...(block.formula ? [{ kind: 'item' as const, path: [], value: `=owned(${PLANTED}) + 1` }] : []),
      ];
    case 'either':
      return block.options
        .flatMap((option) => places(option.schema))
        .filter(({ value }) => schema.isValidSync(value, { strict: true }));
    case 'list':
      return below('0', block.inner, (value) => [value]);
    case 'map': {
      const planted =
        block.keys.ref === 'place' ? [PLACE, `price ${PLACE}`].find((key) => block.keys.test(key))! : PLANTED;
      const keys = ['wax', 'EUR', 'pt', '/items/wax', 'day'].find((key) => block.keys.test(key))!;
      return [
        ...(block.keys.ref
          ? [{ kind: block.keys.ref, path: [planted], value: { [planted]: sample(block.inner) } }]
          : []),
        ...below(keys, block.inner, (value) => ({ [keys]: value })),
      ];
    }
    case 'fields': {
      const inner = Object.entries(fieldsOf(schema));
      return inner.flatMap(([name, field]) =>
        below(name, field, (value) => ({
          ...Object.fromEntries(
            inner
              .filter(([other, one]) => other !== name && !isOptional(one))
              .map(([other, one]) => [other, sample(one)]),
          ),
          [name]: value,
        })),
      );
    }
  }
}

const NAMED = places(economySchema);
const ALL = NAMED.filter(({ kind }) => kind !== 'place').map(
  (place) => [`${place.kind} in ${pointerOf(place.path)}`, place] as const,
);

/** The thing itself, where things of its kind stand. */
const HOMES: Partial<Record<RefKind, (path: string[]) => string[]>> = {
  goal: () => ['goals'],
  track: () => ['tracks'],
  team: () => ['teams'],
  asset: () => ['currencies'],
  currency: () => ['currencies'],
  item: () => ['items'],
  group: () => ['groups'],
  attribute: () => ['attributes'],
  event: () => ['events'],
  offer: () => ['shops', 'kiosk', 'shelves', 'main', 'offers'],
  loot: () => ['loot'],
  store: () => ['stores'],
  shop: () => ['shops'],
  activity: () => ['activities'],
  persona: () => ['personas'],
  scenario: () => ['scenarios'],
  'loot-entry': (path) => [...path.slice(0, 2), 'entries'],
  'event-field': (path) => ['events', path.at(-2)!, 'fields'],
};

test('the places are those that the domain knows', () => {
  // Sales name shops: the one that a table kept by hand had missed.
  expect(ALL.map(([name]) => name)).toContain('shop in /sales/wax/shops/0');
  expect(ALL.length).toBeGreaterThan(50);
});

test.each(ALL)('what is named there is found, dangles when it goes, and keeps it from going: %s', (_, place) => {
  const document = structuredClone(place.value) as EconomyDocument;
  const at = pointerOf(place.path);
  const here = (list: readonly { id: string; path: readonly string[]; kind: RefKind }[]) =>
    list.filter(({ id, path, kind }) => id === PLANTED && pointerOf(path) === at && kind === place.kind);
  expect(here(documentReferences(document))).toHaveLength(1);
  expect(here(danglingReferences(document))).toHaveLength(1);

  const home = HOMES[place.kind]!(place.path);
  let holder = document as unknown as Record<string, Record<string, unknown>>;
  for (const segment of home) holder = (holder[segment] ??= {}) as typeof holder;
  holder[PLANTED] = {};
  expect(here(danglingReferences(document))).toHaveLength(0);
  const refused = documentEdit(document, { kind: 'remove', pointer: pointerOf([...home, PLANTED]) });
  expect(refused.ok ? [] : refused.uses!.map(({ pointer }) => pointer)).toContain(at);
});

describe('places named by pointer', () => {
  const written = () =>
    documentOf(`
currencies: {shells: {name: Shells}}
items:
  sail: {name: Sail, kind: durable, worth: {shells: 15}}
  tail: {name: Tail, kind: durable, worth: {shells: 5}}
shops:
  pier: {name: Pier, shelves: {main: {name: Main, offers: {sail: {gives: sail, price: {shells: 9}}}}, rare: {name: Rare, offers: {}}}}
personas: {weekender: {name: Weekender, sessions: {perDay: 1, minutes: 9, from: 9, to: 21}, plays: {}, shops: {policy: wishlist, wishes: []}}}
scenarios:
  cheap: {name: Cheap, start: "2027-03-01T00:00", days: 1, players: 1, mix: {weekender: 1}, set: {/items/tail/worth/shells: 4, /shops/pier/shelves/main/offers/sail/price/shells: 8}}
levers: {both: {name: Both, moves: factor, from: 0.5, to: 2, at: [/items/tail/worth/shells, /shops/pier/shelves/main/offers/sail/price/shells]}}
audit: {silenced: {missing-text /items/tail: Later, missing-text /shops/pier/shelves/main/offers/sail: Later}}
`);

  test('everything that names places is known', () => {
    expect(NAMED.filter(({ kind }) => kind === 'place').map(({ path }) => pointerOf(path))).toEqual([
      `/scenarios/wax/set/${PLACE.replaceAll('/', '~1')}`,
      '/levers/wax/at/0',
      `/audit/silenced/price ${PLACE.replaceAll('/', '~1')}`,
    ]);
  });

  test('an override keeps its thing from going, or goes with it; what is silenced goes unasked', () => {
    const refused = documentEdit(written(), { kind: 'remove', pointer: '/items/tail' });
    expect(refused.ok ? [] : refused.uses).toMatchObject([
      {
        words: 'scenario Cheap, set Tail, worth in Shells',
        pointer: '/scenarios/cheap/set/~1items~1tail~1worth~1shells',
      },
    ]);
    expect(usesOf(written(), { kind: 'asset', id: 'tail' })).toMatchObject(refused.ok ? [] : refused.uses!);
    const mended = documentEdit(written(), { kind: 'remove', pointer: '/items/tail', mend: true });
    expect(mended).toMatchObject({ ok: true, notes: ['removed with it: scenario Cheap, set Tail, worth in Shells'] });
    const after = mended.ok ? mended.document : written();
    expect(Object.keys(after.scenarios!['cheap']!.set!)).toEqual(['/shops/pier/shelves/main/offers/sail/price/shells']);
    expect(Object.keys(after.audit!.silenced!)).toEqual(['missing-text /shops/pier/shelves/main/offers/sail']);
    expect(after.levers!['both']!.at).toEqual(['/shops/pier/shelves/main/offers/sail/price/shells']);
  });

  test('what is moved keeps what is set and said of it, in its order', () => {
    const pointer = '/shops/pier/shelves/main/offers/sail';
    const moved = documentEdit(written(), { kind: 'move', pointer, into: '/shops/pier/shelves/rare/offers' });
    const after = moved.ok ? moved.document : written();
    expect(after.scenarios!['cheap']!.set).toEqual({
      '/items/tail/worth/shells': 4,
      '/shops/pier/shelves/rare/offers/sail/price/shells': 8,
    });
    expect(after.audit!.silenced).toEqual({
      'missing-text /items/tail': 'Later',
      'missing-text /shops/pier/shelves/rare/offers/sail': 'Later',
    });
    expect(after.levers!['both']!.at).toEqual([
      '/items/tail/worth/shells',
      '/shops/pier/shelves/rare/offers/sail/price/shells',
    ]);
    expect(danglingReferences(after)).toEqual([]);
  });

  test('an override that leads nowhere is found when it is written, with the one that was meant', () => {
    const document = structuredClone(written());
    document.scenarios!['cheap']!.set = { '/items/tial/worth/shells': 3, '/items/tail/worth/pearls/deep': 1 };
    document.audit!.silenced = { 'missing-text /items/gone': 'Nothing to say.' };
    expect(economyCompile(document).issues).toMatchObject([
      {
        code: 'dangling-reference',
        pointer: '/scenarios/cheap/set/~1items~1tial~1worth~1shells',
        fix: 'Did you mean "/items/tail/worth/shells"?',
      },
      { code: 'dangling-reference', pointer: '/scenarios/cheap/set/~1items~1tail~1worth~1pearls~1deep' },
    ]);
  });
});

test('the demo names nothing that is not there', () => {
  expect(danglingReferences(demoDocument())).toEqual([]);
  expect(documentReferences(demoDocument()).length).toBeGreaterThan(300);
});
