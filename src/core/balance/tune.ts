/**
 * Looks for places of levers at which a scenario meets its targets: a direct search over their steps, with small runs on
 * the same luck and a few larger ones at the end. How, and why so, is told in docs/method.md.
 */
import type { EconomyDocument } from '../document/index.js';
import type { Target } from '../economy/index.js';
import { leverAt, leverNow, leverSteps } from '../levers/index.js';
import type { Lever } from '../levers/index.js';
import { simulationCompare, targetMissed } from '../simulation/index.js';
import type { Difference, SimulationResult, TargetRow } from '../simulation/index.js';
import { Trials } from './trials.js';
import type { Play, Point, Trial } from './trials.js';

export interface TuneAsked {
  document: EconomyDocument;
  levers: readonly Lever[];
  /** Those of the scenario that count. */
  targets: readonly Target[];
  play: Play;
  /** How many players the small runs have, and those at the end. */
  players: { small: number; full: number };
  /** Told after every run, with the best so far. */
  onProgress?: (progress: TuneProgress) => void;
  /** Told at the end: the runs of the document as it is and of the answers, in their order. */
  onAnswers?: (before: SimulationResult, answers: readonly SimulationResult[]) => void;
  /** Asked after every few runs: the best so far is the answer then. */
  stopped?: () => boolean;
}

export interface TuneProgress {
  /** Runs that are done, of about so many. */
  done: number;
  of: number;
  /** By lever, and how the targets stand there in a small run. */
  best: { settings: LeverMoved[]; set: Record<string, unknown>; targets: TargetRow[] };
}

export interface LeverMoved {
  lever: string;
  name: string;
  moves: Lever['moves'];
  /** Where it stands in the document, and where it would stand. */
  before: number;
  after: number;
}

export interface TuneAnswer {
  settings: LeverMoved[];
  /** What to set in the document. */
  set: Record<string, unknown>;
  targets: TargetRow[];
  /** What else differs from the document as it is by more than chance, the surest first; not what the targets measure. */
  elsewhere: Difference[];
  /** Of a search over one lever: between which of its values, both played, it is as well as here. Else null. */
  range: { low: number; high: number } | null;
}

export interface TuneResult {
  /** `met`: the first answer meets every target; `likely`: none is missed beyond doubt; `none`: there is no answer within the bounds. */
  outcome: 'met' | 'likely' | 'none';
  /** True where it was stopped before its time: the answers are of small runs then. */
  stopped: boolean;
  /** How many runs were played, and by how many players each. */
  runs: number;
  players: { small: number; full: number };
  /** How the document as it is stands to the targets. */
  before: TargetRow[];
  /** Up to three, the best first; none of them is near another, or in the range of another. */
  answers: TuneAnswer[];
  /** Of no answer: names of the targets without any one of which one was found. Empty where no one alone is in the way. */
  inTheWay: string[];
  /** Names of the targets whose figure was the same wherever the levers stood. */
  unmoved: string[];
}

/** How many points are looked at first: of each lever alone, and spread over the whole range at least and for each lever. */
const SPREAD = { alone: 5, least: 8, each: 4 };
/** How many rounds of neighbours at most, from each of so many beginnings. */
const MOST_ROUNDS = 24;
const BEGINNINGS = 2;
const FINALISTS = 5;
/** Runs that are asked for before it is looked whether to stop: as many as threads may share. */
const AT_ONCE = 8;
const ANSWERS = 3;
/** Answers differ by this part of a lever's range at least. */
const APART = 0.08;
/** How far beside the best it is looked at once more, as a part of a lever's range. */
const NEAR = 0.03;
const MOST_ELSEWHERE = 6;

/**
 * What being near a bound costs beside being outside by all of its width, what moving a lever over all of its range does,
 * and what moving it at all: of answers that are as good, the one that changes least is the best.
 */
const LEAN_COSTS = 0.05;
const MOVE_COSTS = 0.02;
const CHANGE_COSTS = 0.01;

export async function tune(asked: TuneAsked): Promise<TuneResult> {
  const search = new Search(asked);
  await search.spread();
  await search.descend();
  return search.finish();
}

/** Which of two trials is better, as `sort` takes it. */
type Order = (a: Trial, b: Trial) => number;

class Search {
  private readonly trials: Trials;
  private readonly draft: Point;
  private readonly tried: Trial[] = [];
  private readonly expected: number;

  constructor(private readonly asked: TuneAsked) {
    const { document, levers, targets, play, players } = asked;
    this.trials = new Trials(document, levers, targets, play, players.small);
    this.draft = this.trials.draft();
    const spread = SPREAD.least + (SPREAD.each + SPREAD.alone) * levers.length;
    this.expected = Math.min(this.lattice(), spread + 2 * levers.length * 8) + FINALISTS + 1;
  }

  private get isStopped(): boolean {
    return this.asked.stopped?.() ?? false;
  }

  /** How many points there are. */
  private lattice(): number {
    return this.asked.levers.reduce((product, lever) => product * (leverSteps(lever) + 1), 1);
  }

  /** What a trial costs: less is better, and 0 is a draft that meets all with room to spare. */
  private cost({ point, targets }: Pick<Trial, 'point' | 'targets'>, leftOut?: number): number {
    const outside = targets.reduce(
      (sum, { off, lean }, place) => (place === leftOut ? sum : sum + off ** 2 + LEAN_COSTS * lean ** 2),
      0,
    );
    return outside + this.moved(point);
  }

  /** What having moved the levers so far costs: the sum, so that one lever may stay where another goes all the way. */
  private moved(point: Point): number {
    return this.asked.levers.reduce((sum, lever, place) => {
      const steps = Math.abs(point[place]! - this.draft[place]!);
      return steps === 0 ? sum : sum + CHANGE_COSTS + (MOVE_COSTS * steps) / Math.max(1, leverSteps(lever));
    }, 0);
  }

  /** Of equal cost the first by its place, so that the answer is always the same. */
  private readonly byCost = (a: Trial, b: Trial): number => this.byCostWithout()(a, b);

  private readonly byCostWithout =
    (leftOut?: number): Order =>
    (a, b) =>
      this.cost(a, leftOut) - this.cost(b, leftOut) || comparePoints(a.point, b.point);

  /** Plays points that are within the bounds and new, and tells the best so far. */
  private async play(points: readonly Point[]): Promise<void> {
    const wanted = points.filter(
      (point) => this.trials.within(point) && !this.tried.some((one) => comparePoints(one.point, point) === 0),
    );
    const distinct = [...new Map(wanted.map((point) => [point.join(), point])).values()];
    for (let from = 0; from < distinct.length && !(this.isStopped && this.tried.length > 0); from += AT_ONCE)
      await Promise.all(
        distinct.slice(from, from + AT_ONCE).map(async (point) => {
          this.tried.push(await this.trials.at(point));
          this.tell();
        }),
      );
    this.tried.sort(this.byCost);
  }

  private tell(): void {
    const best = this.tried.reduce((one, other) => (this.byCost(other, one) < 0 ? other : one));
    this.asked.onProgress?.({
      done: this.tried.length,
      of: Math.max(this.expected, this.tried.length),
      best: {
        settings: this.settings(best.point),
        set: this.trials.setAt(best.point),
        targets: this.rows(best.result),
      },
    });
  }

  /** The draft, then each lever alone and points spread evenly over the whole range (Halton's sequence), or all there are. */
  async spread(): Promise<void> {
    const { levers } = this.asked;
    const sizes = levers.map((lever) => leverSteps(lever) + 1);
    const wanted = SPREAD.least + SPREAD.each * levers.length;
    const alone = sizes.flatMap((size, place) =>
      Array.from({ length: SPREAD.alone }, (_, number) =>
        this.draft.map((steps, one) =>
          one === place ? Math.round((number * (size - 1)) / (SPREAD.alone - 1)) : steps,
        ),
      ),
    );
    const points =
      this.lattice() <= wanted
        ? everyPoint(sizes)
        : [
            ...alone,
            ...Array.from({ length: wanted }, (_, number) =>
              sizes.map((size, place) => Math.floor(halton(number + 1, PRIMES[place % PRIMES.length]!) * size)),
            ),
          ];
    await this.play([this.draft]);
    await this.play(points);
  }

  /** From the best points on: neighbours by strides that are halved where none is better (Hooke & Jeeves 1961). */
  async descend(order: Order = this.byCost): Promise<void> {
    for (const begin of this.apart([...this.tried].sort(order), BEGINNINGS)) {
      let at = begin;
      let strides = this.asked.levers.map((lever) => Math.max(1, Math.round(leverSteps(lever) / 8)));
      for (let round = 0; round < MOST_ROUNDS && !this.isStopped; round++) {
        const around = this.around(at.point, strides);
        await this.play(around);
        const better = this.bestOf(around, at, order);
        if (better !== at) {
          // What went well in one direction is tried once more.
          const further = better.point.map((steps, place) => 2 * steps - at.point[place]!);
          await this.play([further]);
          at = this.bestOf([further], better, order);
        } else if (strides.every((stride) => stride === 1)) break;
        else strides = strides.map((stride) => Math.max(1, Math.floor(stride / 2)));
      }
    }
  }

  /** Each lever by its stride to either side. */
  private around(point: Point, strides: readonly number[]): Point[] {
    return point.flatMap((_, place) =>
      [-1, 1].map((way) => point.map((steps, one) => (one === place ? steps + way * strides[place]! : steps))),
    );
  }

  /** The best of `other` and those of the points that were played. */
  private bestOf(points: readonly Point[], other: Trial, order: Order): Trial {
    const trials = this.tried.filter((one) => points.some((point) => comparePoints(one.point, point) === 0));
    return [other, ...trials].sort(order)[0]!;
  }

  /** The best trials of which none is near another. */
  private apart(trials: readonly Trial[], most: number): Trial[] {
    const picked: Trial[] = [];
    for (const trial of trials) {
      if (picked.length === most) break;
      const isNear = picked.some(({ point }) =>
        this.asked.levers.every(
          (lever, place) => Math.abs(point[place]! - trial.point[place]!) <= APART * leverSteps(lever),
        ),
      );
      if (!isNear) picked.push(trial);
    }
    return picked;
  }

  /** The best are played once more by more players, beside the document as it is. */
  async finish(): Promise<TuneResult> {
    const { document, levers, targets, play, players } = this.asked;
    const stopped = this.isStopped;
    const full = stopped ? this.trials : new Trials(document, levers, targets, play, players.full);
    const before = await full.at(this.draft);
    const played = (points: readonly Point[]) => Promise.all(points.map((point) => full.at(point)));
    let finalists = (await played(this.apart(this.tried, FINALISTS).map(({ point }) => point))).sort(this.byMarks);
    if (!stopped && this.open(finalists[0]!) > 0) {
      // What is nearly well is often a little beside what is.
      const strides = levers.map((lever) => Math.max(1, Math.round(leverSteps(lever) * NEAR)));
      const near = await played(this.around(finalists[0]!.point, strides).filter(full.within));
      finalists = [...finalists, ...near].sort(this.byMarks);
    }
    const best = finalists[0]!;
    const outcome = this.open(best) === 0 ? 'met' : this.missed(best) === 0 ? 'likely' : 'none';
    const ranged = await this.ranged(this.apart(finalists, ANSWERS), full, outcome);
    const inTheWay = outcome === 'none' ? await this.inTheWay(full) : [];
    this.asked.onAnswers?.(
      before.result,
      ranged.map(({ trial }) => trial.result),
    );
    return {
      outcome,
      stopped,
      runs: this.trials.begun + (stopped ? 0 : full.begun),
      players,
      before: this.rows(before.result),
      answers: ranged.map(({ trial, range }) => ({ ...this.answer(trial, before.result), range })),
      inTheWay,
      unmoved: this.unmoved(),
    };
  }

  /** Of answers beside one that is well, those that are not are no answers, nor are those in the range of a better one. */
  private async ranged(
    trials: readonly Trial[],
    full: Trials,
    outcome: TuneResult['outcome'],
  ): Promise<{ trial: Trial; range: TuneAnswer['range'] }[]> {
    const [lever] = this.asked.levers;
    if (outcome === 'none') return trials.map((trial) => ({ trial, range: null }));
    const well = outcome === 'met' ? this.open : this.missed;
    const answers: { trial: Trial; range: TuneAnswer['range']; ends: [number, number] | undefined }[] = [];
    for (const trial of trials) {
      const [at] = trial.point;
      const known = answers.some(({ ends }) => ends && at! >= ends[0] && at! <= ends[1]);
      if (known || this.missed(trial) > 0) continue;
      const single = this.asked.levers.length === 1 && !this.isStopped && well(trial) === 0;
      const ends = single ? await this.ends(trial, full, (one) => well(one) === 0) : undefined;
      const value = (steps: number): number =>
        steps === this.draft[0] ? leverNow(this.asked.document, lever!) : leverAt(lever!, steps);
      answers.push({ trial, ends, range: ends ? { low: value(ends[0]), high: value(ends[1]) } : null });
    }
    return answers;
  }

  /** How far the only lever goes to either side until it is no longer well, in steps; found by halving. */
  private async ends(
    { point: [from] }: Trial,
    full: Trials,
    isWell: (trial: Trial) => boolean,
  ): Promise<[number, number]> {
    const last = leverSteps(this.asked.levers[0]!);
    const wellAt = async (steps: number): Promise<boolean> =>
      steps >= 0 && steps <= last && isWell(await full.at([steps]));
    const missedAt = this.tried
      .filter(({ targets }) => targets.some(({ off }) => off !== 0))
      .map(({ point }) => point[0]!);
    const end = async (way: 1 | -1): Promise<number> => {
      const beyond = way > 0 ? last + 1 : -1;
      const near = missedAt.filter((steps) => (steps - from!) * way > 0).sort((a, b) => (a - b) * way);
      // A place where a small run missed a target may be well by more players.
      let [inside, outside] = [from!, beyond];
      for (const steps of near) {
        if (await wellAt(steps)) inside = steps;
        else {
          outside = steps;
          break;
        }
      }
      while (Math.abs(outside - inside) > 1) {
        const middle = Math.trunc((inside + outside) / 2);
        if (await wellAt(middle)) inside = middle;
        else outside = middle;
      }
      return inside;
    };
    return Promise.all([end(-1), end(1)]);
  }

  /** How many targets are missed beyond doubt, and how many are not met beyond doubt. */
  private missed = ({ result }: Trial): number => this.rows(result).filter(targetMissed).length;
  private open = ({ result }: Trial): number => this.rows(result).filter(({ mark }) => mark !== 'met').length;

  /** First what misses fewest targets, then what leaves fewest undecided. */
  private byMarks = (a: Trial, b: Trial): number =>
    this.missed(a) - this.missed(b) || this.open(a) - this.open(b) || this.byCost(a, b);

  private rows({ targets }: SimulationResult): TargetRow[] {
    return targets.filter(({ id }) => this.asked.targets.some((target) => target.id === id));
  }

  private settings(point: Point): LeverMoved[] {
    const { document, levers } = this.asked;
    return levers.map((lever, place) => {
      const before = leverNow(document, lever);
      const stays = point[place] === this.draft[place];
      return {
        lever: lever.id,
        name: lever.name,
        moves: lever.moves,
        before,
        after: stays ? before : leverAt(lever, point[place]!),
      };
    });
  }

  private answer({ point, result }: Trial, before: SimulationResult): Omit<TuneAnswer, 'range'> {
    const comparison = simulationCompare(before, [result]);
    const differences = comparison.comparable ? comparison.differences : [];
    return {
      settings: this.settings(point),
      set: this.trials.setAt(point),
      targets: this.rows(result),
      elsewhere: differences
        .filter((one) => one.distinguishable && !this.asked.targets.some((target) => measures(target, result, one)))
        .sort((a, b) => sureness(b) - sureness(a))
        .slice(0, MOST_ELSEWHERE),
    };
  }

  /** Each target is left out in turn and the others are searched for; it is in the way where none of them is missed then. */
  private async inTheWay(full: Trials): Promise<string[]> {
    const { targets } = this.asked;
    if (targets.length === 1) return [];
    const names: string[] = [];
    for (const [place, { id, name }] of targets.entries()) {
      const order = this.byCostWithout(place);
      await this.descend(order);
      const best = this.apart([...this.tried].sort(order), BEGINNINGS);
      const played = await Promise.all(best.map(({ point }) => full.at(point)));
      const missed = (trial: Trial) => this.rows(trial.result).filter((row) => row.id !== id && targetMissed(row));
      if (played.some((trial) => missed(trial).length === 0)) names.push(name);
    }
    return names;
  }

  /** What no lever moves: every trial came to the same figure. Of one trial alone nothing is known. */
  private unmoved(): string[] {
    const [first, ...others] = this.tried;
    if (others.length === 0) return [];
    const same = (place: number) => (trial: Trial) =>
      JSON.stringify(trial.targets[place]) === JSON.stringify(first!.targets[place]);
    return this.asked.targets.filter((_, place) => others.every(same(place))).map(({ name }) => name);
  }
}

/** Whether a difference is of the figure that a target is about: it stands with the target already. */
function measures(target: Target, { items, currencies, personas, days }: SimulationResult, one: Difference): boolean {
  const nameOf = (names: readonly string[], ids: readonly string[], id: string) => names[ids.indexOf(id)];
  const persona = personas.find(({ id }) => id === target.persona);
  if (persona && persona.name !== one.persona) return false;
  if (target.measure === 'wallet')
    return (
      one.metric === 'balance' &&
      (target.day ?? days) === days &&
      currencies.find(({ id }) => id === target.currency)?.name === one.subject
    );
  if (target.measure !== 'days-to-own' && target.measure !== 'owners') return false;
  return one.metric !== 'balance' && nameOf(items.name, items.item, target.item) === one.subject;
}

/** By how many of its half intervals a difference is away from 0. */
const sureness = ({ difference, low }: Difference): number =>
  Math.abs(difference) / Math.max(1e-12, Math.abs(difference - (low ?? 0)));

function comparePoints(a: Point, b: Point): number {
  const place = a.findIndex((steps, index) => steps !== b[index]);
  return place < 0 ? 0 : a[place]! - b[place]!;
}

const everyPoint = (sizes: readonly number[]): Point[] =>
  sizes.reduce<Point[]>(
    (points, size) => points.flatMap((point) => Array.from({ length: size }, (_, steps) => [...point, steps])),
    [[]],
  );

const PRIMES = [2, 3, 5, 7, 11, 13, 17, 19];

/** The `number`th of a sequence that fills 0 to 1 evenly (Halton 1960). */
function halton(number: number, base: number): number {
  let value = 0;
  let part = 1;
  for (let rest = number; rest > 0; rest = Math.floor(rest / base)) {
    part /= base;
    value += part * (rest % base);
  }
  return value;
}
