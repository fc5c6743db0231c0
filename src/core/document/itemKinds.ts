/** What belongs to each kind of item: one table for the compiler, the acts and the console. */

/** What a player can do with what they hold, beside selling it; `done` goes before the thing's name. */
export const ITEM_ACTS = {
  use: { done: 'used' },
  open: { done: 'opened' },
  collect: { done: 'collected from' },
} as const satisfies Record<string, { done: string }>;
export type ItemAct = keyof typeof ITEM_ACTS;
export const ITEM_ACT_NAMES = Object.keys(ITEM_ACTS) as [ItemAct, ...ItemAct[]];

interface ItemKind {
  /** What it is to a player who owns it. */
  words: string;
  /** Fields that only some kinds have. */
  fields: readonly KindField[];
  acts: readonly ItemAct[];
}
export type KindField = 'uses' | 'lasts' | 'gives' | 'loot' | 'opensWith' | 'onUse' | 'yields';

/** By kind; a field or an act that is not named here is refused for it. */
export const ITEM_KINDS = {
  durable: { words: 'kept for good', fields: ['onUse', 'yields'], acts: ['use', 'collect'] },
  consumable: { words: 'used up', fields: ['uses', 'onUse', 'yields'], acts: ['use', 'collect'] },
  timed: { words: 'good for a time', fields: ['lasts', 'onUse', 'yields'], acts: ['use', 'collect'] },
  bundle: { words: 'a bundle, unpacked as it arrives', fields: ['gives'], acts: [] },
  box: { words: 'a box, opened by hand', fields: ['gives', 'loot', 'opensWith', 'yields'], acts: ['open', 'collect'] },
} as const satisfies Record<string, ItemKind>;
export type ItemKindName = keyof typeof ITEM_KINDS;
export const ITEM_KIND_NAMES = Object.keys(ITEM_KINDS) as [ItemKindName, ...ItemKindName[]];

export const ITEM_KIND_WORDS: Readonly<Record<ItemKindName, string>> = Object.fromEntries(
  Object.entries(ITEM_KINDS).map(([name, { words }]) => [name, words]),
) as Record<ItemKindName, string>;

/** Fields that some kind has. */
export const KIND_FIELDS: readonly KindField[] = [
  ...new Set(Object.values(ITEM_KINDS).flatMap(({ fields }) => [...fields])),
];
/** Whether things of a kind may have the field. */
export const kindHas = (kind: ItemKindName, field: KindField): boolean =>
  (ITEM_KINDS[kind].fields as readonly KindField[]).includes(field);
/** Whether things of a kind can have the act at all; what one of them says may still stand against it. */
export const kindDoes = (kind: ItemKindName, act: ItemAct): boolean =>
  (ITEM_KINDS[kind].acts as readonly ItemAct[]).includes(act);
