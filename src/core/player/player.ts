/**
 * A player's state and the only ways it changes. Every function gives a new state and leaves the old one
 * alone; what did not change is shared between them, so a store can tell by identity what to write.
 */
import { MAX_UNITS, basketEquals, unitsShare } from '../amount/index.js';
import type { Basket, Units } from '../amount/index.js';
import type { Economy, Item } from '../economy/index.js';
import type { Scope, Value } from '../formula/index.js';
import { playerAccount, worldAccount } from '../ledger/index.js';
import type { Account, Movement } from '../ledger/index.js';
import { daysBetween, levelChange, levelSettle } from '../schedule/index.js';
import type { Counter, Level } from '../schedule/index.js';

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

export interface Player {
  readonly id: string;
  readonly name: string;
  readonly startedMs: number;
  readonly attributes: Readonly<Record<string, Value>>;
  /** By currency id; a currency that is absent counts 0. */
  readonly balances: Readonly<Record<string, Level>>;
  readonly stacks: readonly Stack[];
  /** Limits' counters, by `offer ID PERIOD` or `earning ID PERIOD`. */
  readonly counters: Readonly<Record<string, Counter>>;
  /** What is left of per-player stock, by offer id; absent means untouched. */
  readonly stocks: Readonly<Record<string, Level>>;
}

/** Where things go when they arrive; a game moves them on to other places. */
export const DEFAULT_PLACE = 'bag';

export interface Changed {
  player: Player;
  movements: Movement[];
}

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
  };
  return { player, movements };
}

/** A player made up for a question: `holds` replaces the start balances of the currencies that it names. */
export interface Profile {
  attributes?: Record<string, Value>;
  holds?: Record<string, Units>;
}

export function playerMadeUp(economy: Economy, { attributes = {}, holds = {} }: Profile, nowMs: number): Player {
  const { player } = playerCreate(economy, 'profile', 'Made-up player', nowMs, attributes);
  const emptied: Player = {
    ...player,
    balances: Object.fromEntries(
      Object.entries(player.balances).map(([id, level]) => [id, id in holds ? { units: 0, sinceMs: nowMs } : level]),
    ),
  };
  return playerReceive(economy, emptied, holds, worldAccount('profile'), 'profile:made_up', nowMs).player;
}

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
  return { player: balances ? { ...player, balances } : player, movements };
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
    const emptied = { ...result.player, balances: { ...result.player.balances, [id]: { units: 0, sinceMs: null } } };
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
    player: { ...settled, stacks: player.stacks.filter((stack) => !over.includes(stack)) },
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

const yieldKey = (item: string): string => `yield ${item}`;

/**
 * Yields gather as units x milliseconds, so that units which come or go in between count for just the time they were
 * owned. Called before stacks change, and before collecting.
 */
export function yieldsSettle(economy: Economy, player: Player, nowMs: number): Player {
  if (economy.yieldingItems.length === 0) return player;
  let counters: Record<string, Counter> | undefined;
  for (const { id, yields } of economy.yieldingItems) {
    const units = playerHolds(economy, player, id);
    const counter = player.counters[yieldKey(id)];
    if (units === 0 && !counter) continue;
    const elapsed = counter ? Math.max(0, nowMs - counter.startMs) : 0;
    const most = Math.min(units * yields!.upTo * yields!.everyMs, MAX_UNITS);
    const count = Math.max(counter?.count ?? 0, Math.min((counter?.count ?? 0) + elapsed * units, most));
    (counters ??= { ...player.counters })[yieldKey(id)] = {
      count,
      startMs: Math.max(nowMs, counter?.startMs ?? nowMs),
    };
  }
  return counters ? { ...player, counters } : player;
}

/** How many whole intervals' yield of an item wait to be collected, and the player without them. */
export function yieldTake(
  economy: Economy,
  player: Player,
  item: Item,
  nowMs: number,
): { player: Player; times: number } {
  const settled = yieldsSettle(economy, player, nowMs);
  const counter = settled.counters[yieldKey(item.id)];
  if (!counter || !item.yields) return { player: settled, times: 0 };
  const times = Math.floor(counter.count / item.yields.everyMs);
  const left = { ...counter, count: counter.count - times * item.yields.everyMs };
  return { player: { ...settled, counters: { ...settled.counters, [yieldKey(item.id)]: left } }, times };
}

/** Units of an asset: a balance, or the sum over ALL stacks in all places. Refills count up to the last settling. */
export function playerHolds(economy: Economy, player: Player, asset: string): Units {
  if (economy.currencies.has(asset)) return player.balances[asset]?.units ?? 0;
  let sum = 0;
  for (const stack of player.stacks) if (stack.item === asset) sum += stack.units;
  return sum;
}

/** What of it can be paid or sold: a consumable that has been begun cannot. */
export function playerSpendable(economy: Economy, player: Player, asset: string): Units {
  if (economy.currencies.has(asset)) return playerHolds(economy, player, asset);
  let sum = 0;
  for (const stack of player.stacks) if (stack.item === asset && stack.usesLeft === null) sum += stack.units;
  return sum;
}

/** How often the player bought an offer, ever. */
export const playerBought = (player: Player, offer: string): number =>
  player.counters[`offer ${offer} lifetime`]?.count ?? 0;

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

/** Takes a basket that the player holds in full; the caller has made sure. Items leave their stacks in slot order. */
export function playerPay(
  economy: Economy,
  player: Player,
  basket: Readonly<Basket>,
  to: Account,
  cause: string,
  nowMs: number,
): Changed {
  const balances = { ...player.balances };
  let stacks = player.stacks;
  const movements: Movement[] = [];
  const { counters } = yieldsSettle(economy, player, nowMs);
  for (const asset in basket) {
    const units = basket[asset]!;
    if (units === 0) continue;
    if (playerSpendable(economy, player, asset) < units)
      throw new Error(`${player.id} holds less than ${units} ${asset}: pay was called without a check`);
    const currency = economy.currencies.get(asset);
    if (currency)
      balances[asset] = levelChange(balances[asset] ?? { units: 0, sinceMs: null }, -units, currency.refill, nowMs);
    else stacks = stacksRemove(stacks, asset, units);
    movements.push({ asset, units, from: playerAccount(player.id), to, cause });
  }
  return { player: { ...player, balances, stacks, counters }, movements };
}

/** How often the player can still use an item: every unit's uses, over all stacks. */
export function playerUses(player: Player, item: Item): number {
  let sum = 0;
  for (const stack of player.stacks)
    if (stack.item === item.id) sum += stack.usesLeft ?? stack.units * (item.uses ?? 0);
  return sum;
}

/** Uses a consumable `times` times, the unit that has been begun first; the caller has made sure there are enough. */
export function playerUse(economy: Economy, player: Player, item: Item, times: number, nowMs: number): Changed {
  const uses = item.uses!;
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
    player: { ...settled, stacks },
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

export interface Received extends Changed {
  /** What arrived, bundles unpacked. */
  given: Basket;
  /** What a cap or a carry limit kept out. */
  dropped: Basket;
}

/**
 * Gives a basket: bundles unpack, and what passes a cap or carry is dropped, with the ledger saying so (in,
 * and out again to `world:over-cap`). Where nothing may be dropped, check first with `basketArrivals`.
 * `paid` is what each unit of an item cost, where one kind was bought.
 */
export function playerReceive(
  economy: Economy,
  player: Player,
  basket: Readonly<Basket>,
  from: Account,
  cause: string,
  nowMs: number,
  paid: Basket | null = null,
): Received {
  const balances = { ...player.balances };
  let stacks = player.stacks;
  const { counters } = yieldsSettle(economy, player, nowMs);
  const movements: Movement[] = [];
  const given: Basket = {};
  const dropped: Basket = {};
  const account = playerAccount(player.id);
  for (const asset in basket) {
    // A bundle leaves a trace: in from the giver, and out to be unpacked.
    if (economy.items.get(asset)?.kind === 'bundle')
      movements.push(
        { asset, units: basket[asset]!, from, to: account, cause },
        { asset, units: basket[asset]!, from: account, to: worldAccount('unpack'), cause },
      );
  }
  const arrivals = basketArrivals(economy, basket);
  for (const asset in arrivals) {
    const units = Math.min(arrivals[asset]!, MAX_UNITS);
    if (units === 0) continue;
    const kept = unitsKept(economy, player, asset, units);
    movements.push(
      ...arrivalMovements(asset, units, units - kept, asset in basket ? from : worldAccount('unpack'), account, cause),
    );
    if (kept < units) dropped[asset] = units - kept;
    if (kept === 0) continue;
    given[asset] = kept;
    const currency = economy.currencies.get(asset);
    if (currency)
      balances[asset] = levelChange(balances[asset] ?? { units: 0, sinceMs: null }, kept, currency.refill, nowMs);
    else stacks = stacksAdd(stacks, economy.items.get(asset)!, kept, cause, nowMs, paid);
  }
  // Once more, so that a yield of what has just arrived begins now.
  const after = yieldsSettle(economy, { ...player, balances, stacks, counters }, nowMs);
  return { player: after, movements, given, dropped };
}

/** How much of what arrives is kept: what fits, or, for a currency that refuses, all or nothing. */
function unitsKept(economy: Economy, player: Player, asset: string, units: Units): Units {
  const room = assetRoom(economy, player, asset);
  if (units <= room) return units;
  return economy.currencies.get(asset)?.overCap === 'refuse' ? 0 : room;
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

/** Begun units stay: they are used up, never paid. */
function stacksRemove(stacks: readonly Stack[], item: string, units: Units): Stack[] {
  let left = units;
  const result: Stack[] = [];
  for (const stack of stacks) {
    const taken = stack.item === item && stack.usesLeft === null ? Math.min(stack.units, left) : 0;
    left -= taken;
    if (taken === 0) result.push(stack);
    else if (taken < stack.units) result.push({ ...stack, units: stack.units - taken });
  }
  return result;
}

function stacksAdd(
  stacks: readonly Stack[],
  item: Item,
  units: Units,
  cause: string,
  nowMs: number,
  paid: Basket | null,
): Stack[] {
  let left = units;
  const most = item.stack ?? MAX_UNITS;
  const expiresMs = item.lastsMs === undefined ? null : nowMs + item.lastsMs;
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
    return fits > 0 ? { ...stack, units: stack.units + fits } : stack;
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
