/** Levers: numbers of an economy that may move, alone or many by one factor, within bounds and by steps. */
import { fractionOf } from '../amount/index.js';
import { amountScaled, decimalsIn, pricePlaces } from '../catalog/index.js';
import { placeWords, isBasketBlock, valueAt, walkAlong } from '../document/index.js';
import type { EconomyDocument, LeverDocument } from '../document/index.js';
import { nearestName, pointerOf, pointerSegments } from '../issue/index.js';
import type { Issue, Result } from '../issue/index.js';
import { isFormula } from '../schema/index.js';

export interface Lever {
  id: string;
  name: string;
  /** JSON pointers of the numbers that it moves. */
  at: readonly string[];
  /** Whether it is the number, or what the written ones are multiplied by. */
  moves: 'value' | 'factor';
  /** Bounds, both included. */
  from: number;
  to: number;
  step: number;
}

/** A lever and where it stands. */
export interface LeverSetting {
  lever: Lever;
  value: number;
}

/** How many steps a lever takes where nobody says it. */
const USUAL_STEPS = 20;

/** A step of 1, 2 or 5 by a power of ten, of which about `USUAL_STEPS` make the range. */
function usualStep(from: number, to: number): number {
  const exact = (to - from) / USUAL_STEPS;
  const power = 10 ** Math.floor(Math.log10(exact));
  return decimal(power * [1, 2, 5, 10].find((times) => times * power >= exact * (1 - 1e-9))!);
}

/** Without what adding up fractions leaves behind. */
const decimal = (value: number): number => Number(value.toPrecision(12));

/** The lever with all its places; what stands against it is in `leverIssues`. */
export function leverOf(document: EconomyDocument, id: string, written: LeverDocument): Lever {
  const { name, at = [], group, moves, from, to } = written;
  // Real money is no part of a run, and must not follow what a run tells.
  const prices = group === undefined ? [] : pricePlaces(document, { group }).filter((path) => path.at(-2) !== 'money');
  const step = written.step ?? (to > from ? usualStep(from, to) : 1);
  return { id, name, at: [...new Set([...at, ...prices.map(pointerOf)])], moves, from, to, step };
}

/** What stands against moving it, with its place in the document: `path` is where the lever is written. */
export function leverIssues(document: EconomyDocument, lever: Lever, path: readonly string[]): Issue[] {
  const about = (message: string, fix: string): Issue => ({
    code: 'wrong-value',
    pointer: pointerOf(path),
    message: `${lever.name}: ${message}`,
    fix,
  });
  const { at, moves, from, to, step } = lever;
  return [
    ...(from <= to ? [] : [about(`it cannot go from ${from} up to ${to}`, `Write the smaller number first.`)]),
    ...(from < to && to - from < step
      ? [about(`a step of ${step} is more than there is from ${from} to ${to}`, 'Write a smaller step.')]
      : []),
    ...(moves === 'factor' && from < 0 ? [about('a factor below 0 turns prices round', 'Write 0 or more.')] : []),
    ...(at.length === 0
      ? [about('it moves nothing', 'Name a number of the economy, or a group that has prices.')]
      : []),
    ...at.flatMap((pointer) => {
      const value = valueAt(document, pointerSegments(pointer));
      if (value === undefined) return [about(`${pointer} leads to nothing`, 'Name a number that the economy has.')];
      if (typeof value === 'number') return [];
      if (!isFormula(value))
        return [about(`${pointer} is no number: ${JSON.stringify(value).slice(0, 60)}`, 'Name a number.')];
      return moves === 'factor'
        ? []
        : [about(`${pointer} is a formula, ${value}, and no number`, 'Let the lever multiply it: moves: factor.')];
    }),
  ];
}

/** What moves as the levers stand: values to be set at pointers of the document. Numbers are set before factors multiply. */
export function leversSet(document: EconomyDocument, settings: readonly LeverSetting[]): Record<string, unknown> {
  const set: Record<string, unknown> = {};
  const first = (moves: Lever['moves']) => settings.filter(({ lever }) => lever.moves === moves);
  for (const { lever, value } of [...first('value'), ...first('factor')])
    for (const pointer of lever.at) {
      const written = Object.hasOwn(set, pointer) ? set[pointer] : valueAt(document, pointerSegments(pointer));
      const moved = lever.moves === 'value' ? value : multiplied(document, pointer, written, value);
      if (moved !== written) set[pointer] = moved;
    }
  return set;
}

/** A written number or formula times a factor: an amount stays one of its asset, what must be whole stays whole and in its bounds. */
function multiplied(document: EconomyDocument, pointer: string, written: unknown, factor: number): unknown {
  if (factor === 1) return written;
  if (isFormula(written)) return `=(${written.slice(1)}) * ${factor}`;
  if (typeof written !== 'number') return written;
  const path = pointerSegments(pointer);
  const steps = walkAlong(document, path);
  if (isBasketBlock(steps[path.length - 1]?.block) || path.at(-2) === 'money')
    return (
      amountScaled(written, fractionOf(factor), { to: 0, way: 'nearest' }, decimalsIn(document, path.at(-1)!)) ??
      written
    );
  const block = steps[path.length]?.block;
  const {
    type,
    minimum = -Infinity,
    maximum = Infinity,
  } = (block?.kind === 'value' ? block.json : {}) as {
    type?: string;
    minimum?: number;
    maximum?: number;
  };
  const exact = decimal(written * factor);
  return Math.min(maximum, Math.max(minimum, type === 'integer' ? Math.round(exact) : exact));
}

/** Where a lever stands in the document as it is: the number, or 1 for a factor. */
export function leverNow(document: EconomyDocument, { at, moves }: Lever): number {
  return moves === 'factor' ? 1 : (valueAt(document, pointerSegments(at[0]!)) as number);
}

/** How many steps it has; it stands at 0 to that many. */
export const leverSteps = ({ from, to, step }: Lever): number => Math.floor((to - from) / step + 1e-9);
/** Where it stands after so many steps from its lower bound. */
export const leverAt = ({ from, step }: Lever, steps: number): number => decimal(from + steps * step);
/** The step that is nearest to a value. */
export const leverNearest = (lever: Lever, value: number): number =>
  Math.max(0, Math.min(leverSteps(lever), Math.round((value - lever.from) / lever.step)));

const SPEC = /^(?:group:([a-z0-9_]+)|(\/.+?))([=*])([^:=*]+)\.\.([^:]+?)(?::(.+))?$/;

/**
 * Levers as a caller names them: by the id of one that the economy has, or written out as `/items/sail/worth/shells=50..90`,
 * `...:5` with a step, `*0.5..2` to multiply, `group:frames*0.8..1.2` for the prices of a group. All that is wrong is told.
 */
export function leversNamed(document: EconomyDocument, names: readonly string[]): Result<Lever[]> {
  const levers: Lever[] = [];
  const issues: Issue[] = [];
  for (const name of names) {
    const written = leverWritten(document, name);
    if ('issue' in written) issues.push(written.issue);
    else {
      const lever = leverOf(document, written.id, written.lever);
      levers.push(lever);
      issues.push(...leverIssues(document, lever, written.path));
    }
  }
  return issues.length > 0 ? { ok: false, issues } : { ok: true, value: levers };
}

/** What a lever is called that moves all prices of a group. */
export const groupWords = (group: string): string => `All prices of ${group}`;

type Written = { id: string; lever: LeverDocument; path: string[] } | { issue: Issue };

function leverWritten(document: EconomyDocument, name: string): Written {
  const known = document.levers ?? {};
  if (Object.hasOwn(known, name)) return { id: name, lever: known[name]!, path: ['levers', name] };
  const match = SPEC.exec(name);
  if (!match) {
    const near = nearestName(name, Object.keys(known));
    const listed = Object.keys(known).join(', ') || 'none yet';
    return {
      issue: {
        code: 'dangling-reference',
        pointer: pointerOf(['levers', name]),
        message: `there is no lever "${name}"`,
        fix: near
          ? `Did you mean "${near}"?`
          : `Levers: ${listed}. Or write one out, such as /items/storm_frame/worth/shells=600..1400:20.`,
      },
    };
  }
  const [, group, pointer, sign, from, to, step] = match;
  const numbers = [from, to, ...(step === undefined ? [] : [step])].map(Number);
  if (numbers.some((one) => !Number.isFinite(one)) || numbers[2] === 0)
    return {
      issue: {
        code: 'wrong-value',
        pointer: pointer ?? pointerOf(['groups', group!]),
        message: `"${name}" has a bound or step that is no number`,
        fix: 'Write FROM..TO or FROM..TO:STEP, such as 600..1400:20.',
      },
    };
  const lever: LeverDocument = {
    name:
      pointer === undefined
        ? groupWords(document.groups?.[group!]?.name ?? group!)
        : placeWords(document, pointerSegments(pointer)),
    moves: sign === '=' ? 'value' : 'factor',
    from: numbers[0]!,
    to: numbers[1]!,
    ...(numbers[2] === undefined ? {} : { step: numbers[2] }),
    ...(pointer === undefined ? { group: group! } : { at: [pointer] }),
  };
  return { id: name, lever, path: pointer === undefined ? ['groups', group!] : pointerSegments(pointer) };
}
