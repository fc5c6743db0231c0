/** What a goal can count: one table for the schema, the compiler and the audit. */

/** Fields of a goal that say what it counts. */
export type CountField =
  | 'event'
  | 'when'
  | 'by'
  | 'offers'
  | 'items'
  | 'groups'
  | 'tags'
  | 'distinct'
  | 'currency'
  | 'attribute';

interface Count {
  /** What is counted, as a designer says it. */
  words: string;
  needs: readonly CountField[];
  /** Of these one at least. */
  oneOf: readonly CountField[];
  may: readonly CountField[];
  /** It adds up from when the goal begins to count; otherwise it looks at what there is. */
  addsUp: boolean;
}

/** By what is counted; a field that is not named here is refused for it. */
export const COUNTS = {
  events: { words: 'events of a kind', needs: ['event'], oneOf: [], may: ['when', 'by'], addsUp: true },
  purchases: { words: 'purchases', needs: [], oneOf: ['offers', 'items', 'groups', 'tags'], may: [], addsUp: true },
  earned: { words: 'an amount earned', needs: ['currency'], oneOf: [], may: [], addsUp: true },
  spent: { words: 'an amount spent', needs: ['currency'], oneOf: [], may: [], addsUp: true },
  owned: { words: 'things owned', needs: [], oneOf: ['items', 'groups', 'tags'], may: ['distinct'], addsUp: false },
  attribute: { words: 'what an attribute has come to', needs: ['attribute'], oneOf: [], may: [], addsUp: false },
} as const satisfies Record<string, Count>;
export type CountName = keyof typeof COUNTS;
export const COUNT_NAMES = Object.keys(COUNTS) as [CountName, ...CountName[]];

export const COUNT_WORDS: Readonly<Record<CountName, string>> = Object.fromEntries(
  Object.entries(COUNTS).map(([name, { words }]) => [name, words]),
) as Record<CountName, string>;

/** Fields that some count has. */
export const COUNT_FIELDS: readonly CountField[] = [
  ...new Set(Object.values(COUNTS).flatMap(({ needs, oneOf, may }): CountField[] => [...needs, ...oneOf, ...may])),
];
