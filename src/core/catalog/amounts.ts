/** Changing written amounts exactly: by a factor, then rounded to a step. */
import { MAX_UNITS, fractionOf, moneyDecimals, unitsFormat, unitsParse } from '../amount/index.js';
import type { Fraction } from '../amount/index.js';
import type { EconomyDocument } from '../document/index.js';

/** To a multiple of `to`, in display units: `{to: 5, way: 'up'}`. */
export interface RoundTo {
  to: number;
  way: 'up' | 'down' | 'nearest';
}

export const decimalsIn = (document: EconomyDocument, asset: string): number =>
  /^[A-Z]{3}$/.test(asset) ? moneyDecimals(asset) : (document.currencies?.[asset]?.decimals ?? 0);

/**
 * amount x factor, rounded to a multiple of `round.to` (the smallest unit where that is 0), as people write it. What
 * was above 0 stays above 0: a price never becomes free by rounding. Undefined past the ceiling.
 */
export function amountScaled(amount: number, factor: Fraction, round: RoundTo, decimals: number): number | undefined {
  const parsed = unitsParse(amount, decimals);
  const step = unitsParse(round.to, decimals);
  if (!parsed.ok || !step.ok) return undefined;
  const by = BigInt(Math.max(1, step.units));
  const top = BigInt(parsed.units) * factor.numerator;
  const bottom = factor.denominator * by;
  const steps = ROUND[round.way](top, bottom);
  const units = (steps === 0n && parsed.units > 0 ? 1n : steps) * by;
  return units > BigInt(MAX_UNITS) ? undefined : Number(unitsFormat(Number(units), decimals));
}

const ROUND: Readonly<Record<RoundTo['way'], (top: bigint, bottom: bigint) => bigint>> = {
  down: (top, bottom) => top / bottom,
  up: (top, bottom) => (top + bottom - 1n) / bottom,
  nearest: (top, bottom) => (2n * top + bottom) / (2n * bottom),
};

/** 1 + percent / 100, exactly; percent may be below 0. */
export function percentFactor(percent: number): Fraction {
  const { numerator, denominator } = fractionOf(Math.abs(percent));
  const change = percent < 0 ? -numerator : numerator;
  return { numerator: 100n * denominator + change, denominator: 100n * denominator };
}
