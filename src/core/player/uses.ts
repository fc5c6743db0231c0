/** Using consumables up. */
import type { Consumable, Economy } from '../economy/index.js';
import { playerAccount, worldAccount } from '../ledger/index.js';
import { stacksRemove } from './stacks.js';
import { playerWith } from './state.js';
import type { Stack, Player, Changed } from './state.js';
import { yieldsSettle } from './yields.js';

/** How often the player can still use an item: every unit's uses, over all stacks. */
export function playerUses(player: Player, item: Consumable): number {
  let sum = 0;
  for (const stack of player.stacks) if (stack.item === item.id) sum += stack.usesLeft ?? stack.units * item.uses;
  return sum;
}

/** Uses a consumable `times` times, the unit that has been begun first; the caller has made sure there are enough. */
export function playerUse(economy: Economy, player: Player, item: Consumable, times: number, nowMs: number): Changed {
  const { uses } = item;
  const begun = player.stacks.find((stack) => stack.item === item.id && stack.usesLeft !== null);
  const fromBegun = Math.min(times, begun?.usesLeft ?? 0);
  const left = times - fromBegun;
  const whole = Math.ceil(left / uses);
  const over = whole * uses - left;
  const settled = yieldsSettle(economy, player, nowMs);
  let stacks: readonly Stack[] = player.stacks.flatMap((stack) =>
    stack !== begun
      ? [stack]
      : begun.usesLeft === fromBegun
        ? []
        : [{ ...begun, usesLeft: begun.usesLeft! - fromBegun }],
  );
  const last = stacks.find((stack) => stack.item === item.id && stack.usesLeft === null);
  stacks = stacksRemove(stacks, item.id, whole);
  if (over > 0) {
    const slot = stacks.reduce((highest, stack) => Math.max(highest, stack.slot), 0) + 1;
    stacks = [...stacks, { ...last!, slot, units: 1, usesLeft: over }];
  }
  const gone = whole - (over > 0 ? 1 : 0) + (begun && begun.usesLeft === fromBegun ? 1 : 0);
  return {
    player: playerWith(settled, { stacks }),
    movements:
      gone > 0
        ? [
            {
              asset: item.id,
              units: gone,
              from: playerAccount(player.id),
              to: worldAccount('used'),
              cause: `use:${item.id}`,
            },
          ]
        : [],
  };
}
