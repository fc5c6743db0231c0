/** The kinds of things that others can name: what they are called, and where they stand. */
import type { RefKind } from '../schema/index.js';
import { valueAt } from './pointers.js';
import type { EconomyDocument } from './schema.js';

type Path = readonly string[];

interface Kind {
  /** What it is called in a sentence. */
  word: string;
  /** Where things of this kind stand, `*` being any id; `at` is where it is named. */
  homes(at: Path): Path[];
}

/** A kind whose things stand in the same place for whoever names them. */
const standing = (word: string, ...homes: Path[]): Kind => ({ word, homes: () => homes });
const section = (word: string, name: keyof EconomyDocument): Kind => standing(word, [name]);
export const KINDS: Readonly<Record<RefKind, Kind>> = {
  asset: standing('currency or item', ['currencies'], ['items']),
  currency: section('currency', 'currencies'),
  item: section('item', 'items'),
  group: section('group', 'groups'),
  attribute: section('attribute', 'attributes'),
  event: section('event', 'events'),
  loot: section('loot table', 'loot'),
  store: section('store', 'stores'),
  shop: section('shop', 'shops'),
  activity: section('activity', 'activities'),
  persona: section('persona', 'personas'),
  scenario: section('scenario', 'scenarios'),
  goal: section('goal', 'goals'),
  track: section('track', 'tracks'),
  team: section('kind of team', 'teams'),
  offer: standing('offer', ['shops', '*', 'shelves', '*', 'offers']),
  // Named within the same table, and below the event that has them.
  'loot-entry': { word: 'entry', homes: ([, table]) => [['loot', table!, 'entries']] },
  place: standing('place'),
  'event-field': { word: 'event field', homes: (at) => [['events', at.at(-2)!, 'fields']] },
};

/** The paths that a home stands for in a document: those that exist, `*` being every id there is. */
function homesIn(document: unknown, home: Path): Path[] {
  const star = home.indexOf('*');
  if (star < 0) return valueAt(document, home) === undefined ? [] : [home];
  const before = home.slice(0, star);
  const holder = valueAt(document, before) as Record<string, unknown> | undefined;
  return Object.entries(holder ?? {}).flatMap(([id, one]) =>
    homesIn(one, home.slice(star + 1)).map((rest) => [...before, id, ...rest]),
  );
}

/** What stands in a home, by its path. */
export const thingsIn = (document: EconomyDocument, home: Path): { path: Path; thing: unknown }[] =>
  homesIn(document, home).flatMap((path) =>
    Object.entries(valueAt(document, path) as object).map(([id, thing]) => ({ path: [...path, id], thing })),
  );

/** The ids that stand in a home. */
export const idsIn = (document: EconomyDocument, home: Path): string[] =>
  homesIn(document, home).flatMap((path) => Object.keys(valueAt(document, path) as object));

/** Where the thing stands that is named `id` at the path `at`; undefined where there is none. */
export function thingPath(document: EconomyDocument, kind: RefKind, id: string, at: Path): Path | undefined {
  const homes = KINDS[kind].homes(at).flatMap((home) => homesIn(document, home));
  return homes.map((home) => [...home, id]).find((path) => valueAt(document, path) !== undefined);
}
