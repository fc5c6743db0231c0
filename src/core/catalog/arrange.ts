/** Duplicating and moving shops, shelves, offers and the rest. */
import { SECTIONS, referencesFollow, valueAt } from '../document/index.js';
import type { EconomyDocument } from '../document/index.js';
import { pointerOf, pointerSegments } from '../issue/index.js';
import type { Edited } from './outcome.js';
import { freeId } from '../schema/index.js';
import { nothingAt, refuse } from './outcome.js';

/** A copy with all it holds, right behind the original. Ids that must be unique get a number. */
export interface DuplicateEdit {
  kind: 'duplicate';
  pointer: string;
  /** The copy's name; "... 2" by default. */
  name?: string;
}

/** Puts an offer, shelf or shop before another one of its kind; `into` names another shelf (or shop, for a shelf). */
export interface MoveEdit {
  kind: 'move';
  pointer: string;
  /** The pointer of the group to move into, such as /shops/pier_stall/shelves/care/offers; where it is by default. */
  into?: string;
  /** The id to stand before; at the end by default. */
  before?: string;
}

type Entries = Record<string, unknown>;
/** Whatever is kept by id; a language is there once. */
const DUPLICABLE: readonly string[] = [
  ...SECTIONS.filter((section) => section !== 'texts'),
  'shelves',
  'offers',
  'entries',
];

export function duplicate(document: EconomyDocument, { pointer, name }: DuplicateEdit): Edited {
  const segments = pointerSegments(pointer);
  const original = valueAt(document, segments);
  const group = segments.at(-2) ?? '';
  if (original === undefined) return nothingAt(pointer);
  if (typeof original !== 'object' || original === null || !DUPLICABLE.includes(group))
    return refuse(pointer, 'this cannot be duplicated', `Duplicate one of: ${DUPLICABLE.join(', ')}.`);
  const taken = new Set(
    group === 'items' || group === 'currencies'
      ? [...Object.keys(document.items ?? {}), ...Object.keys(document.currencies ?? {})]
      : group === 'offers'
        ? offerIds(document)
        : Object.keys(valueAt(document, segments.slice(0, -1)) as object),
  );
  const id = freeId(segments.at(-1)!, (one) => taken.has(one));
  const copy = structuredClone(original) as Entries;
  if (name !== undefined) copy['name'] = name;
  else if (typeof copy['name'] === 'string') copy['name'] = `${copy['name']} 2`;
  renameOffers(copy, new Set(offerIds(document)));
  const parent = segments.slice(0, -1);
  replaceEntries(document, parent, (entries) => insertBehind(entries, segments.at(-1)!, id, copy));
  return { ok: true, document, notes: [], made: pointerOf([...parent, id]) };
}

/** Over all shops. */
export const offerIds = (document: EconomyDocument): string[] =>
  Object.values(document.shops ?? {}).flatMap(({ shelves }) =>
    Object.values(shelves).flatMap(({ offers }) => Object.keys(offers)),
  );

/** Offer ids are unique in the whole economy, so those of a copied shop or shelf get new ones. */
function renameOffers(copy: Entries, taken: Set<string>): void {
  const shelves = (copy['shelves'] ?? (copy['offers'] ? { only: copy } : {})) as Record<string, { offers: Entries }>;
  for (const shelf of Object.values(shelves))
    shelf.offers = Object.fromEntries(
      Object.entries(shelf.offers).map(([id, offer]) => {
        const free = freeId(id, (one) => taken.has(one));
        taken.add(free);
        return [free, offer];
      }),
    );
}

function insertBehind(entries: Entries, behind: string, id: string, value: unknown): Entries {
  return Object.fromEntries(
    Object.entries(entries).flatMap(([key, entry]) =>
      key === behind
        ? [
            [key, entry],
            [id, value],
          ]
        : [[key, entry]],
    ),
  );
}

/** Rewrites one group of entries, order included. */
export function replaceEntries(
  document: EconomyDocument,
  path: readonly string[],
  change: (entries: Entries) => Entries,
): void {
  const holder = valueAt(document, path.slice(0, -1)) as Entries;
  holder[path.at(-1)!] = change((holder[path.at(-1)!] ?? {}) as Entries);
}

export function move(document: EconomyDocument, { pointer, into, before }: MoveEdit): Edited {
  const segments = pointerSegments(pointer);
  const id = segments.at(-1)!;
  const value = valueAt(document, segments);
  if (value === undefined) return nothingAt(pointer);
  const from = segments.slice(0, -1);
  const to = into === undefined ? from : pointerSegments(into);
  if (!['shops', 'shelves', 'offers'].includes(from.at(-1) ?? '') || to.at(-1) !== from.at(-1))
    return refuse(pointer, 'only shops, shelves and offers can be moved, among their own kind', 'Name such a group.');
  const target = valueAt(document, to) as Entries | undefined;
  if (!target) return nothingAt(pointerOf(to));
  if (before !== undefined && !Object.hasOwn(target, before)) return nothingAt(pointerOf([...to, before]));
  const same = pointerOf(from) === pointerOf(to);
  if (!same && Object.hasOwn(target, id))
    return refuse(pointer, `"${id}" is already there`, 'Duplicate it there instead, or give it another id.');
  if (before === id) return { ok: true, document, notes: [], made: pointer };
  replaceEntries(document, from, ({ [id]: _gone, ...rest }) => rest);
  replaceEntries(document, to, (entries) => {
    const rest = Object.entries(entries);
    const at = before === undefined ? rest.length : rest.findIndex(([key]) => key === before);
    return Object.fromEntries([...rest.slice(0, at), [id, value], ...rest.slice(at)]);
  });
  const made = pointerOf([...to, id]);
  if (!same) referencesFollow(document, pointer, made);
  return { ok: true, document, notes: [], made };
}
