/** Plays cases, and holds what happens against what must hold. Pure: the same economy gives the same answer. */
import type { CaseDocument, EconomyDocument } from '../document/index.js';
import type { Economy } from '../economy/index.js';
import { pointerOf } from '../issue/index.js';
import { playerMadeUp } from '../player/index.js';
import { luckWork, rehearsalSteps, stepWords, stepsTold } from '../rehearsal/index.js';
import type { RehearsalStep, StepTold } from '../rehearsal/index.js';
import { UNTOUCHED } from '../trade/index.js';
import { expectationMisses } from './look.js';
import type { Miss } from './look.js';
import { caseRead } from './read.js';
import type { Case, CaseProblem } from './types.js';

/** What does not hold after a step; step 0 is before any. */
export interface CaseMiss extends Miss {
  step: number;
  /** The step in words: "buy Storm Frame at Pier Stall". */
  words: string;
}

export type CaseState = 'holds' | 'broken' | 'unplayable';
export interface CaseResult {
  id: string;
  name: string;
  state: CaseState;
  /** Offers that it buys or looks for. */
  offers: string[];
  /** Of a broken one. */
  misses: CaseMiss[];
  /** Of one that cannot be played. */
  problems: CaseProblem[];
}

/** What all cases of an economy may take together, in steps as cheap as a purchase. */
export const MOST_WORK = 100_000;
/** Every shop is looked at. */
const WORK_OF_A_CHANGE = 200;
const WORK_OF_A_FRONT = 50;

const stepWork = (step: RehearsalStep): number =>
  'wait' in step && step.wait === 'change'
    ? WORK_OF_A_CHANGE
    : ('times' in step ? (step.times ?? 1) : 1) * luckWork(step);
const caseWork = ({ steps, expects }: Case): number =>
  steps.reduce((sum, step) => sum + stepWork(step), 1) +
  WORK_OF_A_FRONT * expects.filter((one) => one?.shows !== undefined || one?.hides !== undefined).length;

const TOO_MUCH = {
  message: `all cases together are more work than ${MOST_WORK} purchases, so this one was not played`,
  fix: 'Take out cases, or ask for fewer times and fewer waits for a change.',
};

/** Plays one case. */
export function caseRun(economy: Economy, id: string, written: CaseDocument): CaseResult {
  return caseRunWithin(economy, id, written, MOST_WORK).result;
}

/** Plays every case of an economy, in the order in which they are written. Linear in their steps. */
export function casesRun(economy: Economy, { cases = {} }: EconomyDocument): CaseResult[] {
  let left = MOST_WORK;
  return Object.entries(cases).map(([id, written]) => {
    const { result, work } = caseRunWithin(economy, id, written, left);
    left -= work;
    return result;
  });
}

function caseRunWithin(
  economy: Economy,
  id: string,
  written: CaseDocument,
  most: number,
): { result: CaseResult; work: number } {
  const read = caseRead(economy, id, written);
  const about = { id, name: written.name, offers: offersOf(written) };
  const unplayable = (problems: CaseProblem[]): CaseResult => ({ ...about, state: 'unplayable', misses: [], problems });
  if ('problems' in read) return { result: unplayable(read.problems), work: 1 };
  const work = caseWork(read.case);
  if (work > most) return { result: unplayable([{ pointer: pointerOf(['cases', id]), ...TOO_MUCH }]), work: 0 };
  const misses = casePlay(economy, read.case);
  return { result: { ...about, state: misses.length === 0 ? 'holds' : 'broken', misses, problems: [] }, work };
}

const caseStart = (economy: Economy, { profile, atMs }: Case) => ({
  player: playerMadeUp(economy, profile, atMs),
  shared: UNTOUCHED,
  atMs,
});

function casePlay(economy: Economy, one: Case): CaseMiss[] {
  const { steps, expects, seed } = one;
  const start = caseStart(economy, one);
  const [first] = expects;
  const misses: CaseMiss[] = first
    ? expectationMisses(first, { economy, state: start }).map((miss) => ({
        step: 0,
        words: 'before any step',
        ...miss,
      }))
    : [];
  let number = 0;
  for (const { state, done } of rehearsalSteps(economy, start, steps, seed)) {
    const step = steps[number++]!;
    const wanted = expects[number];
    if (!wanted) continue;
    for (const miss of expectationMisses(wanted, { economy, state, step, done }))
      misses.push({ step: number, words: stepWords(economy, step), ...miss });
  }
  return misses;
}

/** What came of each step of a case; undefined where it cannot be played. */
export function caseTold(economy: Economy, id: string, written: CaseDocument): StepTold[] | undefined {
  const read = caseRead(economy, id, written);
  if ('problems' in read) return undefined;
  const { steps, seed } = read.case;
  const taken = [...rehearsalSteps(economy, caseStart(economy, read.case), steps, seed)];
  return stepsTold(
    economy,
    steps,
    taken.map(({ done }) => done),
  );
}

function offersOf({ expect, steps = [] }: CaseDocument): string[] {
  const looked = [expect, ...steps.map((step) => step.expect)].flatMap((one) => [
    ...(one?.shows ?? []),
    ...(one?.hides ?? []),
  ]);
  return [...new Set([...steps.flatMap(({ buy }) => (buy === undefined ? [] : [buy])), ...looked])];
}
