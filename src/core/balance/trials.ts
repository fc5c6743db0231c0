/** Runs of one scenario on the same luck with levers in different places, each played once. */
import type { EconomyDocument } from '../document/index.js';
import type { Target } from '../economy/index.js';
import { leverAt, leverNearest, leverNow, leverSteps, leversSet } from '../levers/index.js';
import type { Lever } from '../levers/index.js';
import { membersOf, targetLean, targetMeasure, targetOff } from '../simulation/index.js';
import type { SimulationResult, TargetFigure } from '../simulation/index.js';

/** Plays the scenario with values set at pointers, by so many players: the same for the same arguments. */
export type Play = (set: Record<string, unknown>, players: number) => Promise<SimulationResult>;

/** Where each lever stands, in steps from its lower bound. */
export type Point = readonly number[];

/** How one target stands in a trial. */
export interface TargetTried {
  /** Undefined where there was nothing to measure. */
  figure: TargetFigure | undefined;
  /** How far outside its bounds, below 0 under them; 1 where there was nothing to measure. */
  off: number;
  /** How near to a bound, from 0 to 1. */
  lean: number;
}

export interface Trial {
  point: Point;
  /** By target, in the order asked. */
  targets: readonly TargetTried[];
  result: SimulationResult;
}

export class Trials {
  private readonly known = new Map<string, Promise<Trial>>();

  constructor(
    private readonly document: EconomyDocument,
    readonly levers: readonly Lever[],
    readonly targets: readonly Target[],
    private readonly play: Play,
    private readonly players: number,
  ) {}

  /** How many runs were begun. */
  get begun(): number {
    return this.known.size;
  }

  /** Where the document has the levers. */
  draft(): Point {
    return this.levers.map((lever) => leverNearest(lever, leverNow(this.document, lever)));
  }

  /** What is set where the levers stand at a point. At the draft's own point nothing is, even between two steps. */
  setAt(point: Point): Record<string, unknown> {
    const draft = this.draft();
    const isDraft = point.every((steps, place) => steps === draft[place]);
    if (isDraft) return {};
    return leversSet(
      this.document,
      this.levers.map((lever, place) => ({
        lever,
        value: point[place] === draft[place] ? leverNow(this.document, lever) : leverAt(lever, point[place]!),
      })),
    );
  }

  /** The trial of a point; one that was played is not played again. */
  at(point: Point): Promise<Trial> {
    const key = point.join();
    let trial = this.known.get(key);
    if (!trial) this.known.set(key, (trial = this.tried(point)));
    return trial;
  }

  private async tried(point: Point): Promise<Trial> {
    const result = await this.play(this.setAt(point), this.players);
    return { point, result, targets: this.targets.map((target) => targetTried(target, result)) };
  }

  /** Whether a point lies within the bounds of all levers. */
  within = (point: Point): boolean =>
    point.every((steps, place) => steps >= 0 && steps <= leverSteps(this.levers[place]!));
}

function targetTried(target: Target, result: SimulationResult): TargetTried {
  const figure = targetMeasure(target, result, membersOf(target, result));
  return 'why' in figure
    ? { figure: undefined, off: 1, lean: 1 }
    : { figure, off: targetOff(target, figure), lean: targetLean(figure) };
}
