/** What is known of a player, and what they hold. */
import type { Basket, Units } from '../amount/index.js';
import type { Economy } from '../economy/index.js';
import type { Value } from '../formula/index.js';
import type { Movement } from '../ledger/index.js';
import type { Level } from '../schedule/index.js';
import type { Counters } from './counters.js';

/** Units of one item in one slot. The same item may lie in many stacks and places: never count only one. */
export interface Stack {
  slot: number;
  item: string;
  units: Units;
  place: string;
  cause: string;
  /** Of a consumable that has been begun (it lies in a stack of its own): how often it can still be used. */
  usesLeft: number | null;
  /** When a timed item expires, epoch ms. */
  expiresMs: number | null;
  /** What was paid for each unit, rounded down; null when it was not bought. */
  paid: Basket | null;
}

/** What a team has together. */
export interface Team {
  readonly id: string;
  /** The kind of team that it is. */
  readonly kind: string;
  readonly name: string;
  readonly startedMs: number;
  /** Money and things, by asset, in smallest units and pieces; none of them has a cap or a place. */
  readonly holdings: Readonly<Record<string, Units>>;
  readonly counters: Counters;
}

export interface Player {
  readonly id: string;
  readonly name: string;
  readonly startedMs: number;
  readonly attributes: Readonly<Record<string, Value>>;
  /** By currency id; a currency that is absent counts 0. */
  readonly balances: Readonly<Record<string, Level>>;
  readonly stacks: readonly Stack[];
  readonly counters: Counters;
  /** What is left of per-player stock, by offer id; absent means untouched. */
  readonly stocks: Readonly<Record<string, Level>>;
  /** The team that the player is in, by kind, as it stands. */
  readonly teams: Readonly<Record<string, Team>>;
}

/**
 * The same player but for some parts. It says what `{ ...player, ...changes }` does, which takes V8 some fifty times as long,
 * and a purchase makes a player anew half a dozen times.
 */
export const playerWith = (player: Player, changes: Partial<Player>): Player => ({
  id: player.id,
  name: changes.name ?? player.name,
  startedMs: player.startedMs,
  attributes: changes.attributes ?? player.attributes,
  balances: changes.balances ?? player.balances,
  stacks: changes.stacks ?? player.stacks,
  counters: changes.counters ?? player.counters,
  stocks: changes.stocks ?? player.stocks,
  teams: changes.teams ?? player.teams,
});

/** Where things go when they arrive; a game moves them on to other places. */
export const DEFAULT_PLACE = 'bag';

export interface Changed {
  player: Player;
  movements: Movement[];
}

/** Units of an asset: a balance, or the sum over ALL stacks in all places. Refills count up to the last settling. */
export function playerHolds(economy: Economy, player: Player, asset: string): Units {
  if (economy.currencies.has(asset)) return player.balances[asset]?.units ?? 0;
  let sum = 0;
  for (const stack of player.stacks) if (stack.item === asset) sum += stack.units;
  return sum;
}

/** What of a basket can be taken: never more than there is. The rest is told as `missed`. */
export function playerReach(
  economy: Economy,
  player: Player,
  takes: Readonly<Basket>,
): { taken: Basket; missed: Basket } {
  const taken: Basket = {};
  const missed: Basket = {};
  for (const asset in takes) {
    const reach = Math.min(takes[asset]!, playerSpendable(economy, player, asset));
    if (reach > 0) taken[asset] = reach;
    if (reach < takes[asset]!) missed[asset] = takes[asset]! - reach;
  }
  return { taken, missed };
}

/** What of it can be paid or sold: a consumable that has been begun cannot. */
export function playerSpendable(economy: Economy, player: Player, asset: string): Units {
  if (economy.currencies.has(asset)) return playerHolds(economy, player, asset);
  let sum = 0;
  for (const stack of player.stacks) if (stack.item === asset && stack.usesLeft === null) sum += stack.units;
  return sum;
}
