/** What stands on the bench, as its address has it: levers and where they stand, the mix, and variants that were kept. No drawing here. */
import { shown } from '../parts/shown.js';

/** A lever by its name or written out, and where it stands; `null` where the draft has it. */
export interface LeverStand {
  spec: string;
  value: number | null;
}

/** By persona; undefined where it is the scenario's own. */
export type Mix = Readonly<Record<string, number>> | undefined;

/** Levers and mix as they were when they were kept. */
export interface Variant {
  name: string;
  levers: readonly LeverStand[];
  mix: Mix;
}

// Neither ids nor pointers nor bounds hold one of these; names are kept free of them.
const BETWEEN = ';';
const STANDS = '@';
const PARTS = '|';
const VARIANTS = '~';

export const leversWrite = (levers: readonly LeverStand[]): string =>
  levers.map(({ spec, value }) => (value === null ? spec : `${spec}${STANDS}${value}`)).join(BETWEEN);

export function leversRead(text: string): LeverStand[] {
  const read = text
    .split(BETWEEN)
    .filter((one) => one !== '')
    .map((one): LeverStand => {
      const at = one.lastIndexOf(STANDS);
      const value = at < 0 ? NaN : Number(one.slice(at + 1));
      return Number.isFinite(value) ? { spec: one.slice(0, at), value } : { spec: one, value: null };
    });
  return [...new Map(read.map((one) => [one.spec, one])).values()];
}

export const mixWrite = (mix: Mix): string =>
  Object.entries(mix ?? {})
    .map(([persona, weight]) => `${persona}${STANDS}${weight}`)
    .join(BETWEEN);

export function mixRead(text: string): Mix {
  const entries = leversRead(text).flatMap(({ spec, value }) =>
    value === null || value < 0 || spec === '' ? [] : [[spec, value]],
  );
  return entries.length === 0 ? undefined : (Object.fromEntries(entries) as Record<string, number>);
}

/** As many are drawn over each other. */
export const MOST_KEPT = 3;

export const variantsWrite = (variants: readonly Variant[]): string =>
  variants.map(({ name, levers, mix }) => [name, leversWrite(levers), mixWrite(mix)].join(PARTS)).join(VARIANTS);

export const variantsRead = (text: string): Variant[] =>
  text
    .split(VARIANTS)
    .filter((one) => one !== '')
    .slice(0, MOST_KEPT)
    .map((one) => {
      const [name = '', levers = '', mix = ''] = one.split(PARTS);
      return { name, levers: leversRead(levers), mix: mixRead(mix) };
    });

/** A name without the signs that the address is divided by. */
export const nameClean = (name: string): string =>
  name
    .replace(/[;@|~]/g, ' ')
    .trim()
    .slice(0, 40);

/** The first of A, B, C ... that is free. */
export function nameFree(variants: readonly Variant[]): string {
  const free = [...'ABCDEFGHIJ'].find((name) => variants.every((one) => one.name !== name));
  return free ?? String(variants.length + 1);
}

/** Where a lever stands, in words. */
export const standText = (moves: 'value' | 'factor', value: number): string =>
  moves === 'factor' ? `× ${value.toFixed(2)}` : shown(value);

/** A whole number within bounds that somebody typed; undefined where it is none. */
export const wholeOf = (text: string, least: number, most: number): number | undefined => {
  const value = Number(text);
  return text !== '' && Number.isInteger(value) && value >= least && value <= most ? value : undefined;
};
