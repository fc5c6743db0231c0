/** A rehearsal in words, for whoever reads it: what each step was, and what it did. */
import type { Economy } from '../economy/index.js';
import { progressOf } from '../progress/index.js';
import type { GoalStanding, TrackStanding } from '../progress/index.js';
import type { Value } from '../formula/index.js';
import { basketText, economyLabels, instantText, languageShown, refusalText, verdictExplain } from '../texts/index.js';
import type { Reason } from '../trade/index.js';
import { durationWords } from '../schedule/index.js';
import type { RehearsalState, StepDone } from './rehearse.js';
import { verbOf } from './step.js';
import type { RehearsalStep, StepOf, Verb } from './step.js';

/** What somebody has at the end of a rehearsal. */
export interface RehearsalEnd {
  atMs: number;
  attributes: Record<string, Value>;
  /** Of every currency, and of each item that is held, in smallest units. */
  holds: Record<string, number>;
  goals: GoalStanding[];
  tracks: TrackStanding[];
}

export function rehearsalEnd(economy: Economy, { player, atMs }: RehearsalState): RehearsalEnd {
  const holds: Record<string, number> = {};
  for (const id of economy.currencies.keys()) holds[id] = player.balances[id]?.units ?? 0;
  for (const { item, units } of player.stacks) holds[item] = (holds[item] ?? 0) + units;
  return { atMs, attributes: { ...player.attributes }, holds, ...progressOf(economy, player, atMs) };
}

const luckyWords = (economy: Economy, { brings }: { brings?: string }): string =>
  brings === undefined
    ? ''
    : `, in luck: ${(economy.currencies.get(brings) ?? economy.items.get(brings))?.name ?? brings}`;
const often = ({ times = 1 }: { times?: number }): string => (times === 1 ? '' : `, ${times} times`);

/** "buy Storm Frame at Pier Stall, 2 times", "wait 1 h". */
export function stepWords(economy: Economy, step: RehearsalStep): string {
  const words = WORDS[verbOf(step)] as (step: RehearsalStep, economy: Economy) => string;
  return words(step, economy);
}

const itemName = (economy: Economy, id: string): string => economy.items.get(id)?.name ?? id;
const fieldsWords = (fields: Readonly<Record<string, Value>> = {}): string =>
  Object.entries(fields)
    .map(([name, value]) => ` ${name}=${String(value)}`)
    .join('');

const WORDS: { readonly [V in Verb]: (step: StepOf<V>, economy: Economy) => string } = {
  buy: (step, { offers }) => {
    const offer = offers.get(step.buy);
    return `buy ${offer ? `${offer.name} at ${offer.shop.name}` : step.buy}${often(step)}${step.pay ? `, paying ${step.pay}` : ''}`;
  },
  sell: (step, economy) =>
    `sell ${itemName(economy, step.sell)} to ${economy.shops.get(step.shop)?.name ?? step.shop}${often(step)}`,
  use: (step, economy) => `use ${itemName(economy, step.use)}${often(step)}`,
  open: (step, economy) => `open ${itemName(economy, step.open)}${often(step)}${luckyWords(economy, step)}`,
  collect: (step, economy) => `collect from ${itemName(economy, step.collect)}`,
  event: (step, economy) => `event ${step.event}${fieldsWords(step.fields)}${often(step)}${luckyWords(economy, step)}`,
  play: (step, economy) =>
    `play ${economy.activities.get(step.play)?.name ?? step.play}${often(step)}${luckyWords(economy, step)}`,
  give: (step, economy) => `give ${basketText(economyLabels(economy), step.give)}`,
  take: (step, economy) => `take ${basketText(economyLabels(economy), step.take)}`,
  set: (step) => `set${fieldsWords(step.set)}`,
  wait: ({ wait }) =>
    wait === 'day' ? 'wait a day' : wait === 'change' ? 'wait for a change' : `wait ${durationWords(wait)}`,
  until: ({ until }, { zone }) => `wait until ${instantText(zone, until)}`,
};

/** What became of a step, with words for whoever reads it: the step, each reason, and, in a language, what the player reads. */
export type StepTold = Omit<StepDone, 'reasons'> & {
  words: string;
  reasons: (Reason & { sentence: string })[];
  told?: string[];
};

export const stepsTold = (
  economy: Economy,
  steps: readonly RehearsalStep[],
  done: readonly StepDone[],
  language?: string,
): StepTold[] =>
  done.map((one, number) => {
    const step = steps[number]!;
    const shown = language === undefined ? undefined : languageShown(economy, language);
    const offer = 'buy' in step ? step.buy : undefined;
    return {
      ...verdictExplain(economy, one),
      words: stepWords(economy, step),
      ...(shown === undefined ? {} : { told: one.reasons.map((reason) => refusalText(economy, shown, reason, offer)) }),
    };
  });
