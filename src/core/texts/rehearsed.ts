/** What became of a step of a rehearsal, in words: the command line and the console show the same. */
import type { Basket } from '../amount/index.js';
import type { Value } from '../formula/index.js';
import type { Progress } from '../progress/index.js';
import { amountText } from './amounts.js';
import type { AssetLabels } from './amounts.js';
import { progressSentence } from './progress.js';

interface Rehearsed {
  done: boolean;
  times: number;
  moved: Readonly<Record<string, number>>;
  reasons: readonly { code: string; sentence: string }[];
  /** The refusals as the player reads them, instead. */
  told?: readonly string[] | undefined;
  problem?: string | undefined;
  set: Readonly<Record<string, Value>>;
  progress: readonly Progress[];
  dropped: Basket;
  missed: Basket;
}

/** "-350 Shells, +1 Frame"; empty where nothing moved. */
export const movedText = (labels: AssetLabels, moved: Readonly<Record<string, number>>): string =>
  Object.entries(moved)
    .map(([asset, units]) => `${units < 0 ? '-' : '+'}${amountText(labels, asset, Math.abs(units))}`)
    .join(', ');

/** Amounts with commas between them. */
export const heldText = (labels: AssetLabels, holds: Readonly<Record<string, number>>): string =>
  Object.entries(holds)
    .map(([asset, units]) => amountText(labels, asset, units))
    .join(', ');

export const stepState = ({ done, times }: Pick<Rehearsed, 'done' | 'times'>): string =>
  done ? 'done' : times > 0 ? `done ${times} times, then refused` : 'refused';

/** Beside what moved: each reason, what was set, goals and levels, and what did not come or go. */
export const stepLines = (
  labels: AssetLabels,
  { reasons, told, problem, set, progress, dropped, missed }: Rehearsed,
): string[] => [
  ...(problem === undefined ? [] : [problem]),
  ...(told ?? reasons.map(({ code, sentence }) => `${code}: ${sentence}`)),
  ...Object.entries(set).map(([name, value]) => `${name} is ${String(value)} now`),
  ...progress.map((one) => progressSentence(labels, one)),
  ...(Object.keys(dropped).length > 0 ? [`kept out: ${heldText(labels, dropped)}`] : []),
  ...(Object.keys(missed).length > 0 ? [`not there to be taken: ${heldText(labels, missed)}`] : []),
];

interface Missed {
  misses: readonly { step: number; words: string; what: string; expected: string; found: string }[];
  problems: readonly { pointer: string; message: string; fix: string }[];
}

/** What does not hold in a case, or why it cannot be played, a line each: "step 1, buy Storm Frame: price in Shells: 1400 expected, 1350 found". */
export const caseLines = ({ misses, problems }: Missed): string[] => [
  ...misses.map(
    ({ step, words, what, expected, found }) =>
      `${step === 0 ? '' : `step ${step}, `}${words}: ${what}: ${expected} expected, ${found} found`,
  ),
  ...problems.map(({ pointer, message, fix }) => `${pointer}: ${message}. ${fix}`),
];
