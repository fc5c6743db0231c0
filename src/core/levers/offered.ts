/** Every number of an economy that a lever can move, by its name: what a designer picks from. */
import { pricePlaces } from '../catalog/index.js';
import { placeWords, valueAt } from '../document/index.js';
import type { EconomyDocument } from '../document/index.js';
import { pointerOf, pointerSegments } from '../issue/index.js';
import { groupWords } from './levers.js';
import { isFormula } from '../schema/index.js';

export interface LeverOffered {
  /** As `leversNamed` takes it, with bounds and a step that suit the number. */
  spec: string;
  /** Such as "Storm Frame, worth in Shells". */
  words: string;
  /** The number as it is, the formula that a factor would multiply, or nothing for a group. */
  now: number | string | null;
}

/** Where players and what they meet is written; scenarios have their own way to be changed. */
const SECTIONS = ['currencies', 'items', 'shops', 'earning', 'goals', 'tracks', 'loot', 'sales', 'activities'] as const;
/** Numbers that say what a thing is, not how much of it comes or goes. */
const FIXED = new Set(['decimals', 'stack', 'money', 'shownFrom']);

/** Groups first, then all numbers in document order. Linear in the document. */
export function leversOffered(document: EconomyDocument): LeverOffered[] {
  const known = Object.entries(document.levers ?? {}).map(([id, { name }]) => ({ spec: id, words: name, now: null }));
  const groups = Object.entries(document.groups ?? {}).flatMap(([id, { name }]) =>
    pricePlaces(document, { group: id }).length === 0
      ? []
      : [{ spec: `group:${id}*0.5..1.5:0.05`, words: groupWords(name), now: null }],
  );
  const places = SECTIONS.flatMap((section) => numbersBelow(document[section] ?? {}, [section]));
  return [...known, ...groups, ...places.map((path) => offered(document, pointerOf(path)))];
}

function numbersBelow(value: unknown, path: readonly string[]): string[][] {
  if (typeof value === 'number' || (isFormula(value) && !CONDITIONS.has(path.at(-1)!))) return [[...path]];
  if (typeof value !== 'object' || value === null) return [];
  return Object.entries(value).flatMap(([key, inner]) => (FIXED.has(key) ? [] : numbersBelow(inner, [...path, key])));
}

/** Formulas that give yes or no, or a text. */
const CONDITIONS = new Set(['when', 'set']);

function offered(document: EconomyDocument, pointer: string): LeverOffered {
  const now = valueAt(document, pointerSegments(pointer)) as number | string;
  return { spec: `${pointer}${boundsFor(now)}`, words: placeWords(document, pointerSegments(pointer)), now };
}

/** From half to twice the number, by steps of which some dozens make that; a formula is multiplied. */
function boundsFor(now: number | string): string {
  if (typeof now === 'string' || now <= 0) return typeof now === 'string' ? '*0.5..2:0.05' : '=0..100:1';
  const whole = Number.isInteger(now);
  const power = 10 ** Math.floor(Math.log10(now / 20));
  const exact = power * [1, 2, 5, 10].find((times) => times * power >= now / 40)!;
  const step = whole ? Math.max(1, exact) : exact;
  const round = (value: number) => Number((Math.round(value / step) * step).toPrecision(12));
  return `=${Math.max(step, round(now / 2))}..${Math.max(round(now * 2), 2 * step)}:${Number(step.toPrecision(12))}`;
}
