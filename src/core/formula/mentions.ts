/** What a formula's text mentions, whether or not it can be compiled: for finding where something is used. */
import { LOOKUPS } from './functions.js';
import type { LookupName } from './functions.js';

export interface Mentions {
  lookups: { lookup: LookupName; id: string }[];
  /** Every other word: attributes, fields of the event, functions. */
  words: ReadonlySet<string>;
}

const LOOKUP = new RegExp(`\\b(${LOOKUPS.join('|')})\\s*\\(\\s*([a-z]\\w*)`, 'g');

/** Reads names outside quotes; linear in the text. */
export function formulaMentions(text: string): Mentions {
  const bare = text.replace(/"[^"]*"|'[^']*'/g, '');
  const lookups = new Map(
    [...bare.matchAll(LOOKUP)].map(([, lookup, id]) => [`${lookup} ${id}`, { lookup: lookup as LookupName, id: id! }]),
  );
  return {
    lookups: [...lookups.values()],
    words: new Set(bare.replace(LOOKUP, '').match(/[a-z]\w*/g)),
  };
}
