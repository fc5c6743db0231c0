/** Goals and levels in words. */
import { unitsFormat } from '../amount/index.js';
import type { Basket } from '../amount/index.js';
import type { GoalStanding, Progress, TrackStanding } from '../progress/index.js';
import { amountText, basketText } from './amounts.js';
import type { AssetLabels } from './amounts.js';

/** Counts keep so many: what is nearly there is not shown as there. */
const COUNT_DIGITS = 4;

/** The number alone: the name stands behind what it is held against. */
const numberText = (labels: AssetLabels, count: number, money: string | null): string =>
  money === null
    ? count.toLocaleString('en', { maximumFractionDigits: COUNT_DIGITS })
    : unitsFormat(count, labels(money)?.decimals ?? 0);

interface Far {
  count: number;
  target: number;
  money: string | null;
}
/** "4 of 10", "120 of 500 Shells". */
const farText = (labels: AssetLabels, { count, target, money }: Far): string =>
  `${numberText(labels, count, money)} of ${money === null ? numberText(labels, target, null) : amountText(labels, money, target)}`;

interface Paid {
  given: Basket;
  dropped: Basket;
  shared?: Record<string, Basket>;
}

function paidText(labels: AssetLabels, { given, dropped, shared = {} }: Paid): string {
  const parts = [
    ['', given],
    ...Object.entries(shared).map(([team, basket]) => [` for the team ${team}`, basket] as const),
    [' kept out', dropped],
  ] as const;
  return parts
    .filter(([, basket]) => Object.keys(basket).length > 0)
    .map(([words, basket]) => `${basketText(labels, basket)}${words}`)
    .join(', ');
}

/** What a deed did for one goal or track: "Far Flyer reached: 50 Shells". */
export function progressSentence(labels: AssetLabels, one: Progress): string {
  switch (one.kind) {
    case 'nearer':
      return `${one.name}: ${farText(labels, one)}`;
    case 'team-nearer':
      return `${one.name} of ${one.teamName}: ${farText(labels, one)}`;
    case 'team-reached': {
      const paid = paidText(labels, one);
      return `${one.name} reached by ${one.teamName}${paid ? `: ${paid} for the team` : ''}`;
    }
    case 'failed':
      return `${one.name} counts nothing: ${one.problem}`;
    case 'level': {
      const paid = paidText(labels, one);
      return `${one.name}: level ${one.level}${paid ? `, ${paid}` : ''}`;
    }
    case 'reached': {
      const set = Object.entries(one.set).map(([attribute, value]) => `${attribute} is ${String(value)}`);
      const came = [paidText(labels, one), ...set].filter((words) => words !== '').join(', ');
      return `${one.name} reached${came ? `: ${came}` : ''}`;
    }
  }
}

/** How far a player is: "Far Flyer: 4 of 10". */
export const goalWords = (labels: AssetLabels, goal: GoalStanding): string =>
  `${goal.name}${goal.team ? ` of ${goal.team.name}` : ''}: ${goal.reached ? 'reached' : farText(labels, goal)}${goal.waitsFor ? `, once ${goal.waitsFor.name} is reached` : ''}`;

/** "Flyer: level 3, 40 of 90 Renown to level 4". */
export const trackWords = (labels: AssetLabels, { name, level, earned, money, next }: TrackStanding): string =>
  `${name}: level ${level}${next ? `, ${farText(labels, { count: earned, target: next.from, money })} to level ${next.level}` : ', the last'}`;
