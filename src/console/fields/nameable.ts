/** What a field can name: everything of a kind that there is, by id, with what people call it. */
import { KINDS, thingsIn } from '../../core/document/kinds.js';
import type { EconomyDocument, OfferDocument } from '../../core/document/index.js';
import type { RefKind } from '../../core/schema/index.js';
import { offerName } from '../api.js';
import { priceSpots } from './priceSpots.js';

export interface Nameable {
  id: string;
  label: string;
  /** Said beside it: what tells it apart from others of the same name. */
  hint: string;
  icon?: string | undefined;
}

/** Kinds that the document does not keep by id. */
export type NameKind = RefKind | 'tag' | 'language' | 'zone';

const known = new WeakMap<EconomyDocument, Map<string, Nameable[]>>();

/** `at` is the path of the field: entries of a loot table, say, are named within the same table. */
export function nameables(document: EconomyDocument, kind: NameKind, at: readonly string[]): Nameable[] {
  const key = `${kind} ${kind === 'loot-entry' || kind === 'event-field' ? at.join('/') : ''}`;
  const held = known.get(document) ?? new Map<string, Nameable[]>();
  known.set(document, held);
  const found = held.get(key) ?? listed(document, kind, at);
  held.set(key, found);
  return found;
}

const OTHERS: Record<Exclude<NameKind, RefKind>, (document: EconomyDocument) => Nameable[]> = {
  tag: (document) =>
    [...new Set(Object.values(document.items ?? {}).flatMap(({ tags }) => tags ?? []))]
      .sort()
      .map((tag) => ({ id: tag, label: tag, hint: '' })),
  language: (document) => {
    const names = new Intl.DisplayNames('en', { type: 'language' });
    const used = [document.language ?? 'en', ...Object.keys(document.texts ?? {})];
    return [...new Set([...used, ...LANGUAGES])].map((tag) => ({ id: tag, label: names.of(tag) ?? tag, hint: tag }));
  },
  zone: () => ['UTC', ...Intl.supportedValuesOf('timeZone')].map((zone) => ({ id: zone, label: zone, hint: '' })),
};

/** Languages that games are often read in; any other can be typed. */
const LANGUAGES =
  'en ar cs da de el es fi fr he hi hu id it ja ko ms nb nl pl pt pt-BR ro ru sv th tr uk vi zh-Hans zh-Hant'.split(
    ' ',
  );

function listed(document: EconomyDocument, kind: NameKind, at: readonly string[]): Nameable[] {
  if (kind === 'place') return priceSpots(document).map(({ pointer, label }) => ({ id: pointer, label, hint: '' }));
  if (kind === 'tag' || kind === 'language' || kind === 'zone') return OTHERS[kind](document);
  return KINDS[kind]
    .homes(at)
    .flatMap((home) => thingsIn(document, home))
    .map(({ path, thing }) => nameableOf(document, path, thing));
}

function nameableOf(document: EconomyDocument, path: readonly string[], thing: unknown): Nameable {
  const id = path.at(-1)!;
  const { name, icon, symbol } = thing as { name?: string; icon?: string; symbol?: string };
  if (path[0] === 'shops' && path[4] === 'offers')
    return {
      id,
      label: offerName(document, id, thing as OfferDocument),
      hint: `${id}, ${document.shops![path[1]!]!.name}`,
    };
  return { id, label: name ?? id, hint: name === undefined || name === id ? '' : id, icon: icon ?? symbol };
}

const WORDS: Partial<Record<NameKind, string>> = {
  tag: 'tag',
  language: 'language',
  zone: 'time zone',
  place: 'price',
};
/** What a kind is called in a sentence. */
export const kindWord = (kind: NameKind): string => WORDS[kind] ?? KINDS[kind as RefKind].word;

/** Those that have what is typed in their name or id: beginnings first. */
export function found<T extends Nameable>(all: readonly T[], typed: string): readonly T[] {
  const sought = typed.trim().toLowerCase();
  if (sought === '') return all;
  const ranks = new Map<T, number>();
  for (const one of all) {
    const texts = [one.label.toLowerCase(), one.id.toLowerCase()];
    if (texts.some((text) => text.startsWith(sought))) ranks.set(one, 0);
    else if (texts.some((text) => text.includes(sought))) ranks.set(one, 1);
  }
  return [...ranks.keys()].sort((a, b) => ranks.get(a)! - ranks.get(b)!);
}
