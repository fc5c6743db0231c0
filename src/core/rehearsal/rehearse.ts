/**
 * A rehearsal: a throwaway player does one thing after another, by the rules that the live service has, and each step
 * tells what became of it. Pure: nothing is kept, and the same arguments give the same answer.
 */
import { DateTime, Duration } from 'luxon';
import type { Basket } from '../amount/index.js';
import { eventApply, eventProblems } from '../earning/index.js';
import { MOST_REPEATED, MOST_STEPS } from '../document/index.js';
import type { Activity, Economy } from '../economy/index.js';
import type { Value } from '../formula/index.js';
import { nearestName } from '../issue/index.js';
import { isPlayerAccount, worldAccount } from '../ledger/index.js';
import type { Movement } from '../ledger/index.js';
import { attributeProblems, playerHolds, playerPay, playerScope, playerSettle, playerWith } from '../player/index.js';
import type { Player } from '../player/index.js';
import { progressMake } from '../progress/index.js';
import type { Progress } from '../progress/index.js';
import { keyOf, keyWith, streamOf } from '../random/index.js';
import type { Key } from '../random/index.js';
import { LAST_MS } from '../schedule/index.js';
import { durationMs } from '../schema/index.js';
import { drawValue } from '../simulation/index.js';
import { frontMake } from '../storefront/index.js';
import { ACTS, grantApply, purchaseApply, purchaseCheck, sharedWith } from '../trade/index.js';
import type { ActKind, ActVerdict, Reason, Shared, Verdict } from '../trade/index.js';
import { verbOf } from './step.js';
import type { RehearsalStep, StepOf, Verb } from './step.js';

/** Stands among the codes of reasons where a step could not be done, and no rule of the economy refused it. */
export const NOT_POSSIBLE = 'not-possible';

/** The codes of a refusal, each once; none where all of it was done. */
export const refusedFor = ({ reasons, problem }: Pick<StepDone, 'reasons' | 'problem'>): string[] => [
  ...new Set([...reasons.map(({ code }) => code), ...(problem === undefined ? [] : [NOT_POSSIBLE])]),
];

/** Where a rehearsal stands between two steps. */
export interface RehearsalState {
  player: Player;
  shared: Shared;
  atMs: number;
}

/** What became of a step. */
export interface StepDone {
  verb: Verb;
  /** When it was over. */
  atMs: number;
  /** False where it was refused, or done less often than asked: why stands in `reasons` and `problem`. */
  done: boolean;
  /** How often it was done. */
  times: number;
  reasons: Reason[];
  /** Why the step could not be done at all, where no rule of the economy refused it. */
  problem?: string;
  /** What a purchase asked, or a sale paid; absent where there is no price. */
  price?: Basket;
  /** What the player has more, or less, in smallest units. */
  moved: Record<string, number>;
  /** What a cap or carry kept out, and what was due and not there. */
  dropped: Basket;
  missed: Basket;
  /** Attributes that changed, as they are now. */
  set: Record<string, Value>;
  /** What it did for goals and levels. */
  progress: Progress[];
}

/** So often until something changes, for which every shop is looked at. */
const MOST_CHANGES = 100;

/** A step that no economy like this can have: nothing is rehearsed then. */
export interface StepProblem {
  /** From 0. */
  step: number;
  message: string;
  fix: string;
}

/** What is wrong with steps before any is taken: names that are not there, fields that do not fit, too much at once. */
export function stepsProblems(economy: Economy, steps: readonly RehearsalStep[]): StepProblem[] {
  const problems: StepProblem[] = [];
  let repeated = 0;
  let changes = 0;
  for (const [step, one] of steps.entries()) {
    repeated += timesOf(one) * luckWork(one);
    if ('wait' in one && one.wait === 'change') changes++;
    for (const problem of stepProblems(economy, one)) problems.push({ step, ...problem });
  }
  if (steps.length > MOST_STEPS)
    problems.push({
      step: MOST_STEPS,
      message: `there are ${steps.length} steps`,
      fix: `Write ${MOST_STEPS} at most.`,
    });
  if (repeated > MOST_REPEATED)
    problems.push({
      step: 0,
      message: `these are ${repeated} times in all`,
      fix: `Ask for ${MOST_REPEATED} at most in all steps.`,
    });
  if (changes > MOST_CHANGES)
    problems.push({
      step: 0,
      message: `these wait ${changes} times for a change`,
      fix: `Wait for ${MOST_CHANGES} at most, and by a duration otherwise.`,
    });
  return problems;
}

function stepProblems(economy: Economy, step: RehearsalStep): Omit<StepProblem, 'step'>[] {
  const brings = 'brings' in step ? step.brings : undefined;
  if (brings !== undefined && !economy.currencies.has(brings) && !economy.items.has(brings)) {
    const near = nearestName(brings, [...economy.currencies.keys(), ...economy.items.keys()]);
    return [
      {
        message: `there is no currency or item "${brings}"`,
        fix: near ? `Did you mean "${near}"?` : 'Name one that exists.',
      },
    ];
  }
  return verbProblems(economy, step);
}

function verbProblems(economy: Economy, step: RehearsalStep): Omit<StepProblem, 'step'>[] {
  const unknown = (what: string, id: string, known: Iterable<string>): Omit<StepProblem, 'step'>[] => {
    const all = [...known];
    if (all.includes(id)) return [];
    const near = nearestName(id, all);
    return [
      { message: `there is no ${what} "${id}"`, fix: near ? `Did you mean "${near}"?` : 'Name one that exists.' },
    ];
  };
  const assets = [...economy.currencies.keys(), ...economy.items.keys()];
  if ('buy' in step) return unknown('offer', step.buy, economy.offers.keys());
  if ('sell' in step)
    return [...unknown('item', step.sell, economy.items.keys()), ...unknown('shop', step.shop, economy.shops.keys())];
  for (const verb of ['use', 'open', 'collect'] as const)
    if (verb in step) return unknown('item', (step as Record<string, string>)[verb]!, economy.items.keys());
  if ('event' in step)
    return eventProblems(economy, step.event, step.fields ?? {}).map((message) => ({
      message,
      fix: 'See the events of the economy.',
    }));
  if ('play' in step) return unknown('activity', step.play, economy.activities.keys());
  if ('give' in step || 'take' in step)
    return Object.keys('give' in step ? step.give : step.take).flatMap((id) => unknown('currency or item', id, assets));
  if ('set' in step) return attributeProblems(economy, step.set).map(({ message, fix }) => ({ message, fix }));
  if ('wait' in step && step.wait !== 'day' && step.wait !== 'change' && durationMs(step.wait) === undefined)
    return [
      { message: `"${step.wait}" is no time to wait`, fix: 'Write a duration such as PT1H or P3D, or day, or change.' },
    ];
  return [];
}

/** What a chosen luck takes, in times: it is looked for. */
export const luckWork = (step: RehearsalStep): number => ('brings' in step && step.brings !== undefined ? 200 : 1);
const timesOf = (step: RehearsalStep): number => ('times' in step ? (step.times ?? 1) : 1);

/**
 * Takes the steps one after another, from where things stand. What is drawn is keyed by the seed and the number of the
 * step, so a step has the same luck whatever is changed around it; boxes draw by the player's own count of openings.
 * `stepsProblems` is the caller's to ask before. Linear in the steps, and in `times` of events and plays.
 */
export function* rehearsalSteps(
  economy: Economy,
  start: RehearsalState,
  steps: readonly RehearsalStep[],
  seed = economy.seed,
): Generator<Taken, void> {
  let state = start;
  for (const [number, step] of steps.entries()) {
    const taken = stepTake(economy, state, step, keyOf(seed, 'rehearsal', number));
    state = taken.state;
    yield taken;
  }
}

/** All of the steps, and where things stand after the last. */
export function rehearse(
  economy: Economy,
  start: RehearsalState,
  steps: readonly RehearsalStep[],
  seed = economy.seed,
): { steps: StepDone[]; state: RehearsalState } {
  const taken = [...rehearsalSteps(economy, start, steps, seed)];
  return { steps: taken.map(({ done }) => done), state: taken.at(-1)?.state ?? start };
}

/** A step, and where things stand after it. */
export interface Taken {
  state: RehearsalState;
  done: StepDone;
}

/** So often another luck is tried, until what was chosen comes. */
const MOST_LUCKS = 2000;

/** One step from where things stand, in the luck that was chosen where one was. */
function stepTake(economy: Economy, state: RehearsalState, step: RehearsalStep, luck: Key): Taken {
  const brings = 'brings' in step ? step.brings : undefined;
  const first = stepTaken(economy, state, step, luck);
  if (brings === undefined || !first.done.done) return first;
  const comes = ({ done: { moved } }: Taken): boolean => (moved[brings] ?? 0) > 0;
  if (comes(first)) return first;
  for (let other = 1; other < MOST_LUCKS; other++) {
    // Boxes draw by who opens them: it is somebody else who has the luck.
    const { id } = state.player;
    const lucky = { ...state.player, id: `${id} ${other}` };
    const taken = stepTaken(economy, { ...state, player: lucky }, step, keyWith(luck, 'brings', other));
    if (comes(taken)) return { ...taken, state: { ...taken.state, player: { ...taken.state.player, id } } };
  }
  const name = (economy.currencies.get(brings) ?? economy.items.get(brings))!.name;
  const problem = `${name} does not come of it, tried with ${MOST_LUCKS} kinds of luck`;
  return {
    state,
    done: {
      ...first.done,
      atMs: state.atMs,
      done: false,
      times: 0,
      problem,
      moved: {},
      dropped: {},
      missed: {},
      set: {},
      progress: [],
    },
  };
}

function stepTaken(economy: Economy, state: RehearsalState, step: RehearsalStep, luck: Key): Taken {
  const verb = verbOf(step);
  const take = TAKES[verb] as (of: At<Verb>) => Taking;
  const taken = take({ economy, state, step: step as never, luck });
  const next = { ...state, ...taken.state };
  const moved: Record<string, number> = {};
  for (const { asset, units, from, to } of taken.movements ?? []) {
    if (isPlayerAccount(to)) moved[asset] = (moved[asset] ?? 0) + units;
    if (isPlayerAccount(from)) moved[asset] = (moved[asset] ?? 0) - units;
  }
  for (const asset in moved) if (moved[asset] === 0) Reflect.deleteProperty(moved, asset);
  const { times = 1, reasons = [], problem, price, dropped = {}, missed = {}, progress = [] } = taken;
  return {
    state: next,
    done: {
      verb,
      atMs: next.atMs,
      done: reasons.length === 0 && problem === undefined,
      times: reasons.length === 0 && problem === undefined ? times : (taken.times ?? 0),
      reasons,
      ...(problem === undefined ? {} : { problem }),
      ...(price === undefined ? {} : { price }),
      moved,
      dropped,
      missed,
      set: attributesChanged(state.player, next.player),
      progress: progress.filter(({ kind }) => kind !== 'nearer' && kind !== 'team-nearer'),
    },
  };
}

function attributesChanged({ attributes: before }: Player, { attributes: after }: Player): Record<string, Value> {
  return Object.fromEntries(Object.entries(after).filter(([name, value]) => before[name] !== value));
}

interface At<V extends Verb> {
  economy: Economy;
  state: RehearsalState;
  step: StepOf<V>;
  luck: Key;
}

/** What a step changed; what is not said stays, or is nothing. */
interface Taking {
  state?: Partial<RehearsalState>;
  times?: number;
  movements?: readonly Movement[];
  reasons?: Reason[];
  problem?: string;
  price?: Basket;
  dropped?: Basket;
  missed?: Basket;
  progress?: Progress[];
}

const TAKES: { readonly [V in Verb]: (at: At<V>) => Taking } = {
  buy: ({ economy, state, step: { buy: offer, times, pay }, luck }) => {
    const request = { offer, ...(times === undefined ? {} : { times }), ...(pay === undefined ? {} : { pay }) };
    const verdict: Verdict = purchaseCheck(economy, state.player, state.shared, request, state.atMs);
    const price = verdict.price ? { price: verdict.price.total } : {};
    if (!verdict.allowed) return { reasons: verdict.reasons, ...price };
    const { player, shared, movements, progress } = purchaseApply(economy, state.player, state.shared, verdict, luck);
    return {
      state: { player, shared: sharedWith(state.shared, shared) },
      times: verdict.times,
      movements,
      progress,
      ...price,
    };
  },
  sell: ({ step: { sell: item, shop, times }, ...at }) => act(at, 'sell', { item, shop, ...(times ? { times } : {}) }),
  use: ({ step: { use: item, times }, ...at }) => act(at, 'use', { item, ...(times ? { times } : {}) }),
  open: ({ step: { open: item, times }, ...at }) => act(at, 'open', { item, ...(times ? { times } : {}) }),
  collect: ({ step: { collect: item }, ...at }) => act(at, 'collect', { item }),

  event: ({ economy, state, step: { event, fields = {}, times = 1 }, luck }) =>
    repeated(state, times, (player, time) =>
      eventApply(economy, player, { id: `${time}`, name: event, fields }, state.atMs, keyWith(luck, time)),
    ),

  play: ({ economy, state, step: { play, times = 1 }, luck }) => {
    const activity = economy.activities.get(play)!;
    return repeated(state, times, (player, time, atMs) => played(economy, activity, player, atMs, keyWith(luck, time)));
  },

  give: ({ step: { give }, ...at }) => granted(at, { gives: give, takes: {} }),
  take: ({ step: { take }, ...at }) => granted(at, { gives: {}, takes: take }),

  set: ({ economy, state, step: { set } }) => {
    const changed = playerWith(state.player, { attributes: { ...state.player.attributes, ...set } });
    const { player, movements, progress } = progressMake(economy, changed, { movements: [], set }, state.atMs);
    return { state: { player }, movements, progress };
  },

  wait: ({ economy, state, step: { wait } }) => {
    if (wait !== 'change') return until(economy, state, waited(economy.zone, state.atMs, wait));
    const next = changeMs(economy, state);
    return next === undefined ? { problem: 'nothing changes by itself any more' } : until(economy, state, next);
  },
  until: ({ economy, state, step }) =>
    step.until < state.atMs ? { problem: 'that is before the step before' } : until(economy, state, step.until),
};

/** A deed that comes again, each time at its own instant; it ends where one of the times is refused. */
function repeated(
  state: RehearsalState,
  times: number,
  once: (player: Player, time: number, atMs: number) => Once,
): Taking {
  const taking = { movements: [] as Movement[], progress: [] as Progress[], missed: {} as Basket };
  let { player, atMs } = state;
  let time = 0;
  for (; time < times; time++) {
    const one = once(player, time, atMs);
    if (one.problem !== undefined) return { ...taking, state: { player, atMs }, times: time, problem: one.problem };
    player = one.player;
    atMs = one.atMs ?? atMs;
    taking.movements.push(...one.movements);
    taking.progress.push(...one.progress);
  }
  return { ...taking, state: { player, atMs }, times: time };
}

interface Once {
  player: Player;
  movements: readonly Movement[];
  progress: readonly Progress[];
  /** When it was over, where it took time. */
  atMs?: number;
  /** Why it could not be done; nothing happened then. */
  problem?: string;
}

const MINUTE_MS = 60_000;

/** What the activity needs is paid when it begins; its events come when its minutes are over. */
function played(economy: Economy, activity: Activity, before: Player, fromMs: number, luck: Key): Once {
  const settled = playerSettle(economy, before, fromMs);
  const lacks = Object.keys(activity.needs).filter(
    (asset) => playerHolds(economy, settled.player, asset) < activity.needs[asset]!,
  );
  if (lacks.length > 0) {
    const names = lacks.map((id) => (economy.currencies.get(id) ?? economy.items.get(id))!.name);
    return { player: before, movements: [], progress: [], problem: `not enough ${names.join(' and ')} to begin` };
  }
  const account = worldAccount('activity');
  const entry = playerPay(economy, settled.player, activity.needs, account, `activity:${activity.id}`, fromMs);
  const atMs = Math.min(LAST_MS, fromMs + activity.minutes * MINUTE_MS);
  const result = {
    player: entry.player,
    movements: [...settled.movements, ...entry.movements],
    progress: [] as Progress[],
  };
  for (const [index, { event: name, fields }] of activity.emits.entries()) {
    const random = streamOf(keyWith(luck, 'fields', index));
    const scope = playerScope(economy, result.player, atMs);
    const values = Object.fromEntries(fields.map(({ field, draw }) => [field, drawValue(draw, random, scope)]));
    const earned = eventApply(economy, result.player, { id: name, name, fields: values }, atMs, keyWith(luck, index));
    result.player = earned.player;
    result.movements.push(...earned.movements);
    result.progress.push(...earned.progress);
  }
  return { ...result, atMs };
}

function act(
  { economy, state }: Omit<At<Verb>, 'step'>,
  kind: ActKind,
  request: { item: string; shop?: string; times?: number },
): Taking {
  const { check, apply } = ACTS[kind];
  const verdict: ActVerdict = check(economy, state.player, state.shared, request, state.atMs);
  const price = kind === 'sell' ? { price: verdict.gives } : {};
  if (!verdict.allowed) return { reasons: verdict.reasons, ...price };
  const { player, shared, movements, dropped, progress } = apply(economy, state.player, state.shared, verdict);
  return {
    state: { player, shared: sharedWith(state.shared, shared) },
    times: verdict.times,
    movements,
    dropped,
    progress,
    ...price,
  };
}

function granted({ economy, state }: Omit<At<Verb>, 'step'>, baskets: { gives: Basket; takes: Basket }): Taking {
  const by = { account: worldAccount('rehearsal'), cause: 'rehearsal' };
  const { player, movements, dropped, missed, progress } = grantApply(economy, state.player, baskets, by, state.atMs);
  return { state: { player }, movements, dropped, missed, progress };
}

/** Days by the clocks on the wall, hours and less as they pass. */
function waited(zone: string, fromMs: number, wait: string): number {
  const by = wait === 'day' ? Duration.fromObject({ days: 1 }) : Duration.fromISO(wait);
  return DateTime.fromMillis(fromMs, { zone }).plus(by).toMillis();
}

function until(economy: Economy, state: RehearsalState, atMs: number): Taking {
  if (!(atMs <= LAST_MS)) return { problem: 'that is past the last day that there is' };
  const { player, movements } = playerSettle(economy, state.player, atMs);
  return { state: { player, atMs }, movements };
}

/** The next instant at which time alone changes what the player has or what a shop shows them. */
function changeMs(economy: Economy, { player, shared, atMs }: RehearsalState): number | undefined {
  const changes = [...economy.shops.values()].flatMap((shop) => {
    const { changesMs } = frontMake(economy, shop, player, shared, atMs);
    return changesMs === null ? [] : [changesMs];
  });
  return changes.length === 0 ? undefined : Math.min(...changes);
}
