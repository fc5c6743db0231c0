/** What a rule did in a try, in words. */
import type { Basket } from '../amount/index.js';
import type { RuleTried } from '../earning/index.js';
import { countText } from '../issue/index.js';
import { basketText } from './amounts.js';
import type { AssetLabels } from './amounts.js';

/** Why a rule did nothing, after a number of times. */
const SKIPPED_WORDS: Readonly<Record<string, string>> = {
  when: 'its condition did not hold',
  chance: 'no luck',
  limit: 'its limit was reached',
  cooldown: 'it was cooling down',
  formula: 'its formula failed',
  'kept-out': 'all was kept out',
};

const BASKETS: readonly { head: string; of: (rule: RuleTried) => Basket }[] = [
  { head: 'gave', of: ({ given }) => given },
  { head: 'to teams', of: ({ shared }) => shared },
  { head: 'took', of: ({ taken }) => taken },
  { head: 'kept out', of: ({ dropped }) => dropped },
  { head: 'not there', of: ({ missed }) => missed },
];

/** The columns that say something of one of the rules. */
export const triedColumns = (
  labels: AssetLabels,
  rules: readonly RuleTried[],
): { head: string; text: (rule: RuleTried) => string }[] =>
  BASKETS.filter(({ of }) => rules.some((rule) => hasAny(of(rule)))).map(({ head, of }) => ({
    head,
    text: (rule) => (hasAny(of(rule)) ? basketText(labels, of(rule)) : ''),
  }));

const hasAny = (basket: Basket): boolean => Object.keys(basket).length > 0;

/** How often it did nothing, and why: "3 times its condition did not hold". */
export const triedOtherwise = ({ skipped, problem }: RuleTried): string =>
  [
    ...Object.entries(skipped).map(([why, times]) => `${countText(times, 'time')} ${SKIPPED_WORDS[why]}`),
    ...(problem === null ? [] : [problem]),
  ].join('; ');
