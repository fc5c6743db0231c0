/** What a formula may call. */

/** What a player owns, has, or has bought, by id. */
export const LOOKUPS = ['owned', 'balance', 'bought'] as const;
export type LookupName = (typeof LOOKUPS)[number];

/** Functions over numbers: least and most arguments. `if` is apart because it takes a truth first. */
export const FUNCTIONS: Readonly<Record<string, { min: number; max: number; run: (...args: number[]) => number }>> = {
  min: { min: 1, max: 20, run: Math.min },
  max: { min: 1, max: 20, run: Math.max },
  floor: { min: 1, max: 1, run: Math.floor },
  ceil: { min: 1, max: 1, run: Math.ceil },
  round: { min: 1, max: 1, run: Math.round },
  abs: { min: 1, max: 1, run: Math.abs },
  sqrt: { min: 1, max: 1, run: Math.sqrt },
  ln: { min: 1, max: 1, run: Math.log },
  exp: { min: 1, max: 1, run: Math.exp },
  clamp: { min: 3, max: 3, run: (value, low, high) => Math.min(Math.max(value!, low!), high!) },
};
export const FUNCTION_NAMES = [...Object.keys(FUNCTIONS), 'if', ...LOOKUPS];
