/** What time alone does to a player. */
import { unitsShare } from '../amount/index.js';
import type { Economy } from '../economy/index.js';
import { playerAccount, worldAccount } from '../ledger/index.js';
import type { Movement } from '../ledger/index.js';
import { levelSettle } from '../schedule/index.js';
import type { Level } from '../schedule/index.js';
import { playerReceive } from './player.js';
import { playerWith } from './state.js';
import type { Player, Changed } from './state.js';
import { yieldsSettle } from './yields.js';

/**
 * Brings a player up to `nowMs`: refills come, currencies that ended turn into others, timed items expire.
 * Currencies that a release added since begin at 0.
 */
export function playerSettle(economy: Economy, player: Player, nowMs: number): Changed {
  const refilled = refillsSettle(economy, player, nowMs);
  const ended = endsSettle(economy, refilled, nowMs);
  return economy.timedItems.length === 0 ? ended : expiriesSettle(economy, ended, nowMs);
}

function refillsSettle(economy: Economy, player: Player, nowMs: number): Changed {
  let balances: Record<string, Level> | undefined;
  const movements: Movement[] = [];
  for (const { id, refill, ends } of economy.currencies.values()) {
    if (!refill) continue;
    const before = player.balances[id] ?? { units: 0, sinceMs: nowMs };
    const after = levelSettle(before, refill, ends ? Math.min(nowMs, ends.atMs) : nowMs);
    if (after === before && player.balances[id]) continue;
    (balances ??= { ...player.balances })[id] = after;
    if (after.units > before.units)
      movements.push({
        asset: id,
        units: after.units - before.units,
        from: worldAccount('refill'),
        to: playerAccount(player.id),
        cause: `refill:${id}`,
      });
  }
  return { player: balances ? playerWith(player, { balances }) : player, movements };
}

/** What is left of a currency that has ended turns into what the currency says, once. */
function endsSettle(economy: Economy, changed: Changed, nowMs: number): Changed {
  let result = changed;
  for (const { id, name, ends } of economy.endingCurrencies) {
    const level = result.player.balances[id];
    if (!ends || nowMs < ends.atMs || !level || (level.units === 0 && level.sinceMs === null)) continue;
    const cause = `ended:${id}`;
    const account = playerAccount(result.player.id);
    const units = ends.into === undefined ? 0 : unitsShare(level.units, ends);
    if (units === undefined) throw new Error(`${name} turns into more than the ceiling`);
    const balances = { ...result.player.balances, [id]: { units: 0, sinceMs: null } };
    const emptied = playerWith(result.player, { balances });
    const gone: Movement[] =
      level.units > 0 ? [{ asset: id, units: level.units, from: account, to: worldAccount('ended'), cause }] : [];
    const received = playerReceive(
      economy,
      emptied,
      units > 0 ? { [ends.into!]: units } : {},
      worldAccount('ended'),
      cause,
      nowMs,
    );
    result = { player: received.player, movements: [...result.movements, ...gone, ...received.movements] };
  }
  return result;
}

function expiriesSettle(economy: Economy, changed: Changed, nowMs: number): Changed {
  const { player } = changed;
  const over = player.stacks.filter(({ expiresMs }) => expiresMs !== null && expiresMs <= nowMs);
  if (over.length === 0) return changed;
  const settled = yieldsSettle(economy, player, nowMs);
  return {
    player: playerWith(settled, { stacks: player.stacks.filter((stack) => !over.includes(stack)) }),
    movements: [
      ...changed.movements,
      ...over.map(({ item, units }) => ({
        asset: item,
        units,
        from: playerAccount(player.id),
        to: worldAccount('expired'),
        cause: `expired:${item}`,
      })),
    ],
  };
}
