/**
 * Every text that a player may read, by key, with what a message may fill in. The list is closed: a text that is not
 * in it cannot be asked for, and one that is always says something (`BUILT_IN`, or the name written in the economy).
 */
import type { EconomyDocument } from './schema.js';

/** What the engine says itself, in English; economies may word it anew, in any language. */
export const BUILT_IN = {
  ask: 'Buy {times, plural, =1 {{offer}} other {# times {offer}}} for {price}?',
  'ask-free': 'Take {times, plural, =1 {{offer}} other {# times {offer}}}? It costs nothing.',
  thanks: 'Thank you! You now have {gives}.',
  goal: '{name}: {count} of {target}',
  'goal-reached': '{name}: reached',
  level: '{name}: level {level}{next, select, none {} other {, {count} of {target} to level {next}}}',
  'refused.unknown-offer': 'This is not sold here.',
  'refused.shop-closed': '{at, select, none {{shop} is closed.} other {{shop} is closed until {at}.}}',
  'refused.not-for-this-player': '{requirement, select, none {{shop} does not serve you yet.} other {{requirement}}}',
  'refused.not-on-show':
    '{at, select, none {{offer} is not on show.} other {{offer} is not on show now. Look again on {at}.}}',
  'refused.no-price': '{offer} cannot be bought at the moment.',
  'refused.zero-price': '{offer} cannot be bought at the moment.',
  'refused.gives-nothing': 'There is nothing to be had for it at the moment.',
  'refused.bad-formula': '{offer} cannot be bought at the moment.',
  'refused.requirement-unmet': '{requirement, select, none {You cannot buy {offer} yet.} other {{requirement}}}',
  'refused.short-of':
    'You are {short} short: it costs {needed}, and you have {held}.{at, select, none {} other { You will have enough on {at}.}}',
  'refused.limit-reached':
    '{left, plural, =0 {You have bought all that you may of this.} other {You may buy only {left} more of this.}}{at, select, none {} other { More is possible from {at}.}}',
  'refused.out-of-stock':
    '{left, plural, =0 {{offer} is sold out.} other {Only {left} of this {left, plural, one {is} other {are}} left.}}{at, select, none {} other { More comes on {at}.}}',
  'refused.carry-full': 'You have no room for more: {most} is all that you can hold.',
  'refused.over-cap': 'You cannot hold so much: {most} is the most.',
  'refused.price-changed': 'The price has changed: it is {price} now.',
  'refused.pay-choice-needed': 'Choose how to pay.',
  'refused.receipt-needed': 'This is paid in the store.',
  'refused.too-large': 'That is too many at once.',
  'refused.unknown-shop': 'There is no such shop.',
  'refused.unknown-item': 'There is no such thing.',
  'refused.not-taken': '{shop} does not take {item}.',
  'refused.not-sellable': '{item} cannot be sold.',
  'refused.pays-nothing': 'You would get nothing for {item}.',
  'refused.not-held': 'You do not have that many of {item}.',
  'refused.till-short': 'The shop cannot pay {needed} now.{at, select, none {} other { It will be able to on {at}.}}',
  'refused.not-usable': '{item} cannot be used.',
  'refused.not-a-box': '{item} cannot be opened.',
  'refused.key-needed': 'You need {needed} to open it.',
  'refused.nothing-to-collect':
    '{at, select, none {{item} has nothing for you.} other {{item} has nothing for you before {at}.}}',
} as const;
export type BuiltInKey = keyof typeof BUILT_IN;

/** What a message may fill in, by what its key begins with; the first that fits holds. */
const ARGUMENTS: readonly [RegExp, readonly string[]][] = [
  [/^ask|^thanks$/, ['offer', 'times', 'price', 'gives', 'shop']],
  [/^refused\./, ['offer', 'shop', 'item', 'at', 'requirement', 'short', 'needed', 'held', 'left', 'most', 'price']],
  [/^(goal|goal-reached|level)$/, ['name', 'count', 'target', 'level', 'next']],
  [/\.amount$/, ['units', 'amount', 'name']],
];
/** What the message under a key may fill in; none for a key that has nothing to fill in. */
export const textArguments = (key: string): readonly string[] => ARGUMENTS.find(([fits]) => fits.test(key))?.[1] ?? [];

/** A text of an economy: what it says where nothing else is written, and whether every language needs it. */
export interface TextSlot {
  key: string;
  /** Where the thing itself stands, as pointer segments. */
  path: readonly string[];
  written: string | undefined;
}

/** Every key that an economy has room for. What is `undefined` may be written and need not be. Linear in the economy. */
export function documentTexts(document: EconomyDocument): TextSlot[] {
  const slots: TextSlot[] = [];
  const add = (kind: string, id: string, path: string[], texts: Readonly<Record<string, string | undefined>>): void => {
    for (const [part, written] of Object.entries(texts)) slots.push({ key: `${kind}.${id}.${part}`, path, written });
  };
  for (const [id, { name, description }] of Object.entries(document.currencies ?? {}))
    add('currency', id, ['currencies', id], { name, description, amount: undefined });
  for (const [id, { name, description }] of Object.entries(document.items ?? {}))
    add('item', id, ['items', id], { name, description, amount: undefined });
  for (const [id, { name, description }] of Object.entries(document.goals ?? {}))
    add('goal', id, ['goals', id], { name, description });
  for (const [id, { name, description }] of Object.entries(document.tracks ?? {}))
    add('track', id, ['tracks', id], { name, description });
  for (const [id, { name }] of Object.entries(document.sales ?? {})) add('sale', id, ['sales', id], { name });
  for (const [id, shop] of Object.entries(document.shops ?? {})) {
    add('shop', id, ['shops', id], { name: shop.name, description: shop.description, requirement: undefined });
    for (const [shelfId, shelf] of Object.entries(shop.shelves)) {
      const path = ['shops', id, 'shelves', shelfId];
      add('shelf', `${id}.${shelfId}`, path, { name: shelf.name });
      for (const [offerId, { name, description, badge }] of Object.entries(shelf.offers))
        add('offer', offerId, [...path, 'offers', offerId], { name, description, badge, requirement: undefined });
    }
  }
  for (const [key, written] of Object.entries(BUILT_IN)) slots.push({ key, path: [], written });
  return slots;
}
