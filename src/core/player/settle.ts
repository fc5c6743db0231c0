/**
 * What time alone does to a player: refills come, yields gather, timed items expire, currencies that ended turn into
 * others. All of it is done in the order of time, so that it never matters when or how often a player acts.
 */
import { MAX_UNITS, unitsShare } from '../amount/index.js';
import type { Currency, Economy } from '../economy/index.js';
import { playerAccount, worldAccount } from '../ledger/index.js';
import type { Movement } from '../ledger/index.js';
import { levelSettle } from '../schedule/index.js';
import type { Level } from '../schedule/index.js';
import { playerReceive } from './player.js';
import { playerWith } from './state.js';
import type { Player, Changed } from './state.js';
import { yieldsSettle } from './yields.js';

/**
 * Brings a player up to `nowMs`. What falls on one instant comes in this order: refills, then what expires, then what
 * ends. Currencies that a release added since begin at 0. Linear in what expires and ends.
 */
export function playerSettle(economy: Economy, player: Player, nowMs: number): Changed {
  let result: Changed = { player, movements: [] };
  for (let dueMs = nextDueMs(economy, player); dueMs <= nowMs; dueMs = nextDueMs(economy, result.player)) {
    result = then(result, refillsSettle(economy, result.player, dueMs));
    result = then(result, expiriesSettle(economy, result.player, dueMs));
    for (const currency of economy.endingCurrencies)
      if (isDue(currency, result.player) && currency.ends!.atMs <= dueMs)
        result = then(result, endSettle(economy, result.player, currency));
  }
  return then(result, refillsSettle(economy, result.player, nowMs));
}

const then = (before: Changed, after: Changed): Changed => ({
  player: after.player,
  movements: before.movements.length === 0 ? after.movements : [...before.movements, ...after.movements],
});

/** When the next thing expires or a currency ends of which there is something, epoch ms; `Infinity` where none does. */
function nextDueMs(economy: Economy, player: Player): number {
  let due = Infinity;
  if (economy.timedItems.length > 0)
    for (const { expiresMs } of player.stacks) if (expiresMs !== null && expiresMs < due) due = expiresMs;
  for (const currency of economy.endingCurrencies)
    if (isDue(currency, player)) due = Math.min(due, currency.ends!.atMs);
  return due;
}

/** Whether there is something of a currency, or some of it still to come. */
function isDue({ id }: Currency, { balances }: Player): boolean {
  const level = balances[id];
  return level !== undefined && !isEmpty(level);
}

const isEmpty = ({ units, sinceMs }: Level): boolean => units === 0 && sinceMs === null;

function refillsSettle(economy: Economy, player: Player, nowMs: number): Changed {
  let balances: Record<string, Level> | undefined;
  const movements: Movement[] = [];
  for (const { id, refill, ends } of economy.currencies.values()) {
    if (!refill) continue;
    const written = player.balances[id];
    if (ends && nowMs >= ends.atMs && (!written || isEmpty(written))) continue;
    const before = written ?? { units: 0, sinceMs: nowMs };
    const after = levelSettle(before, refill, ends ? Math.min(nowMs, ends.atMs) : nowMs);
    if (after === before && written) continue;
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

/** What is left of a currency that has ended turns into what the currency says, as far as there is room for it. */
function endSettle(economy: Economy, player: Player, { id, ends }: Currency): Changed {
  const { atMs, into } = ends!;
  const cause = `ended:${id}`;
  const { units } = player.balances[id]!;
  const becomes = into === undefined ? 0 : (unitsShare(units, ends!) ?? MAX_UNITS);
  const gone: Movement[] =
    units > 0 ? [{ asset: id, units, from: playerAccount(player.id), to: worldAccount('ended'), cause }] : [];
  const emptied = playerWith(player, { balances: { ...player.balances, [id]: { units: 0, sinceMs: null } } });
  if (becomes === 0) return { player: emptied, movements: gone };
  const came = playerReceive(economy, emptied, { [into!]: becomes }, worldAccount('ended'), cause, atMs, {
    fits: true,
  });
  return { player: came.player, movements: [...gone, ...came.movements] };
}

function expiriesSettle(economy: Economy, player: Player, nowMs: number): Changed {
  const over = player.stacks.filter(({ expiresMs }) => expiresMs !== null && expiresMs <= nowMs);
  if (over.length === 0) return { player, movements: [] };
  const settled = yieldsSettle(economy, player, nowMs);
  return {
    player: playerWith(settled, { stacks: player.stacks.filter((stack) => !over.includes(stack)) }),
    movements: over.map(({ item, units }) => ({
      asset: item,
      units,
      from: playerAccount(player.id),
      to: worldAccount('expired'),
      cause: `expired:${item}`,
    })),
  };
}
