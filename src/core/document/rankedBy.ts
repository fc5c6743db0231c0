/** What a ranking can go by: one table for the schema, the compiler and the audit. */

/** Fields of a ranking that say what it goes by. */
export type RankField = 'currency' | 'every' | 'goal';

interface RankedBy {
  /** As a designer says it. */
  words: string;
  needs: readonly RankField[];
  may: readonly RankField[];
}

export const RANKED_BY = {
  balance: { words: 'a balance', needs: ['currency'], may: [] },
  earned: { words: 'an amount earned', needs: ['currency'], may: ['every'] },
  goal: { words: 'what a goal has counted', needs: ['goal'], may: [] },
} as const satisfies Record<string, RankedBy>;
export type RankedByName = keyof typeof RANKED_BY;
export const RANKED_BY_NAMES = Object.keys(RANKED_BY) as [RankedByName, ...RankedByName[]];

export const RANKED_BY_WORDS: Readonly<Record<RankedByName, string>> = Object.fromEntries(
  Object.entries(RANKED_BY).map(([name, { words }]) => [name, words]),
) as Record<RankedByName, string>;

/** Fields that some of them have. */
export const RANK_FIELDS: readonly RankField[] = [
  ...new Set(Object.values(RANKED_BY).flatMap(({ needs, may }): RankField[] => [...needs, ...may])),
];
