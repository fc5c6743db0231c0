import fc from 'fast-check';
import { arbitraryOf } from '../../../tests/support/arbitrary.js';
import { demoDocument } from '../../../tests/support/economy.js';
import { documentEdit } from '../catalog/index.js';
import { pointerOf } from '../issue/index.js';
import { blockOf, fieldsOf, isOptional } from '../schema/index.js';
import type { AnySchema, RefKind } from '../schema/index.js';
import { danglingReferences, documentReferences } from './index.js';
import type { EconomyDocument } from './index.js';
import { economySchema } from './schema.js';

const PLANTED = 'planted_thing';

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
      const keys = ['wax', 'EUR', 'pt', '/items/wax', 'day'].find((key) => block.keys.test(key))!;
      return [
        ...(block.keys.ref
          ? [{ kind: block.keys.ref, path: [PLANTED], value: { [PLANTED]: sample(block.inner) } }]
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

const ALL = places(economySchema).map((place) => [`${place.kind} in ${pointerOf(place.path)}`, place] as const);

/** The thing itself, where things of its kind stand. */
const HOMES: Record<RefKind, (path: string[]) => string[]> = {
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

  const home = HOMES[place.kind](place.path);
  let holder = document as unknown as Record<string, Record<string, unknown>>;
  for (const segment of home) holder = (holder[segment] ??= {}) as typeof holder;
  holder[PLANTED] = {};
  expect(here(danglingReferences(document))).toHaveLength(0);
  const refused = documentEdit(document, { kind: 'remove', pointer: pointerOf([...home, PLANTED]) });
  expect(refused.ok ? [] : refused.uses!.map(({ pointer }) => pointer)).toContain(at);
});

test('the demo names nothing that is not there', () => {
  expect(danglingReferences(demoDocument())).toEqual([]);
  expect(documentReferences(demoDocument()).length).toBeGreaterThan(300);
});
