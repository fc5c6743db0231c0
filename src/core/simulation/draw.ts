/** Draws values from the distributions that activities and personas name. Each kind has its entry in one table. */
import { randomGeometric, randomLogNormal, randomNormal, randomPoisson } from 'd3-random';
import type { DrawDocument } from '../document/index.js';
import type { Economy } from '../economy/index.js';
import { formulaCompile } from '../formula/index.js';
import type { Names, Scope, Value, ValueType } from '../formula/index.js';
import type { Random } from '../random/index.js';

export type Draw = (random: Random, scope: Scope) => Value;

type Kinds = { [K in 'from' | 'weights' | 'poisson' | 'normal' | 'lognormal' | 'geometric']: (written: never) => Draw };

const KINDS: Kinds = {
  /** Whole numbers from `from` to `to`, both inclusive, equally likely. */
  from:
    ({ from, to }: { from: number; to: number }) =>
    (random) =>
      from + Math.floor(random() * (to - from + 1)),
  /** The schema makes sure that some weight is above 0. */
  weights:
    ({ weights }: { weights: Record<string, number> }) =>
    (random) =>
      weightedKey(weights, random())!,
  poisson:
    ({ poisson }: { poisson: number }) =>
    (random) =>
      randomPoisson.source(random)(poisson)(),
  normal:
    ({ normal: [mean, deviation] }: { normal: [number, number] }) =>
    (random) =>
      randomNormal.source(random)(mean, deviation)(),
  lognormal:
    ({ lognormal: [mu, sigma] }: { lognormal: [number, number] }) =>
    (random) =>
      randomLogNormal.source(random)(mu, sigma)(),
  /** How many tries until the first success, 1 or more. */
  geometric:
    ({ geometric }: { geometric: number }) =>
    (random) =>
      randomGeometric.source(random)(geometric)(),
};

/** Compiles what was written. `type` is the field's type; weighted keys that are numbers become numbers for a number field. */
export function drawCompile(written: DrawDocument, type: ValueType, names: Names): Draw {
  if (typeof written === 'string' && written.startsWith('=')) {
    const compiled = formulaCompile(written, names, type);
    if (!compiled.ok) throw new Error(`${written}: ${compiled.problem.message}`);
    return (_random, scope) => compiled.formula.run(scope);
  }
  if (typeof written !== 'object') return () => written;
  const kind = (Object.keys(KINDS) as (keyof Kinds)[]).find((key) => Object.hasOwn(written, key))!;
  const draw = (KINDS[kind] as (written: DrawDocument) => Draw)(written);
  return kind === 'weights' && type === 'number' ? (random, scope) => Number(draw(random, scope)) : draw;
}

/** A key with a chance in proportion to its weight, for a luck from 0 (inclusive) to 1 (exclusive); none where all weigh 0. */
export function weightedKey(weights: Readonly<Record<string, number>>, luck: number): string | undefined {
  const keys = Object.keys(weights).filter((key) => weights[key]! > 0);
  let left = luck * keys.reduce((total, key) => total + weights[key]!, 0);
  for (const key of keys) {
    left -= weights[key]!;
    if (left < 0) return key;
  }
  return keys.at(-1);
}

const VALUE_TYPES: Readonly<Record<string, ValueType>> = { string: 'text', boolean: 'truth', number: 'number' };
/** The type of an attribute, by what a new player has. */
export const attributeType = (economy: Economy, name: string): ValueType =>
  VALUE_TYPES[typeof economy.attributes.get(name)] ?? 'number';
/** What draws and formulas of players may name. */
export const attributeNames = (economy: Economy): Names =>
  new Map([
    ['day', 'number' as const],
    ...[...economy.attributes.keys()].map((name) => [name, attributeType(economy, name)] as const),
  ]);
