/**
 * Amounts are integer counts of an asset's smallest unit. People write `2.50` for a currency of two
 * decimals; this module is the only place that turns one into the other.
 * In JSON an amount is a plain number: every safe integer survives the trip.
 */

/** An integer count of smallest units, 0 to `MAX_UNITS` inclusive. */
export type Units = number;

/** The ceiling of every amount: 2^53 - 1 smallest units. */
export const MAX_UNITS: Units = Number.MAX_SAFE_INTEGER;

/** Asset id to amount. An asset that is absent counts 0. */
export type Basket = Record<string, Units>;

export type Rounding = 'down' | 'nearest' | 'up';

export type AmountResult = { ok: true; units: Units } | { ok: false; message: string; fix: string };

function refuse(message: string, fix: string): AmountResult {
  return { ok: false, message, fix };
}

/**
 * Reads what a person wrote into smallest units, exactly: no binary fraction takes part.
 * Refused: signs, other characters, more decimals than the asset has, anything past the ceiling.
 */
export function unitsParse(written: number | string, decimals: number): AmountResult {
  const text = String(written).trim();
  const match = /^(\d+)(?:\.(\d+))?$/.exec(text);
  if (!match) {
    if (/^-/.test(text)) return refuse(`${text} is below zero`, 'Write an amount of 0 or more.');
    if (/^[\d.]+e\+/i.test(text))
      return refuse(`${text} is past the ceiling of ${MAX_UNITS} smallest units`, 'Write a smaller amount.');
    if (/e-/i.test(text))
      return refuse(
        `${text} has more decimals than the ${decimals} this asset has`,
        `Write at most ${decimals} decimals.`,
      );
    return refuse(`"${text}" is not an amount`, 'Write digits, with a point before decimals, such as 120 or 2.50.');
  }
  const fraction = (match[2] ?? '').replace(/0+$/, '');
  if (fraction.length > decimals) {
    return refuse(
      `${text} has ${fraction.length} decimals and this asset has ${decimals}`,
      decimals === 0 ? 'Write a whole number.' : `Write at most ${decimals} decimals.`,
    );
  }
  const units = Number(match[1]! + fraction.padEnd(decimals, '0'));
  if (units > MAX_UNITS)
    return refuse(`${text} is past the ceiling of ${MAX_UNITS} smallest units`, 'Write a smaller amount.');
  return { ok: true, units };
}

/** The amount as a person writes it: `unitsFormat(250, 2)` is `2.50`. Thousands are not grouped, so it can be read back. */
export function unitsFormat(units: Units, decimals: number): string {
  if (decimals === 0) return String(units);
  const sign = units < 0 ? '-' : '';
  const digits = String(Math.abs(units)).padStart(decimals + 1, '0');
  return `${sign}${digits.slice(0, -decimals)}.${digits.slice(-decimals)}`;
}

/**
 * A formula's result, in the display value people reason in, as smallest units.
 * Returns undefined where the result is not a finite number from 0 to the ceiling.
 */
export function unitsRound(value: number, decimals: number, rounding: Rounding): Units | undefined {
  if (!Number.isFinite(value) || value < 0) return undefined;
  // 40 * 1.15 * 100 is 4600 but for the last bit; a relative nudge of 2^-48 keeps "down" from losing a unit to it.
  const scaled = value * 10 ** decimals;
  const nudge = scaled * 2 ** -48;
  const units =
    rounding === 'down'
      ? Math.floor(scaled + nudge)
      : rounding === 'up'
        ? Math.ceil(scaled - nudge)
        : Math.round(scaled);
  return units <= MAX_UNITS ? units : undefined;
}

/** a + b, or undefined past the ceiling. */
export function unitsAdd(a: Units, b: Units): Units | undefined {
  const sum = a + b;
  return sum <= MAX_UNITS ? sum : undefined;
}

/** units x times, or undefined past the ceiling. */
export function unitsTimes(units: Units, times: number): Units | undefined {
  const product = units * times;
  return product <= MAX_UNITS ? product : undefined;
}

/** By how much an exact sum passes the ceiling; 0 where it does not. Past twice the ceiling it is the ceiling. */
export function unitsOver(sum: bigint): Units {
  const over = sum - BigInt(MAX_UNITS);
  return over <= 0n ? 0 : over > BigInt(MAX_UNITS) ? MAX_UNITS : Number(over);
}

/** Adds `units` of `asset` to a basket that the caller owns; false, and unchanged, past the ceiling. */
export function basketAdd(basket: Basket, asset: string, units: Units): boolean {
  const sum = unitsAdd(basket[asset] ?? 0, units);
  if (sum === undefined) return false;
  basket[asset] = sum;
  return true;
}

/** Adds a basket to one that the caller owns. Gives the first amount that would pass the ceiling, with by how much. */
export function basketAddAll(basket: Basket, more: Readonly<Basket>): Basket | undefined {
  for (const asset in more)
    if (!basketAdd(basket, asset, more[asset]!))
      return { [asset]: unitsOver(BigInt(basket[asset] ?? 0) + BigInt(more[asset]!)) };
  return undefined;
}

/** By how much which amounts x times pass the ceiling. */
export function basketTimesOver(basket: Readonly<Basket>, times: number): Basket {
  const over: Basket = {};
  for (const asset in basket) {
    const past = unitsOver(BigInt(basket[asset]!) * BigInt(times));
    if (past > 0) over[asset] = past;
  }
  return over;
}

/** Every amount x times in a new basket, or undefined when one passes the ceiling. */
export function basketTimes(basket: Readonly<Basket>, times: number): Basket | undefined {
  const result: Basket = {};
  for (const asset in basket) {
    const units = unitsTimes(basket[asset]!, times);
    if (units === undefined) return undefined;
    result[asset] = units;
  }
  return result;
}

/** True where both hold the same amounts; an absent asset equals 0. */
export const basketEquals = (a: Readonly<Basket>, b: Readonly<Basket>): boolean =>
  basketHolds(a, b) && basketHolds(b, a);

/** Whether something is in both, as what is paid and what is given. */
export function basketOverlaps(one: Readonly<Basket>, other: Readonly<Basket>): boolean {
  for (const asset in one) if (asset in other) return true;
  return false;
}

/** True where one basket holds at least what the other does, of every asset; an absent asset is 0. */
export function basketHolds(held: Readonly<Basket>, wanted: Readonly<Basket>): boolean {
  for (const asset in wanted) if (wanted[asset]! > (held[asset] ?? 0)) return false;
  return true;
}

/** An exact quotient of whole numbers: what a rate such as 0.35 means, without its binary error. */
export interface Fraction {
  numerator: bigint;
  denominator: bigint;
}

/** The decimal number as written, exactly: 0.35 is 35/100. */
export function fractionOf(decimal: number): Fraction {
  const [digits, exponent = '0'] = String(decimal).split('e') as [string, string?];
  const [whole, part = ''] = digits.split('.') as [string, string?];
  const shift = part.length - Number(exponent);
  const value = BigInt(whole + part);
  return shift >= 0
    ? { numerator: value, denominator: 10n ** BigInt(shift) }
    : { numerator: value * 10n ** BigInt(-shift), denominator: 1n };
}

/** units x fraction, rounded down unless told otherwise; undefined past the ceiling. */
export function unitsShare(
  units: Units,
  { numerator, denominator }: Fraction,
  rounding: Rounding = 'down',
): Units | undefined {
  const more = { down: 0n, nearest: denominator / 2n, up: denominator - 1n }[rounding];
  const share = (BigInt(units) * numerator + more) / denominator;
  return share <= BigInt(MAX_UNITS) ? Number(share) : undefined;
}

const decimalsOf = new Map<string, number>();

/** Decimals of an ISO 4217 currency: 2 for EUR, 0 for JPY. */
export function moneyDecimals(code: string): number {
  let decimals = decimalsOf.get(code);
  if (decimals === undefined) {
    const format = new Intl.NumberFormat('en', { style: 'currency', currency: code });
    decimalsOf.set(code, (decimals = format.resolvedOptions().maximumFractionDigits ?? 2));
  }
  return decimals;
}
