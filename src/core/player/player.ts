/**
 * The only ways a player's state changes. Every function gives a new state and leaves the old one alone; what did not
 * change is shared between them, so a store can tell by identity what to write.
 */
import { MAX_UNITS } from '../amount/index.js';
import type { Basket, Units } from '../amount/index.js';
import type { Economy } from '../economy/index.js';
import type { Scope, Value } from '../formula/index.js';
import { playerAccount, worldAccount } from '../ledger/index.js';
import type { Account, Movement } from '../ledger/index.js';
import { daysBetween, levelChange } from '../schedule/index.js';
import type { Level } from '../schedule/index.js';
import { counterKey } from './counters.js';
import type { Paid } from './paid.js';
import { stacksAdd, stacksRemove } from './stacks.js';
import { playerHolds, playerSpendable, playerWith } from './state.js';
import type { Player, Changed } from './state.js';
import { yieldsSettle } from './yields.js';

/** A new player with the start balances and attributes, and the movements that gave them. */
export function playerCreate(
  economy: Economy,
  id: string,
  name: string,
  nowMs: number,
  attributes: Record<string, Value> = {},
): Changed {
  const balances: Record<string, Level> = {};
  const movements: Movement[] = [];
  for (const currency of economy.currencies.values()) {
    balances[currency.id] = levelChange({ units: 0, sinceMs: null }, currency.start, currency.refill, nowMs);
    if (currency.start > 0)
      movements.push({
        asset: currency.id,
        units: currency.start,
        from: worldAccount('start'),
        to: playerAccount(id),
        cause: 'start:new_player',
      });
  }
  const player: Player = {
    id,
    name,
    startedMs: nowMs,
    attributes: { ...Object.fromEntries(economy.attributes), ...attributes },
    balances,
    stacks: [],
    counters: {},
    stocks: {},
    teams: {},
  };
  return { player, movements };
}

/** A player made up for a question: `holds` replaces the start balances of the currencies that it names. */
export interface Profile {
  attributes?: Record<string, Value>;
  holds?: Record<string, Units>;
}

/** A new player for a question, with these attributes and holdings, in smallest units and pieces; nothing is kept. */
export function playerMadeUp(economy: Economy, { attributes = {}, holds = {} }: Profile, nowMs: number): Player {
  const { player } = playerCreate(economy, 'profile', 'Made-up player', nowMs, attributes);
  const balances = Object.fromEntries(
    Object.entries(player.balances).map(([id, level]) => [id, id in holds ? { units: 0, sinceMs: nowMs } : level]),
  );
  const emptied = playerWith(player, { balances });
  return playerReceive(economy, emptied, holds, worldAccount('profile'), 'profile:made_up', nowMs).player;
}

/** The same player with exactly so much of an asset, as if it had always been there; nothing is told of it. */
export function playerHolding(economy: Economy, player: Player, asset: string, units: Units, nowMs: number): Player {
  if (playerHolds(economy, player, asset) === units) return player;
  const currency = economy.currencies.get(asset);
  if (currency) {
    const level = levelChange({ units, sinceMs: player.balances[asset]?.sinceMs ?? null }, 0, currency.refill, nowMs);
    return playerWith(player, { balances: { ...player.balances, [asset]: level } });
  }
  const item = economy.items.get(asset);
  if (!item || item.kind === 'bundle') return player;
  const others = player.stacks.filter((stack) => stack.item !== asset);
  return playerWith(player, { stacks: units > 0 ? stacksAdd(others, item, units, 'held', nowMs, null) : others });
}

/** How often the player bought an offer, ever. */
export const playerBought = (player: Player, offer: string): number =>
  player.counters[counterKey.offer(offer, 'lifetime')]?.count ?? 0;

/** What formulas may read about a player at an instant. */
export function playerScope(economy: Economy, player: Player, nowMs: number): Scope {
  return {
    name: (name) =>
      name === 'day'
        ? daysBetween(economy.zone, player.startedMs, nowMs)
        : (player.attributes[name] ?? economy.attributes.get(name) ?? 0),
    owned: (item) => playerHolds(economy, player, item),
    balance: (currency) =>
      playerHolds(economy, player, currency) / 10 ** (economy.currencies.get(currency)?.decimals ?? 0),
    bought: (offer) => playerBought(player, offer),
  };
}

/** The account on the other side of what a player pays or receives: one for all of it, or by asset. */
type OtherSide = Account | ((asset: string) => Account);

const accountFor = (side: OtherSide, asset: string): Account => (typeof side === 'string' ? side : side(asset));

function isEmpty(basket: Readonly<Basket>): boolean {
  for (const _ in basket) return false;
  return true;
}

/**
 * Takes a basket that the player holds in full, in smallest units and pieces. Items leave their stacks in slot order.
 * Throws where less is held: asking first is the caller's duty.
 */
export function playerPay(
  economy: Economy,
  player: Player,
  basket: Readonly<Basket>,
  to: OtherSide,
  cause: string,
  nowMs: number,
): Changed {
  const settled = yieldsSettle(economy, player, nowMs);
  if (isEmpty(basket)) return { player: settled, movements: [] };
  const { counters } = settled;
  const balances = { ...player.balances };
  let stacks = player.stacks;
  const movements: Movement[] = [];
  for (const asset in basket) {
    const units = basket[asset]!;
    if (units === 0) continue;
    if (playerSpendable(economy, player, asset) < units)
      throw new Error(`${player.id} holds less than ${units} ${asset}: pay was called without a check`);
    const currency = economy.currencies.get(asset);
    if (currency)
      balances[asset] = levelChange(balances[asset] ?? { units: 0, sinceMs: null }, -units, currency.refill, nowMs);
    else stacks = stacksRemove(stacks, asset, units);
    movements.push({ asset, units, from: playerAccount(player.id), to: accountFor(to, asset), cause });
  }
  return { player: playerWith(player, { balances, stacks, counters }), movements };
}

/** All that a player holds, of whatever assets: what is lost when they are erased, and the movements that say so. */
export function playerEmptied(
  { id, balances, stacks }: Player,
  to: Account,
  cause: string,
): { lost: Basket; movements: Movement[] } {
  const lost: Basket = {};
  for (const currency in balances) if (balances[currency]!.units > 0) lost[currency] = balances[currency]!.units;
  // Stacks of an item are summed without a ceiling in sight: what is held of it never passes one.
  for (const { item, units } of stacks) lost[item] = (lost[item] ?? 0) + units;
  const from = playerAccount(id);
  return { lost, movements: Object.entries(lost).map(([asset, units]) => ({ asset, units, from, to, cause })) };
}

export interface Receiving {
  /** What each unit of an item cost, where it was bought. */
  paid?: Paid;
  /** What fits is kept even of a currency that refuses what passes its cap. */
  fits?: boolean;
}

export interface Received extends Changed {
  /** What arrived, bundles unpacked. */
  given: Basket;
  /** What a cap or a carry limit kept out. */
  dropped: Basket;
}

/**
 * Gives a basket: bundles unpack, and what passes a cap or carry is dropped, with the ledger saying so (in,
 * and out again to `world:over-cap`). Where nothing may be dropped, check first with `basketArrivals`.
 */
export function playerReceive(
  economy: Economy,
  player: Player,
  basket: Readonly<Basket>,
  from: OtherSide,
  cause: string,
  nowMs: number,
  { paid, fits = false }: Receiving = {},
): Received {
  const settled = yieldsSettle(economy, player, nowMs);
  if (isEmpty(basket)) return { player: settled, movements: [], given: {}, dropped: {} };
  const { counters } = settled;
  const balances = { ...player.balances };
  let stacks = player.stacks;
  const movements: Movement[] = [];
  const given: Basket = {};
  const dropped: Basket = {};
  const account = playerAccount(player.id);
  for (const asset in basket) {
    // A bundle leaves a trace: in from the giver, and out to be unpacked.
    if (economy.items.get(asset)?.kind === 'bundle')
      movements.push(
        { asset, units: basket[asset]!, from: accountFor(from, asset), to: account, cause },
        { asset, units: basket[asset]!, from: account, to: worldAccount('unpack'), cause },
      );
  }
  const arrivals = basketArrivals(economy, basket);
  for (const asset in arrivals) {
    const units = Math.min(arrivals[asset]!, MAX_UNITS);
    if (units === 0) continue;
    const kept = unitsKept(economy, player, asset, units, fits);
    movements.push(
      ...arrivalMovements(
        asset,
        units,
        units - kept,
        asset in basket ? accountFor(from, asset) : worldAccount('unpack'),
        account,
        cause,
      ),
    );
    if (kept < units) dropped[asset] = units - kept;
    if (kept === 0) continue;
    given[asset] = kept;
    const currency = economy.currencies.get(asset);
    if (currency)
      balances[asset] = levelChange(balances[asset] ?? { units: 0, sinceMs: null }, kept, currency.refill, nowMs);
    else stacks = stacksAdd(stacks, economy.items.get(asset)!, kept, cause, nowMs, paid?.[asset] ?? null);
  }
  const after = playerWith(player, { balances, stacks, counters });
  // Once more where something came, so that its yield begins now.
  return { player: stacks === player.stacks ? after : yieldsSettle(economy, after, nowMs), movements, given, dropped };
}

/** How much of what arrives is kept: what fits, or, for a currency that refuses, all or nothing. */
function unitsKept(economy: Economy, player: Player, asset: string, units: Units, fits: boolean): Units {
  const room = assetRoom(economy, player, asset);
  if (units <= room) return units;
  return !fits && economy.currencies.get(asset)?.overCap === 'refuse' ? 0 : room;
}

function arrivalMovements(
  asset: string,
  units: Units,
  dropped: Units,
  from: Account,
  to: Account,
  cause: string,
): Movement[] {
  const arrived: Movement = { asset, units, from, to, cause };
  return dropped === 0
    ? [arrived]
    : [arrived, { asset, units: dropped, from: to, to: worldAccount('over-cap'), cause }];
}

/** No item fills more slots than this, so that a mistyped count cannot fill the memory. */
export const MAX_SLOTS_PER_ITEM = 1000;

/** The most of an asset a player may hold: a currency's cap; an item's carry and slots; the ceiling of all amounts. */
export function assetMost(economy: Economy, asset: string): Units {
  const item = economy.items.get(asset);
  if (!item) return economy.currencies.get(asset)?.cap ?? MAX_UNITS;
  return Math.min(item.carry ?? MAX_UNITS, (item.stack ?? MAX_UNITS) * MAX_SLOTS_PER_ITEM, MAX_UNITS);
}

/** How much more of an asset the player can hold. */
export const assetRoom = (economy: Economy, player: Player, asset: string): Units =>
  Math.max(0, assetMost(economy, asset) - playerHolds(economy, player, asset));

/** What a basket turns into on arrival: bundles are replaced by their contents. A sum may pass the ceiling: the caller checks. */
export function basketArrivals(economy: Economy, basket: Readonly<Basket>): Basket {
  const arrivals: Basket = {};
  const arrive = (asset: string, units: Units): void => {
    arrivals[asset] = (arrivals[asset] ?? 0) + units;
  };
  for (const asset in basket) {
    const item = economy.items.get(asset);
    if (item?.kind !== 'bundle') arrive(asset, basket[asset]!);
    else for (const inner in item.contents) arrive(inner, item.contents[inner]! * basket[asset]!);
  }
  return arrivals;
}
