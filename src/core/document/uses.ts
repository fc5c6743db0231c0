/** Where a thing is used: every reference of a document, by one table of places. */
import { pointerWords, valueAt } from './changes.js';
import type { EconomyDocument } from './schema.js';
import { pointerOf, pointerSegments } from '../issue/index.js';

export const THING_KINDS = [
  'asset',
  'group',
  'attribute',
  'event',
  'offer',
  'loot',
  'store',
  'activity',
  'persona',
] as const;
export type ThingKind = (typeof THING_KINDS)[number];

/** A thing that others refer to. */
export interface Thing {
  kind: ThingKind;
  id: string;
}

export interface Use extends Thing {
  pointer: string;
  /** Where, in words: "Storm Frame at Pier Stall, price in Shells". */
  words: string;
  /** What would have to go if the thing went; null where a person must decide, as in a formula. */
  cut: string | null;
}

/**
 * Where ids stand. `*` is any key, `#` any list index, and the last segment is the id itself, as a key or as the value.
 * `cut`: how many segments of the path to remove if the id goes; the whole by default.
 */
const PLACES: readonly { path: string; kind: ThingKind; cut?: number }[] = [
  { path: 'currencies.*.ends.into', kind: 'asset', cut: 3 },
  { path: 'items.*.group', kind: 'group' },
  { path: 'items.*.worth.*', kind: 'asset' },
  { path: 'items.*.gives.*', kind: 'asset' },
  { path: 'items.*.loot', kind: 'loot' },
  { path: 'items.*.opensWith.item', kind: 'asset', cut: 3 },
  { path: 'items.*.onUse.set.*', kind: 'attribute' },
  { path: 'items.*.onUse.gives.*', kind: 'asset' },
  { path: 'items.*.yields.gives.*', kind: 'asset' },
  { path: 'loot.*.entries.*.gives.*', kind: 'asset', cut: 4 },
  { path: 'loot.*.entries.*.table', kind: 'loot', cut: 4 },
  { path: 'shops.*.till.holds.*', kind: 'asset' },
  { path: 'shops.*.till.refill.gives.*', kind: 'asset' },
  { path: 'shops.*.buyback.groups.#', kind: 'group' },
  { path: 'shops.*.buyback.items.#', kind: 'asset' },
  { path: 'shops.*.buyback.pays', kind: 'asset' },
  { path: 'shops.*.shelves.*.offers.*.gives', kind: 'asset', cut: 6 },
  { path: 'shops.*.shelves.*.offers.*.gives.*', kind: 'asset', cut: 6 },
  { path: 'shops.*.shelves.*.offers.*.price.*', kind: 'asset', cut: 6 },
  { path: 'shops.*.shelves.*.offers.*.price.#.*', kind: 'asset', cut: 8 },
  { path: 'shops.*.shelves.*.offers.*.price.products.*', kind: 'store' },
  { path: 'shops.*.shelves.*.offers.*.price.#.products.*', kind: 'store' },
  { path: 'sales.*.offers.#', kind: 'offer' },
  { path: 'sales.*.groups.#', kind: 'group' },
  { path: 'sales.*.price.*', kind: 'asset', cut: 2 },
  { path: 'earning.*.on', kind: 'event', cut: 2 },
  { path: 'earning.*.loot', kind: 'loot' },
  { path: 'earning.*.gives.*', kind: 'asset' },
  { path: 'earning.*.takes.*', kind: 'asset' },
  { path: 'activities.*.needs.*', kind: 'asset' },
  { path: 'activities.*.emits.*', kind: 'event' },
  { path: 'personas.*.attributes.*', kind: 'attribute' },
  { path: 'personas.*.plays.*', kind: 'activity' },
  { path: 'personas.*.shops.wishes.#', kind: 'asset' },
  { path: 'personas.*.shops.keeps.*', kind: 'asset' },
  { path: 'scenarios.*.mix.*', kind: 'persona' },
];

const VALUE_PLACES = new Set(['into', 'group', 'loot', 'item', 'table', 'pays', 'gives', 'on', '#']);
const LOOKUP_KINDS: Readonly<Record<string, ThingKind>> = { owned: 'asset', balance: 'asset', bought: 'offer' };

interface Branch {
  next: Map<string, Branch>;
  place?: { kind: ThingKind; cut: number; isValue: boolean };
}

const ROOT = planted();
function planted(): Branch {
  const root: Branch = { next: new Map() };
  for (const { path, kind, cut } of PLACES) {
    const steps = path.split('.');
    let branch = root;
    for (const step of steps) {
      if (!branch.next.has(step)) branch.next.set(step, { next: new Map() });
      branch = branch.next.get(step)!;
    }
    branch.place = { kind, cut: cut ?? steps.length, isValue: VALUE_PLACES.has(steps.at(-1)!) };
  }
  return root;
}

type Found = Omit<Use, 'words'>;

/** Every reference, in document order. Linear in the document. */
export function documentUses(document: EconomyDocument): Found[] {
  const found: Found[] = [];
  const attributes = Object.keys(document.attributes ?? {});
  const visit = (value: unknown, path: readonly string[], branches: readonly Branch[]): void => {
    const id = path.at(-1);
    for (const { place } of branches) {
      if (!place) continue;
      const named = place.isValue ? value : id;
      if (typeof named === 'string')
        found.push({
          kind: place.kind,
          id: named,
          pointer: pointerOf(path),
          cut: pointerOf(path.slice(0, place.cut)),
        });
    }
    if (typeof value === 'string' && value.startsWith('=')) found.push(...formulaUses(value, path, attributes));
    if (typeof value !== 'object' || value === null) return;
    const index = Array.isArray(value) ? '#' : '*';
    for (const [key, inner] of Object.entries(value)) {
      const below = branches.flatMap(({ next }) => {
        // A fixed word goes before any key, so that `products` in a price is no asset.
        const step = next.get(key) ?? next.get(index);
        return step ? [step] : [];
      });
      visit(inner, [...path, key], below);
    }
  };
  visit(document, [], [ROOT]);
  return found.filter(({ id }) => id !== 'money');
}

function formulaUses(text: string, path: readonly string[], attributes: readonly string[]): Found[] {
  const pointer = pointerOf(path);
  const bare = text.replace(/"[^"]*"|'[^']*'/g, '');
  const lookups = [...bare.matchAll(/\b(owned|balance|bought)\s*\(\s*([a-z]\w*)/g)].map(([, lookup, id]) => ({
    kind: LOOKUP_KINDS[lookup!]!,
    id: id!,
    pointer,
    cut: null,
  }));
  const words = new Set(bare.match(/[a-z]\w*/g));
  const named = attributes
    .filter((id) => words.has(id))
    .map((id) => ({ kind: 'attribute' as const, id, pointer, cut: null }));
  return [...lookups, ...named];
}

/** Where one thing is used, in words. */
export function usesOf(document: EconomyDocument, thing: Thing): Use[] {
  return documentUses(document)
    .filter(({ kind, id }) => kind === thing.kind && id === thing.id)
    .map((use) => ({ ...use, words: placeWords(document, use.pointer) }));
}

function placeWords(document: EconomyDocument, pointer: string): string {
  const { subject, field } = pointerWords(pointer, document);
  return field ? `${subject}, ${field}` : subject;
}

/** What a pointer leads to as a thing that others may refer to; undefined for what nothing refers to. */
export function thingsAt(document: EconomyDocument, pointer: string): Thing[] {
  const segments = pointerSegments(pointer);
  const [section, id] = segments;
  const kind = SECTION_KINDS[section ?? ''];
  if (segments.length === 2 && kind) return [{ kind, id: id! }];
  if (section !== 'shops') return [];
  // A shop or shelf that goes takes its offers along.
  const offers: Thing[] = [];
  const visit = (value: unknown, depth: number): void => {
    if (typeof value !== 'object' || value === null) return;
    for (const [key, inner] of Object.entries(value)) {
      if (depth === 5) offers.push({ kind: 'offer', id: key });
      else if (depth % 2 === 1 || key === 'shelves' || key === 'offers') visit(inner, depth + 1);
    }
  };
  if (segments.length === 6) return [{ kind: 'offer', id: segments[5]! }];
  visit(valueAt(document, segments), segments.length);
  return offers;
}

const SECTION_KINDS: Readonly<Record<string, ThingKind>> = {
  currencies: 'asset',
  items: 'asset',
  groups: 'group',
  attributes: 'attribute',
  events: 'event',
  loot: 'loot',
  stores: 'store',
  activities: 'activity',
  personas: 'persona',
};
