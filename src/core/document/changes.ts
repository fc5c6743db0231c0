/** What changed between two documents: as JSON Patch for machines, and in a designer's words. */
import { recurrenceWords, windowWords } from '../schedule/index.js';
import fastJsonPatch from 'fast-json-patch';
import type { Operation } from 'fast-json-patch';
import { pointerOf, pointerSegments } from '../issue/index.js';
import { thingPath } from './kinds.js';
import { valueAt } from './pointers.js';
import { SECTIONS } from './schema.js';
import type { EconomyDocument, SaleDocument } from './schema.js';
import { isBasketBlock, walkAlong } from './walk.js';

export interface Change {
  pointer: string;
  /** What it belongs to, such as "Storm Frame at Pier Stall". */
  subject: string;
  /** The part that changed, such as "price in Shells"; empty when the whole subject came or went. */
  field: string;
  before: unknown;
  after: unknown;
  words: string;
}

/** RFC 6902 operations that lead from `before` to `after`, the order of shops, shelves and offers included. */
export function documentPatch(before: EconomyDocument, after: EconomyDocument): Operation[] {
  return [...fastJsonPatch.compare(before, after), ...orderOperations(before, after)];
}

/**
 * Objects keep their order, yet JSON Patch has no word for it: where only the order differs in the end, the whole
 * group is written again, and with it all that it holds.
 */
function orderOperations(before: EconomyDocument, after: EconomyDocument): Operation[] {
  const paths = reordered(before, after);
  return paths
    .filter(
      (path) => !paths.some((other) => other !== path && `${pointerOf(path)}/`.startsWith(`${pointerOf(other)}/`)),
    )
    .map((path) => ({ op: 'replace', path: pointerOf(path), value: valueAt(after, path) }));
}

/**
 * The groups of shops, shelves and offers whose order differs. `before` is brought to `after` in content first, since
 * what is added comes last.
 */
export function reordered(before: EconomyDocument, after: EconomyDocument): string[][] {
  const shops = { shops: structuredClone(before.shops ?? {}) };
  const content = fastJsonPatch.compare(shops, { shops: after.shops ?? {} });
  const patched = fastJsonPatch.applyPatch(shops, content).newDocument;
  return reorderedIn(patched.shops, after.shops ?? {}, ['shops']);
}

/** `shops`, then `shelves` of each, then `offers` of each: in the path, the name of a group is always followed by an id. */
const BELOW: Readonly<Record<string, string | undefined>> = { shops: 'shelves', shelves: 'offers' };

function reorderedIn(patched: object, wanted: object, path: string[]): string[][] {
  const ids = Object.keys(wanted);
  const own = Object.keys(patched).some((id, index) => id !== ids[index]) ? [path] : [];
  const below = BELOW[path.at(-1)!];
  if (below === undefined) return own;
  const inner = ids.flatMap((id) => {
    const [old, now] = [patched, wanted].map((map) => (map as Record<string, Record<string, object>>)[id]![below]!);
    return reorderedIn(old!, now!, [...path, id, below]);
  });
  return [...own, ...inner];
}

/** Both with every section that either has and that holds something: what a new section holds is told thing by thing. */
function sectionsThere(before: EconomyDocument, after: EconomyDocument): [EconomyDocument, EconomyDocument] {
  const missing = (from: EconomyDocument, other: EconomyDocument): object =>
    Object.fromEntries(
      SECTIONS.filter((name) => from[name] === undefined && Object.keys(other[name] ?? {}).length > 0).map((name) => [
        name,
        {},
      ]),
    );
  return [
    { ...before, ...missing(before, after) },
    { ...after, ...missing(after, before) },
  ];
}

/** One change for each operation of the patch, in document order. */
export function documentChanges(before: EconomyDocument, after: EconomyDocument): Change[] {
  const orders = reordered(before, after)
    .map((path) => orderChange(path, before, after))
    // What is put between others is told as added; it moves nothing.
    .filter(({ before: old, after: now }) => orderDiffers(old as string[], now as string[]));
  return fastJsonPatch
    .compare(...sectionsThere(before, after))
    .map((operation) => {
      const segments = pointerSegments(operation.path);
      const old = valueAt(before, segments);
      const now = operation.op === 'remove' ? undefined : valueAt(after, segments);
      const { subject, field } = label(segments, before, after);
      return {
        pointer: operation.path,
        subject,
        field,
        before: old,
        after: now,
        words:
          segments[0] === 'sales' && segments.length === 2 && old === undefined
            ? `${subject}: added, ${saleWords(now as SaleDocument, after)}`
            : changeWords(subject, field, old, now, isBasketAt(before, segments) || isBasketAt(after, segments)),
      };
    })
    .concat(orders)
    .sort((a, b) => (a.pointer < b.pointer ? -1 : a.pointer > b.pointer ? 1 : 0));
}

function orderDiffers(old: readonly string[], now: readonly string[]): boolean {
  const left = old.filter((id) => now.includes(id));
  return left.join() !== now.filter((id) => old.includes(id)).join();
}

function orderChange(segments: string[], before: EconomyDocument, after: EconomyDocument): Change {
  const [old, now] = [before, after].map((document) => Object.keys(valueAt(document, segments) ?? {}));
  const { subject } = label(segments.slice(0, -1), before, after);
  const what = segments.length === 1 ? 'shops' : `${subject}, ${segments.at(-1)!}`;
  return {
    pointer: pointerOf(segments),
    subject,
    field: 'order',
    before: old,
    after: now,
    words: `${what}: new order ${now!.join(', ')}`,
  };
}

/** What a pointer leads to, in words: what it belongs to, and the part of it. */
export const pointerWords = (pointer: string, document: EconomyDocument): { subject: string; field: string } =>
  label(pointerSegments(pointer), document, document);

/** Whether amounts by asset stand there. */
const isBasketAt = (document: EconomyDocument, segments: readonly string[]): boolean =>
  isBasketBlock(walkAlong(document, segments)[segments.length]?.block);

function changeWords(subject: string, field: string, before: unknown, after: unknown, basket: boolean): string {
  const priced = /^price in (.+)$/.exec(field)?.[1];
  if (priced !== undefined && before !== undefined && after !== undefined)
    return `${subject}: ${show(before, false)} -> ${show(after, false)} ${priced}`;
  const what = field ? `${subject}, ${field}` : subject;
  const [old, now] = [before, after].map((value) => show(value, basket));
  if (before === undefined) return field ? `${what}: ${now} (new)` : `${what}: added`;
  if (after === undefined) return field ? `${what}: ${old} removed` : `${what}: removed`;
  return `${what}: ${old} -> ${now}`;
}

/** What a sale does, on what and when. */
function saleWords(sale: SaleDocument, document: EconomyDocument): string {
  const named = (section: 'shops' | 'groups', ids: readonly string[] = []) =>
    ids.map((id) => document[section]?.[id]?.name ?? id).join(' and ');
  const on = [
    sale.offers?.join(', '),
    named('groups', sale.groups),
    sale.tags?.join(', '),
    sale.shops && `at ${named('shops', sale.shops)}`,
  ].filter(Boolean);
  const off = sale.percent === undefined ? show(sale.price, true) : `${sale.percent} % off`;
  const times = [
    sale.from && `from ${sale.from.replace('T', ' ')}`,
    sale.until && `until ${sale.until.replace('T', ' ')}`,
    ...Object.values(sale.runs ?? {}).map(windowWords),
  ].filter(Boolean);
  return [off, ...on, ...times].join(' ');
}

const isWindow = (value: unknown): value is Parameters<typeof windowWords>[0] =>
  typeof value === 'object' && value !== null && 'starts' in value && 'lasts' in value;

/** A basket as people write it, everything else as it stands in files; a text of several lines on one. */
function show(value: unknown, basket: boolean): string {
  if (typeof value === 'string' && value.startsWith('FREQ=')) return recurrenceWords(value);
  if (typeof value === 'string') return value.replace(/\n+$/, '').replace(/\s*\n\s*/g, ' / ');
  if (typeof value !== 'object' || value === null) return String(value);
  if (isWindow(value)) return windowWords(value);
  const inner = Object.values(value);
  if (inner.length > 0 && inner.every(isWindow)) return inner.map(windowWords).join(' and ');
  const entries = Object.entries(value);
  if (basket && !Array.isArray(value) && entries.every(([, amount]) => typeof amount !== 'object'))
    return entries.map(([asset, amount]) => `${String(amount)} ${asset}`).join('; ');
  const text = JSON.stringify(value);
  return text.length > 60 ? `${text.slice(0, 57)}...` : text;
}

type NameOf = (segments: readonly string[]) => string;

function label(
  segments: readonly string[],
  before: EconomyDocument,
  after: EconomyDocument,
): { subject: string; field: string } {
  const nameOf: NameOf = (path) => {
    for (const document of [after, before]) {
      const name = valueAt(document, [...path, 'name']);
      if (typeof name === 'string') return name;
    }
    return path.at(-1)!;
  };
  const fieldOf = (from: number) => fieldWords(segments, from, nameOf, before, after);
  if (segments[0] === 'shops' && segments[2] === 'shelves' && segments.length >= 6) {
    return {
      subject: `${offerName(segments.slice(0, 6), nameOf, before, after)} at ${nameOf(segments.slice(0, 2))}`,
      field: fieldOf(6),
    };
  }
  if (segments[0] === 'shops' && segments[2] === 'shelves' && segments.length >= 4) {
    return {
      subject: `shelf ${nameOf(segments.slice(0, 4))} at ${nameOf(segments.slice(0, 2))}`,
      field: fieldOf(4),
    };
  }
  if (segments.length >= 2)
    return {
      subject:
        `${SECTION_WORDS[segments[0] as keyof typeof SECTION_WORDS] ?? segments[0]} ${nameOf(segments.slice(0, 2))}`.trim(),
      field: fieldOf(2),
    };
  return { subject: pointerOf(segments).slice(1) || 'the economy', field: '' };
}

const SECTION_WORDS: Readonly<Record<(typeof SECTIONS)[number], string>> = {
  attributes: 'attribute',
  events: 'event',
  groups: 'group',
  currencies: 'currency',
  items: '',
  loot: 'loot table',
  stores: 'store',
  shops: 'shop',
  sales: 'sale',
  texts: 'texts in',
  earning: 'earning rule',
  goals: 'goal',
  tracks: 'track',
  teams: 'kind of team',
  rankings: 'ranking',
  activities: 'activity',
  personas: 'persona',
  scenarios: 'scenario',
  targets: 'target',
  levers: 'lever',
  cases: 'case',
};

function offerName(path: string[], nameOf: NameOf, before: EconomyDocument, after: EconomyDocument): string {
  const offer = (valueAt(after, path) ?? valueAt(before, path)) as
    | { name?: string; gives?: string | object; count?: number }
    | undefined;
  if (offer?.name) return offer.name;
  const assetName = (asset: string) => {
    const section = [after, before].some(({ currencies }) => Object.hasOwn(currencies ?? {}, asset))
      ? 'currencies'
      : 'items';
    return nameOf([section, asset]);
  };
  if (typeof offer?.gives === 'string')
    return `${assetName(offer.gives)}${(offer.count ?? 1) > 1 ? ` x${offer.count}` : ''}`;
  return (
    Object.keys(offer?.gives ?? {})
      .map(assetName)
      .join(' + ') || path.at(-1)!
  );
}

/** The part of a thing that a path leads to, from its segment `from` on: `price/shells` is "price in Shells". */
function fieldWords(
  segments: readonly string[],
  from: number,
  nameOf: NameOf,
  before: EconomyDocument,
  after: EconomyDocument,
): string {
  const steps = [after, before]
    .map((document) => walkAlong(document, segments))
    .reduce((one, other) => (other.length > one.length ? other : one));
  const words = segments.slice(from).map((segment, index) => {
    const step = steps[from + index + 1];
    const named = step?.names;
    if (named === 'place') return placeKeyWords(segment, before, after);
    const path =
      named && [after, before].map((document) => thingPath(document, named, segment, step.path)).find(Boolean);
    return path ? nameOf(path) : segment;
  });
  const inBasket = segments.length === from + 2 && isBasketBlock(steps[from + 1]?.block);
  return inBasket ? `${words[0]} in ${words[1]}` : words.join(' ');
}

/** A key that names a place: what is done there, and the place in words. */
function placeKeyWords(key: string, before: EconomyDocument, after: EconomyDocument): string {
  const pointerAt = key.indexOf('/');
  const { subject, field } = label(pointerSegments(key.slice(pointerAt)), before, after);
  const what = key.slice(0, pointerAt).trim();
  return `${what && `${what} of `}${subject}${field && `, ${field}`}`;
}
