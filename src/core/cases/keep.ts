/** A rehearsal as a case: what happened becomes what must hold. */
import { unitsFormat } from '../amount/index.js';
import type { Basket } from '../amount/index.js';
import { ALLOWED } from '../document/index.js';
import type { CaseDocument } from '../document/index.js';
import type { Economy } from '../economy/index.js';
import { playerHolds, playerMadeUp } from '../player/index.js';
import type { Profile } from '../player/index.js';
import { refusedFor, rehearsalEnd, rehearsalSteps, stepWords, stepsTold } from '../rehearsal/index.js';
import type { RehearsalState, RehearsalStep, StepDone, Taken, Verb } from '../rehearsal/index.js';
import { instantRead, instantWritten, localWritten } from '../schedule/index.js';
import { UNTOUCHED } from '../trade/index.js';

type StepDocument = NonNullable<CaseDocument['steps']>[number];
type ExpectDocument = NonNullable<StepDocument['expect']>;

export interface Rehearsal {
  profile: Profile;
  atMs: number;
  seed?: number | undefined;
  steps: readonly RehearsalStep[];
  /** The player's, whose sentence of a refusal is kept too. */
  language?: string | undefined;
}

/** Steps of which it is asked whether they were allowed. */
const ACTED: readonly Verb[] = ['buy', 'sell', 'use', 'open', 'collect'];

/**
 * The rehearsal from the beginning of its minute, with what came of each step as what must hold. Nobody but the player has bought
 * anything when it begins. `name`: what is done first where nothing is written.
 */
export function caseKept(economy: Economy, rehearsal: Rehearsal, name?: string): CaseDocument {
  const { profile, seed = economy.seed, steps, language } = rehearsal;
  const atMs = rehearsal.atMs - (rehearsal.atMs % MINUTE_MS);
  const start = { player: playerMadeUp(economy, profile, atMs), shared: UNTOUCHED, atMs };
  const taken = [...rehearsalSteps(economy, start, steps, seed)];
  const told = stepsTold(
    economy,
    steps,
    taken.map(({ done }) => done),
    language,
  );
  const player = {
    ...(isEmpty(profile.attributes) ? {} : { attributes: profile.attributes }),
    ...(isEmpty(profile.holds) ? {} : { holds: amountsWritten(economy, profile.holds) }),
  };
  return {
    name: name ?? nameOf(economy, steps, taken),
    at: atWritten(economy.zone, atMs),
    ...(rehearsal.seed === undefined ? {} : { seed }),
    ...(isEmpty(player) ? {} : { player }),
    steps: steps.map((step, place): StepDocument => {
      const sentence = told[place]!.told?.[0];
      const says = language === undefined || sentence === undefined ? {} : { says: { [language]: sentence } };
      const expect = { ...expectKept(economy, taken[place]!), ...says };
      return { ...stepWritten(economy, step), ...(isEmpty(expect) ? {} : { expect }) };
    }),
  };
}

/** A rehearsal as a case, and the steps, from 1, of which something else comes in it. */
export interface Kept {
  case: CaseDocument;
  differs: number[];
}

/** As a case that begins with what the player of the rehearsal was and held, or the profile that was written, and with no history. */
export function rehearsalKept(
  economy: Economy,
  start: RehearsalState,
  {
    profile = profileOf(economy, start),
    ...asked
  }: Omit<Rehearsal, 'atMs' | 'profile'> & { profile?: Profile | undefined },
  done: readonly StepDone[],
): Kept {
  const written = caseKept(economy, { ...asked, profile, atMs: start.atMs });
  return { case: written, differs: caseDiffers(written, done) };
}

/** All that a player is and holds. */
function profileOf(economy: Economy, state: RehearsalState): Profile {
  const { attributes, holds } = rehearsalEnd(economy, state);
  const known = Object.entries(attributes).filter(([id]) => economy.attributes.has(id));
  return { attributes: Object.fromEntries(known), holds };
}

/**
 * Steps, from 1, that were allowed or refused otherwise in the rehearsal itself: a copy of a real player has a history,
 * and stock that others have bought from, which no case has.
 */
const caseDiffers = ({ steps = [] }: CaseDocument, done: readonly StepDone[]): number[] =>
  steps.flatMap(({ expect }, place) => {
    if (expect?.verdict === undefined) return [];
    const codes = refusedFor(done[place]!).join();
    return codes === (expect.verdict === ALLOWED ? '' : expect.verdict.join()) ? [] : [place + 1];
  });

const isEmpty = (group: object | undefined): boolean => group === undefined || Object.keys(group).length === 0;

const MINUTE_MS = 60_000;

/** Local time, or with an offset where clocks show it twice. */
function atWritten(zone: string, ms: number): string {
  const local = localWritten(zone, ms);
  return instantRead(zone, local)?.matches === 1 ? local : instantWritten(zone, ms);
}

const LONGEST_NAME = 120;

function nameOf(economy: Economy, steps: readonly RehearsalStep[], taken: readonly Taken[]): string {
  const acted = taken.findIndex(({ done }) => ACTED.includes(done.verb));
  const [step, done] = acted < 0 ? [steps[0], undefined] : [steps[acted]!, taken[acted]!.done];
  if (step === undefined) return 'Nothing is done';
  const words = stepWords(economy, step);
  const verdict =
    done === undefined ? '' : `: ${done.done ? ALLOWED : `refused for ${refusedFor(done).join(' and ')}`}`;
  return `${words[0]!.toUpperCase()}${words.slice(1)}${verdict}`.slice(0, LONGEST_NAME);
}

/** As people write them. */
const written = (economy: Economy, asset: string, units: number): number =>
  Number(unitsFormat(units, economy.currencies.get(asset)?.decimals ?? 0));
const amountsWritten = (economy: Economy, basket: Readonly<Basket> = {}): Record<string, number> =>
  Object.fromEntries(Object.entries(basket).map(([asset, units]) => [asset, written(economy, asset, units)]));

function stepWritten(economy: Economy, step: RehearsalStep): StepDocument {
  if ('give' in step) return { give: amountsWritten(economy, step.give) };
  if ('take' in step) return { take: amountsWritten(economy, step.take) };
  if ('until' in step) return { until: atWritten(economy.zone, step.until) };
  return step as StepDocument;
}

/** What came of a step; of what is held, only what it moved. */
function expectKept(economy: Economy, { state, done }: Taken): ExpectDocument {
  const moved = Object.keys(done.moved);
  const holds = Object.fromEntries(
    moved.map((asset) => [asset, written(economy, asset, playerHolds(economy, state.player, asset))]),
  );
  const levels = progressOfKind(done, 'level').map(({ track, level }) => [track, level] as const);
  const goals = progressOfKind(done, 'reached').map(({ goal }) => [goal, 'reached'] as const);
  const isActed = ACTED.includes(done.verb);
  return {
    ...(isActed ? { verdict: done.done ? ALLOWED : refusedFor(done) } : {}),
    ...(isActed && done.done && done.price ? { price: amountsWritten(economy, done.price) } : {}),
    // What was given by hand is no answer of the economy's.
    ...(moved.length > 0 && done.verb !== 'give' && done.verb !== 'take' ? { holds } : {}),
    ...(isEmpty(done.set) || done.verb === 'set' ? {} : { attributes: done.set }),
    ...(levels.length > 0 ? { levels: Object.fromEntries(levels) } : {}),
    ...(goals.length > 0 ? { goals: Object.fromEntries(goals) } : {}),
  };
}

type Progress = StepDone['progress'][number];
const progressOfKind = <K extends Progress['kind']>(
  { progress }: StepDone,
  kind: K,
): Extract<Progress, { kind: K }>[] =>
  progress.filter((one): one is Extract<Progress, { kind: K }> => one.kind === kind);
