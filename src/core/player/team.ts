/** Teams: what they hold together, and their share of what a member gets. Like players', their state is never altered in place. */
import { MAX_UNITS, unitsShare } from '../amount/index.js';
import type { Basket, Fraction } from '../amount/index.js';
import type { Economy, Share } from '../economy/index.js';
import { teamAccount } from '../ledger/index.js';
import type { Account, Movement } from '../ledger/index.js';
import { playerWith } from './state.js';
import type { Player, Team } from './state.js';

export interface TeamChanged {
  team: Team;
  movements: Movement[];
}

/** Adds to what a team holds. What would pass the ceiling of an amount stays where it was, and is told as `dropped`. */
export function teamReceive(
  team: Team,
  basket: Readonly<Basket>,
  from: Account,
  cause: string,
): TeamChanged & { given: Basket; dropped: Basket } {
  const holdings = { ...team.holdings };
  const given: Basket = {};
  const dropped: Basket = {};
  for (const asset in basket) {
    const has = holdings[asset] ?? 0;
    const fits = Math.min(basket[asset]!, MAX_UNITS - has);
    if (fits < basket[asset]!) dropped[asset] = basket[asset]! - fits;
    if (fits <= 0) continue;
    given[asset] = fits;
    holdings[asset] = has + fits;
  }
  const to = teamAccount(team.id);
  const movements = Object.entries(given).map(([asset, units]): Movement => ({ asset, units, from, to, cause }));
  return { team: { ...team, holdings }, movements, given, dropped };
}

/** Takes from what a team holds, as far as it is there: the rest is told as `missed`. */
export function teamPay(
  team: Team,
  basket: Readonly<Basket>,
  to: Account,
  cause: string,
): TeamChanged & { taken: Basket; missed: Basket } {
  const holdings = { ...team.holdings };
  const taken: Basket = {};
  const missed: Basket = {};
  for (const asset in basket) {
    const units = Math.min(basket[asset]!, holdings[asset] ?? 0);
    if (units < basket[asset]!) missed[asset] = basket[asset]! - units;
    if (units <= 0) continue;
    taken[asset] = units;
    holdings[asset] = holdings[asset]! - units;
  }
  const from = teamAccount(team.id);
  const movements = Object.entries(taken).map(([asset, units]): Movement => ({ asset, units, from, to, cause }));
  return { team: { ...team, holdings }, movements, taken, missed };
}

/** What is left for the player, and what went to teams, by team. */
export interface Parted {
  player: Player;
  movements: Movement[];
  own: Basket;
  shared: Record<string, Basket>;
}

/**
 * Gives the player's teams their parts of the money in a basket, each rounded down, so that parts of a unit stay with the
 * player. Things are the player's alone, and who is in no such team keeps it all.
 */
export function teamShare(
  economy: Economy,
  player: Player,
  share: Share,
  gives: Readonly<Basket>,
  from: Account,
  cause: string,
): Parted {
  const result: Parted = { player, movements: [], own: gives, shared: {} };
  for (const [kind, part] of share) {
    const team = player.teams[kind];
    if (!team) continue;
    const received = teamReceive(team, partOf(economy, gives, part), from, cause);
    if (received.movements.length === 0) continue;
    result.player = playerWith(result.player, { teams: { ...result.player.teams, [kind]: received.team } });
    result.movements.push(...received.movements);
    result.shared[team.id] = received.given;
    result.own = { ...result.own };
    for (const asset in received.given) result.own[asset] = result.own[asset]! - received.given[asset]!;
  }
  return result;
}

/** To be told where there is something to tell. */
export const sharedTold = ({ shared }: Parted): { shared?: Record<string, Basket> } =>
  Object.keys(shared).length > 0 ? { shared } : {};

function partOf(economy: Economy, gives: Readonly<Basket>, part: Fraction): Basket {
  const money = Object.keys(gives).filter((asset) => economy.currencies.has(asset));
  return Object.fromEntries(money.map((asset) => [asset, unitsShare(gives[asset]!, part) ?? 0]));
}
