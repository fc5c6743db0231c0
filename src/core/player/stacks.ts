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

/** Begun units stay: they are used up, never paid. */
export function stacksRemove(stacks: readonly Stack[], item: string, units: Units): Stack[] {
  let left = units;
  const result: Stack[] = [];
  for (const stack of stacks) {
    const taken = stack.item === item && stack.usesLeft === null ? Math.min(stack.units, left) : 0;
    left -= taken;
    if (taken === 0) result.push(stack);
    else if (taken < stack.units) result.push(stackWith(stack, stack.units - taken));
  }
  return result;
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
