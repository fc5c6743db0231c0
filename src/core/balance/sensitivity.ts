/** Which lever moves which target, by how much a step: the same players with each lever a little lower and higher. */
import type { EconomyDocument } from '../document/index.js';
import type { Target } from '../economy/index.js';
import { leverAt, leverSteps } from '../levers/index.js';
import type { Lever } from '../levers/index.js';
import { Luck } from '../random/index.js';
import { MEASURES } from '../document/index.js';
import { membersOf, percentile, targetMeasure } from '../simulation/index.js';
import type { SimulationResult, TargetFigure } from '../simulation/index.js';
import { Trials } from './trials.js';
import type { Play, Point } from './trials.js';

export interface SensitivityAsked {
  document: EconomyDocument;
  levers: readonly Lever[];
  targets: readonly Target[];
  play: Play;
  players: number;
  onProgress?: (done: number, of: number) => void;
}

export interface Effect {
  lever: string;
  target: string;
  /** By how much the figure of the target changes with one step up, in its unit; null where it is not seen within the run. */
  perStep: number | null;
  /** Bounds of its 95% interval. */
  low: number | null;
  high: number | null;
  /** The figure with the lever lower and higher. */
  lower: number | null;
  higher: number | null;
  /** What a step up does to the target: 1 brings it further inside its bounds, -1 outside; 0 where that cannot be told. */
  helps: -1 | 0 | 1;
  /** True where the interval does not hold 0. */
  distinguishable: boolean;
}

export interface SensitivityResult {
  players: number;
  /** By lever: from where to where it was moved. */
  levers: {
    id: string;
    name: string;
    moves: Lever['moves'];
    lower: number;
    higher: number;
    step: number;
  }[];
  targets: { id: string; name: string; unit: (typeof MEASURES)[Target['measure']]['unit'] }[];
  effects: Effect[];
}

/** How far a lever is moved to each side, as a part of its range: far enough to be seen, near enough to be straight. */
const STRIDE = 0.1;

export async function sensitivity(asked: SensitivityAsked): Promise<SensitivityResult> {
  const { document, levers, targets, play, players, onProgress } = asked;
  const trials = new Trials(document, levers, targets, play, players);
  const draft = trials.draft();
  const places = levers.map((lever, place): readonly Point[] => {
    const stride = Math.max(1, Math.round(leverSteps(lever) * STRIDE));
    const moved = (way: -1 | 1): Point =>
      draft.map((steps, one) =>
        one === place ? Math.max(0, Math.min(leverSteps(lever), steps + way * stride)) : steps,
      );
    return [moved(-1), draft, moved(1)];
  });
  const runs = new Set(places.flat().map((point) => point.join())).size;
  const seen = new Set<string>();
  const told = (point: Point): void => {
    if (!seen.has(point.join())) onProgress?.(seen.add(point.join()).size, runs);
  };
  const played = await Promise.all(
    places.map((points) =>
      Promise.all(
        points.map(async (point) => {
          const { result } = await trials.at(point);
          told(point);
          return result;
        }),
      ),
    ),
  );
  return {
    players,
    levers: levers.map((lever, place) => {
      const [lower, , higher] = places[place]!.map((point) => point[place]!);
      return {
        id: lever.id,
        name: lever.name,
        moves: lever.moves,
        lower: leverAt(lever, lower!),
        higher: leverAt(lever, higher!),
        step: lever.step,
      };
    }),
    targets: targets.map(({ id, name, measure }) => ({ id, name, unit: MEASURES[measure].unit })),
    effects: levers.flatMap((lever, place) =>
      targets.map((target) =>
        effectOf(
          lever,
          target,
          played[place]!.map((result, at) => ({ result, steps: places[place]![at]![place]! })),
        ),
      ),
    ),
  };
}

interface Stand {
  result: SimulationResult;
  /** Of the lever. */
  steps: number;
}

/** Over the widest stretch at whose both ends the figure is seen: all of it, or from where the lever stands to one side. */
function effectOf(lever: Lever, target: Target, [lowest, middle, highest]: readonly Stand[]): Effect {
  const members = membersOf(target, middle!.result);
  const figureOf = ({ result }: Stand) => measured(target, result, members);
  const isSeen = (stand: Stand): boolean => typeof figureOf(stand)?.value === 'number';
  const stretches = [
    [lowest!, highest!],
    [middle!, highest!],
    [lowest!, middle!],
  ] as const;
  const stretch =
    stretches.find(([one, other]) => one.steps < other.steps && isSeen(one) && isSeen(other)) ?? stretches[0];
  const results = stretch.map(({ result }) => result);
  const steps = stretch[1].steps - stretch[0].steps;
  const [lower, higher] = stretch.map(figureOf);
  const about = { lever: lever.id, target: target.id, lower: lower?.value ?? null, higher: higher?.value ?? null };
  const none = { ...about, perStep: null, low: null, high: null, helps: 0, distinguishable: false } as const;
  if (!lower || !higher || steps === 0) return none;
  const again = drawnAgain(target, results, members);
  const figure = differences(target, again, ({ value }) => value, lower, higher);
  const inside = differences(target, again, insideness, lower, higher);
  const helps =
    !inside || inside.low === null || (inside.low <= 0 && inside.high! >= 0) ? 0 : Math.sign(inside.difference);
  if (!figure) return { ...none, helps: helps as Effect['helps'] };
  const each = (value: number | null): number | null => value && value / steps;
  return {
    ...about,
    perStep: each(figure.difference),
    low: each(figure.low),
    high: each(figure.high),
    helps: helps as Effect['helps'],
    distinguishable: figure.low !== null && (figure.low > 0 || figure.high! < 0),
  };
}

function measured(target: Target, result: SimulationResult, members: Int32Array): TargetFigure | undefined {
  const figure = targetMeasure(target, result, members);
  return 'why' in figure ? undefined : figure;
}

/** How far a figure is inside the nearer of its bounds, below 0 outside. */
const insideness = ({ edges }: TargetFigure): number => Math.min(...edges.map(({ margin }) => margin));

interface Told {
  difference: number;
  low: number | null;
  high: number | null;
}

const RESAMPLES = 200;

/** What pay and prices come to does not rest on single players. */
const restsOnPlayers = ({ measure }: Target): boolean => measure !== 'pay' && measure !== 'prices';

type Pair = readonly [TargetFigure | undefined, TargetFigure | undefined];

/** The figures of both runs among players drawn again from them, the same in both (bootstrap, Efron 1979). */
function drawnAgain(target: Target, [lower, higher]: readonly SimulationResult[], members: Int32Array): Pair[] {
  if (!restsOnPlayers(target) || members.length < 2) return [];
  const luck = new Luck().from({ high: members.length, low: lower!.seed });
  const sample = new Int32Array(members.length);
  return Array.from({ length: RESAMPLES }, (): Pair => {
    for (let i = 0; i < sample.length; i++) sample[i] = members[Math.floor(luck.next() * members.length)]!;
    return [measured(target, lower!, sample), measured(target, higher!, sample)];
  });
}

/**
 * What the higher run has more than the lower, with the 2.5th and 97.5th percentile of what it is among players drawn
 * again. What does not rest on single players has the intervals of both figures, as if they were unrelated: too wide of
 * pay rather than too narrow, and none of prices.
 */
function differences(
  target: Target,
  again: readonly Pair[],
  of: (figure: TargetFigure) => number | null,
  lower: TargetFigure,
  higher: TargetFigure,
): Told | undefined {
  const [from, to] = [of(lower), of(higher)];
  if (from === null || to === null) return undefined;
  const difference = to - from;
  if (!restsOnPlayers(target)) {
    const half = Math.hypot(...[lower, higher].map(({ value, high }) => (high ?? Infinity) - value!));
    return Number.isFinite(half)
      ? { difference, low: difference - half, high: difference + half }
      : { difference, low: null, high: null };
  }
  const drawn = again.flatMap(([one, other]) => {
    const [a, b] = [one && of(one), other && of(other)];
    return typeof a === 'number' && typeof b === 'number' ? [b - a] : [];
  });
  drawn.sort((a, b) => a - b);
  return { difference, low: percentile(drawn, 2.5), high: percentile(drawn, 97.5) };
}
