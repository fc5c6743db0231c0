/**
 * Everything in a document that names something else. The places are not listed anywhere: a block of the schema that
 * names something says of what kind (`refTo`, `ids`), and the document is walked along the schema.
 */
import { formulaMentions } from '../formula/index.js';
import type { LookupName } from '../formula/index.js';
import { MOST_PROBLEMS, nearestName, pointerOf, pointerSegments } from '../issue/index.js';
import type { Mend } from '../issue/index.js';
import { REF_KINDS, blockOf, fieldsOf, isFormula, isOptional, isRecord, marksOf } from '../schema/index.js';
import type { AnySchema, Block, RefKind } from '../schema/index.js';
import { pointerWords } from './changes.js';
import { KINDS, idsIn, thingPath } from './kinds.js';
import { valueAt } from './pointers.js';
import { economySchema } from './schema.js';
import type { EconomyDocument } from './schema.js';

type Path = readonly string[];

export interface Reference {
  kind: RefKind;
  id: string;
  path: Path;
  /** The path of what would have to go if the thing went; null where a person must decide, as in a formula. */
  cut: Path | null;
  /** Only said of the thing, as the silencing of a finding is: it goes with it unasked. */
  aside: boolean;
}

const LOOKUP_KINDS: Readonly<Record<LookupName, RefKind>> = { owned: 'item', balance: 'currency', bought: 'offer' };

/** Every reference, in document order. Linear in the document. */
export function documentReferences(document: EconomyDocument): Reference[] {
  const found: Reference[] = [];
  const attributes = Object.keys(document.attributes ?? {});

  // One path for the whole walk, copied only where something is found: most of a document names nothing.
  const path: string[] = [];
  const add = (kind: RefKind, id: string, cut: number | null, aside = false): void => {
    found.push({ kind, id, path: [...path], cut: cut === null ? null : path.slice(0, cut), aside });
  };
  const formulaVisit = (text: string): void => {
    const { lookups, words } = formulaMentions(text);
    for (const { lookup, id } of lookups) add(LOOKUP_KINDS[lookup], id, null);
    for (const id of attributes) if (words.has(id)) add('attribute', id, null);
  };

  /**
   * `takes`: how long the path is of what goes with anything in it; `needed`: whether the group that holds the value
   * needs it; `isAll`: whether that goes for what stands in its lists too.
   */
  const visit = (
    { block, goes, fields }: Naming,
    value: unknown,
    takes: number | undefined,
    needed: boolean,
    isAll: boolean,
  ): void => {
    if (goes === 'throughout' && !isAll && isRecord(value)) {
      const at = pointerOf(path);
      const known = namedWithin.get(value);
      if (known?.at === at) {
        for (const one of known.references) found.push(one);
        return;
      }
      const first = found.length;
      visit({ block, goes, fields }, value, takes, needed, true);
      namedWithin.set(value, { at, references: found.slice(first) });
      return;
    }
    const all = goes === 'throughout' || (isAll && goes !== 'part');
    const cut = goes === 'whole' || goes === 'throughout' ? path.length : goes === 'part' ? undefined : takes;
    const below = (key: string, inner: Naming | undefined, taken: number | undefined, neededInner: boolean): void => {
      const one = (value as Record<string, unknown>)[key];
      if (!inner || one === undefined || one === null) return;
      path.push(key);
      visit(inner, one, taken, neededInner, all);
      path.pop();
    };
    if (block.kind === 'value') {
      if (typeof value !== 'string') return;
      if (block.formula) formulaVisit(value);
      if (block.ref) add(block.ref, value, cut ?? path.length - (needed ? 1 : 0), block.aside);
    } else if (block.kind === 'either') {
      const shape = block.options.find(({ fits }) => fits(value));
      const inner = shape && namingOf(shape.schema);
      if (inner) visit(inner, value, cut, needed, all);
    } else if (block.kind === 'list') {
      const inner = namingOf(block.inner);
      if (Array.isArray(value))
        for (let index = 0; index < value.length; index++)
          below(String(index), inner, all ? cut : path.length + 1, false);
    } else if (isRecord(value)) {
      if (block.kind === 'fields')
        for (const key of Object.keys(value)) {
          const field = fields!.get(key);
          if (field) below(key, field.naming, cut, field.needed);
        }
      else {
        const { ref, aside } = block.keys;
        const inner = namingOf(block.inner);
        for (const key of Object.keys(value)) {
          if (ref) {
            path.push(key);
            add(ref, ref === 'place' ? pointerIn(key) : key, cut ?? path.length, aside);
            path.pop();
          }
          below(key, inner, cut, false);
        }
      }
    }
  };
  visit(namingOf(economySchema)!, document, undefined, true, false);
  return found;
}

/**
 * What things name that are the same objects from save to save, as far as they are of no formula: a thousand cases are
 * not walked again because a price is changed. A cache only.
 */
const namedWithin = new WeakMap<object, { at: string; references: readonly Reference[] }>();

/** What a walk must know of a schema below which something is named. */
interface Naming {
  block: Block;
  goes: 'whole' | 'throughout' | 'part' | undefined;
  /** Of a group: the fields below which something is named, and whether the group needs them. */
  fields: ReadonlyMap<string, { naming: Naming; needed: boolean }> | undefined;
}

/** Undefined where nothing below the schema names anything: that need not be walked. Worked out once for each schema. */
const namings = new WeakMap<AnySchema, Naming | { nothing: true }>();
function namingOf(schema: AnySchema): Naming | undefined {
  let known = namings.get(schema);
  if (!known) namings.set(schema, (known = namingWorkedOut(schema) ?? { nothing: true }));
  return 'nothing' in known ? undefined : known;
}

function namingWorkedOut(schema: AnySchema): Naming | undefined {
  const block = blockOf(schema);
  const { goes } = marksOf(schema);
  const plain = { block, goes, fields: undefined };
  switch (block.kind) {
    case 'value':
      return block.ref !== undefined || block.formula === true ? plain : undefined;
    case 'either':
      return block.options.some((option) => namingOf(option.schema)) ? plain : undefined;
    case 'list':
      return namingOf(block.inner) && plain;
    case 'map':
      return block.keys.ref !== undefined || namingOf(block.inner) ? plain : undefined;
    case 'fields': {
      const fields = new Map(
        Object.entries(fieldsOf(schema)).flatMap(([name, field]) => {
          const naming = namingOf(field);
          return naming ? [[name, { naming, needed: !isOptional(field) }] as const] : [];
        }),
      );
      return fields.size > 0 ? { ...plain, fields } : undefined;
    }
  }
}

/** The pointer in a key that names a place; what stands before it says what is done there. */
const pointerIn = (key: string): string => key.slice(key.indexOf('/'));

/**
 * What names a place at `from`, or within it, names it at `to` from now on: the thing was moved there. Changes
 * `document`.
 */
export function referencesFollow(document: EconomyDocument, from: string, to: string): void {
  for (const { kind, id, path } of documentReferences(document)) {
    if (kind !== 'place' || !isWithin(id, from)) continue;
    const now = `${to}${id.slice(from.length)}`;
    const key = path.at(-1)!;
    const list = valueAt(document, path.slice(0, -1));
    if (Array.isArray(list)) {
      list[Number(key)] = now;
      continue;
    }
    const holder = valueAt(document, path.slice(0, -2)) as Record<string, object>;
    const moved = `${key.slice(0, key.indexOf('/'))}${now}`;
    const name = path.at(-2)!;
    holder[name] = Object.fromEntries(
      Object.entries(holder[name]!).map(([one, value]) => [one === key ? moved : one, value]),
    );
  }
}

const isWithin = (pointer: string, place: string): boolean => pointer === place || pointer.startsWith(`${place}/`);

export interface Dangling extends Reference {
  /** What it should have named, in words. */
  word: string;
  /** The id that was meant, where it is only mistyped. */
  nearest: string | undefined;
}

/** References that name nothing. Linear in the document. */
export function danglingReferences(document: EconomyDocument): Dangling[] {
  // Most homes are the same for every reference of a kind, and the same object.
  const known = new Map<Path, Set<string>>();
  const idsOf = (home: Path): Set<string> => {
    const ids = known.get(home) ?? new Set(idsIn(document, home));
    known.set(home, ids);
    return ids;
  };
  // To look for what was meant is work for each name that there is: only those that are told get it.
  let searched = 0;
  return documentReferences(document).flatMap((reference) => {
    const { word, homes } = KINDS[reference.kind];
    if (reference.kind === 'place') {
      const [gone, nearest] = placeGone(document, pointerSegments(reference.id));
      return gone ? [{ ...reference, word, nearest }] : [];
    }
    const places = homes(reference.path);
    if (places.some((home) => idsOf(home).has(reference.id))) return [];
    const nearest =
      ++searched > MOST_PROBLEMS
        ? undefined
        : nearestName(
            reference.id,
            places.flatMap((home) => [...idsOf(home)]),
          );
    return [{ ...reference, word, nearest }];
  });
}

/** Whether a path leads nowhere, and the pointer that was meant where one of its steps is only mistyped. */
function placeGone(document: EconomyDocument, path: Path): [gone: boolean, nearest: string | undefined] {
  if (valueAt(document, path) !== undefined) return [false, undefined];
  const lost = path.findIndex((_, index) => valueAt(document, path.slice(0, index + 1)) === undefined);
  const around = valueAt(document, path.slice(0, lost));
  const nearest = isRecord(around) ? nearestName(path[lost]!, Object.keys(around)) : undefined;
  const meant = nearest === undefined ? [] : [...path.slice(0, lost), nearest, ...path.slice(lost + 1)];
  return [true, meant.length > 0 && valueAt(document, meant) !== undefined ? pointerOf(meant) : undefined];
}

/** What would mend a mistyped reference: the name that was meant, in its place. Undefined where that is not safe. */
export function renameMend(document: EconomyDocument, { id, path, cut, nearest }: Dangling): Mend | undefined {
  const written = valueAt(document, path);
  if (nearest === undefined || written === undefined || cut === null || isFormula(written)) return undefined;
  const at = pointerOf(path);
  const words = `write ${nearest} for ${id}`;
  if (written === id) return { words, operations: [{ op: 'replace', path: at, value: nearest }] };
  const other = [...path.slice(0, -1), nearest];
  if (path.at(-1) !== id || valueAt(document, other) !== undefined) return undefined;
  return {
    words,
    operations: [
      { op: 'remove', path: at },
      { op: 'add', path: pointerOf(other), value: written },
    ],
  };
}

/** The kinds of things that can be asked about by their id alone: currencies and items share theirs. */
type ScopedKind = 'currency' | 'item' | 'loot-entry' | 'event-field' | 'place';
const SCOPED: readonly RefKind[] = ['currency', 'item', 'loot-entry', 'event-field', 'place'] satisfies ScopedKind[];
export type ThingKind = Exclude<RefKind, ScopedKind>;
export const THING_KINDS = REF_KINDS.filter((kind) => !SCOPED.includes(kind)) as [ThingKind, ...ThingKind[]];

/** A thing that others refer to. */
export interface Thing {
  kind: ThingKind;
  id: string;
}

export interface Use {
  kind: RefKind;
  id: string;
  pointer: string;
  /** Where, in words: "Storm Frame at Pier Stall, price in Shells". */
  words: string;
  /** The pointer of what would have to go if the thing went; null where a person must decide, as in a formula. */
  cut: string | null;
}

/** A reference in words. */
export const useOf = (document: EconomyDocument, { kind, id, path, cut }: Reference): Use => ({
  kind,
  id,
  pointer: pointerOf(path),
  words: placeWords(document, path),
  cut: cut && pointerOf(cut),
});

const isAsset = (kind: RefKind): boolean => kind === 'asset' || kind === 'currency' || kind === 'item';

/** Where one thing is used, what is set at places within it included. */
export function usesOf(document: EconomyDocument, thing: Thing): Use[] {
  const home = thingPath(document, thing.kind, thing.id, []);
  const at = home && pointerOf(home);
  const names = ({ kind, id, aside }: Reference): boolean =>
    kind === 'place'
      ? !aside && at !== undefined && isWithin(id, at)
      : id === thing.id && (kind === thing.kind || (thing.kind === 'asset' && isAsset(kind)));
  return documentReferences(document)
    .filter(names)
    .map((reference) => useOf(document, reference));
}

/** Where a path leads, in words. */
export function placeWords(document: EconomyDocument, path: Path): string {
  const { subject, field } = pointerWords(pointerOf(path), document);
  return field ? `${subject}, ${field}` : subject;
}
