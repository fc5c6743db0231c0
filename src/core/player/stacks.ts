/** How units lie in slots. */
import { MAX_UNITS, basketEquals } from '../amount/index.js';
import type { Basket, Units } from '../amount/index.js';
import type { Item } from '../economy/index.js';
import { DEFAULT_PLACE } from './state.js';
import type { Stack } from './state.js';

/** The same stack with other units; as in `playerWith`, a spread would take far longer. */
const stackWith = ({ slot, item, place, cause, usesLeft, expiresMs, paid }: Stack, units: Units): Stack => ({
  slot,
  item,
  units,
  place,
  cause,
  usesLeft,
  expiresMs,
  paid,
});

/**
 * The stacks that units of an item leave by, in their order: what expires soonest goes first, then by slot. Begun units
 * stay: they are used up, never paid.
 */
export function stacksLeaving(stacks: readonly Stack[], item: string): Stack[] {
  const whole = stacks.filter((stack) => stack.item === item && stack.usesLeft === null);
  const expires = ({ expiresMs }: Stack): number => expiresMs ?? Infinity;
  return whole.length > 1
    ? whole.sort((a, b) => (expires(a) < expires(b) ? -1 : expires(a) > expires(b) ? 1 : 0))
    : whole;
}

export function stacksRemove(stacks: readonly Stack[], item: string, units: Units): Stack[] {
  let left = units;
  const after = new Map<Stack, Units>();
  for (const stack of stacksLeaving(stacks, item)) {
    if (left === 0) break;
    const taken = Math.min(stack.units, left);
    left -= taken;
    after.set(stack, stack.units - taken);
  }
  return stacks.flatMap((stack) => {
    const units = after.get(stack);
    return units === undefined ? stack : units === 0 ? [] : stackWith(stack, units);
  });
}

export function stacksAdd(
  stacks: readonly Stack[],
  item: Item,
  units: Units,
  cause: string,
  nowMs: number,
  paid: Basket | null,
): Stack[] {
  let left = units;
  const most = item.stack ?? MAX_UNITS;
  const expiresMs = item.kind === 'timed' && Number.isFinite(item.lastsMs) ? nowMs + item.lastsMs : null;
  const alike = (stack: Stack): boolean =>
    stack.item === item.id &&
    stack.place === DEFAULT_PLACE &&
    stack.cause === cause &&
    stack.usesLeft === null &&
    stack.expiresMs === expiresMs &&
    (stack.paid === paid || (stack.paid !== null && paid !== null && basketEquals(stack.paid, paid)));
  const result = stacks.map((stack) => {
    const fits = left > 0 && alike(stack) ? Math.min(left, most - stack.units) : 0;
    left -= fits;
    return fits > 0 ? stackWith(stack, stack.units + fits) : stack;
  });
  let slot = result.reduce((highest, stack) => Math.max(highest, stack.slot), 0);
  while (left > 0) {
    const put = Math.min(left, most);
    result.push({
      slot: ++slot,
      item: item.id,
      units: put,
      place: DEFAULT_PLACE,
      cause,
      usesLeft: null,
      expiresMs,
      paid,
    });
    left -= put;
  }
  return result;
}
