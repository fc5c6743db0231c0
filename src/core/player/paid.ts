/** What each thing that was bought remembers of its price: selling back `of: paid` rests on it. */
import type { Basket, Units } from '../amount/index.js';
import type { Economy } from '../economy/index.js';

/** What was paid for each unit, rounded down, by item. */
export type Paid = Readonly<Record<string, Basket>>;

/**
 * A price spread over all that came for it, bundles unpacked: by worth, rounded down for each unit, so that all parts
 * together never remember more than was paid. Worth is compared in the asset that most of the parts are worth something
 * in (a currency among them is worth itself), of as many in the price's own; parts that are worth nothing in it remember
 * nothing. Where no part is worth anything each unit counts the same. Linear in the parts and what they are worth.
 */
export function paidParts(economy: Economy, total: Readonly<Basket>, arrivals: Readonly<Basket>): Paid {
  const parts = Object.keys(arrivals).filter((asset) => arrivals[asset]! > 0);
  const [only] = parts;
  if (parts.length === 1) return economy.items.has(only!) ? { [only!]: eachOf(total, arrivals[only!]!) } : {};
  const paid: Record<string, Basket> = {};
  for (const item of parts) if (economy.items.has(item)) paid[item] = {};
  const worths = parts.map((asset) => economy.items.get(asset)?.worth ?? { [asset]: 1 });
  for (const asset in total) {
    const weights = weightsIn(worths, asset);
    const whole = parts.reduce((sum, part, at) => sum + BigInt(weights[at]!) * BigInt(arrivals[part]!), 0n);
    parts.forEach((part, at) => {
      if (paid[part]) paid[part][asset] = Number((BigInt(total[asset]!) * BigInt(weights[at]!)) / whole);
    });
  }
  return paid;
}

function eachOf(total: Readonly<Basket>, units: Units): Basket {
  const each: Basket = {};
  for (const asset in total) each[asset] = Math.floor(total[asset]! / units);
  return each;
}

/** What a unit of each part counts; not all of them are 0. */
function weightsIn(worths: readonly Readonly<Basket>[], own: string): Units[] {
  const covered = new Map([[own, 0]]);
  for (const worth of worths)
    for (const asset in worth) if (worth[asset]! > 0) covered.set(asset, (covered.get(asset) ?? 0) + 1);
  let best = own;
  for (const [asset, count] of covered) if (count > covered.get(best)!) best = asset;
  return covered.get(best) === 0 ? worths.map(() => 1) : worths.map((worth) => worth[best] ?? 0);
}
