/**
 * Recorded purchases against another economy: which would be refused now and why, and what each would cost. Whoever
 * bought had what it took and room for what came; what they earned, spent and used up meanwhile the log does not tell. So
 * players are given what is asked, and whatever stands in the way and can be used up is. docs/method.md.
 */
import { basketAddAll } from '../amount/index.js';
import type { Basket } from '../amount/index.js';
import type { Economy } from '../economy/index.js';
import type { Value } from '../formula/index.js';
import { worldAccount } from '../ledger/index.js';
import {
  playerCreate,
  playerHolding,
  playerHolds,
  playerReceive,
  playerScope,
  playerSettle,
  playerWith,
} from '../player/index.js';
import type { Player } from '../player/index.js';
import { UNTOUCHED, offerStock, purchaseApply, purchaseCheck, quoteMake, sharedWith } from '../trade/index.js';
import type { Reason, Shared, Verdict } from '../trade/index.js';
import { beatPeriod, daysBefore } from '../schedule/index.js';
import type { Known, Recorded } from '../log/index.js';

/** What becomes of one purchase. */
export type Replayed = { recorded: Recorded; name: string } & (
  | { outcome: 'bought'; total: Basket }
  | { outcome: 'refused'; reasons: Reason[] }
);

export interface OfferReplayed {
  offer: string;
  name: string;
  /** Purchases in the log, and those that would be refused, by the first reason against each. */
  recorded: number;
  refused: Record<string, number>;
  /** What was paid for those that would go through, and what they would cost: of purchases whose price the log tells. */
  paid: Basket;
  cost: Basket;
  /** How many of those would cost more, less, and the same. */
  dearer: number;
  cheaper: number;
  same: number;
}

/** The same of a group of players. */
export interface GroupReplayed extends Omit<OfferReplayed, 'offer' | 'name'> {
  group: string;
  players: number;
}

export interface ReplayResult {
  purchases: number;
  players: number;
  refused: number;
  /** By offer, those with most refusals first. */
  offers: OfferReplayed[];
  /** By the value of the attribute that was asked for; empty where none was. */
  groups: GroupReplayed[];
}

/** One purchase after the other, each on what the ones before left. Linear in the purchases. */
export class Replay {
  private readonly players = new Map<string, Player>();
  private shared: Shared = UNTOUCHED;
  /** By how much what a player has of each thing differs from what they had then, for what the prices here did. */
  private readonly apart = new Map<string, Map<string, number>>();

  constructor(private readonly economy: Economy) {}

  next(recorded: Recorded): Replayed {
    const economy = recorded.known?.pinned ? withPin(this.economy, recorded) : this.economy;
    const { player: id, atMs, offer, times } = recorded;
    const before = this.players.get(id) ?? playerCreate(economy, id, id, atMs).player;
    const settled = playerSettle(economy, withAttributes(before, recorded.attributes), atMs).player;
    const player = recorded.known ? this.asKnown(settled, recorded, recorded.known) : settled;
    const request = { offer, times, ...this.pay(recorded) };
    const funded = this.funded(player, request, atMs);
    const first = purchaseCheck(economy, funded, this.shared, request, atMs);
    const given = first.allowed ? funded : this.emptied(funded, first, request, atMs);
    const verdict = given === funded ? first : purchaseCheck(economy, given, this.shared, request, atMs);
    const name = economy.offers.get(offer)?.name ?? offer;
    if (!verdict.allowed) {
      this.noteApart(recorded, player);
      this.players.set(id, player);
      return { recorded, name, outcome: 'refused', reasons: verdict.reasons };
    }
    const bought = purchaseApply(economy, given, this.shared, verdict);
    this.noteApart(recorded, bought.player);
    this.players.set(id, bought.player);
    this.shared = sharedWith(this.shared, bought.shared);
    return { recorded, name, outcome: 'bought', total: verdict.price!.total };
  }

  /**
   * The player as they stood then, apart from what the prices here did to them: whatever they earned, sold, used or were
   * given since the purchase before. What was sold back to the shelf meanwhile is in stock again.
   */
  private asKnown(player: Player, { player: id, offer, atMs }: Recorded, { before, reads, left }: Known): Player {
    const { economy } = this;
    const attributes: Record<string, Value> = {};
    const held: Record<string, number> = { ...before };
    let startedMs = player.startedMs;
    for (const [name, value] of Object.entries(reads)) {
      const [, lookup, asset] = /^(\w+)\((\w+)\)$/.exec(name) ?? [];
      if (name === 'day') startedMs = daysBefore(economy.zone, atMs, Number(value));
      else if (lookup === undefined) attributes[name] = value;
      else if (lookup === 'owned') held[asset!] = Number(value);
      else if (lookup === 'balance')
        held[asset!] = Math.round(Number(value) * 10 ** (economy.currencies.get(asset!)?.decimals ?? 0));
    }
    let known: Player = { ...withAttributes(player, attributes), startedMs };
    for (const [asset, units] of Object.entries(held)) {
      const wanted = Math.max(0, units + (this.apart.get(id)?.get(asset) ?? 0));
      known = playerHolding(economy, known, asset, wanted, atMs);
    }
    const sold = economy.offers.get(offer);
    if (left !== null && sold?.stock?.scope === 'shared' && sold.shop.buyback?.resell) {
      const now = offerStock(known, this.shared, sold, atMs)!;
      if (now.units < left)
        this.shared = sharedWith(this.shared, { ...UNTOUCHED, stocks: { [offer]: { ...now, units: left } } });
    }
    return known;
  }

  private noteApart({ player: id, known }: Recorded, player: Player): void {
    if (!known) return;
    const apart = this.apart.get(id) ?? new Map<string, number>();
    this.apart.set(id, apart);
    for (const asset in known.after) apart.set(asset, playerHolds(this.economy, player, asset) - known.after[asset]!);
  }

  /** The way that was taken, where the offer still has it, or the only one that there is. */
  private pay({ offer, pay }: Recorded): { pay?: string } {
    const choices = this.economy.offers.get(offer)?.prices ?? [];
    const taken = choices.find((choice) => choice.pay === pay) ?? (choices.length > 1 ? choices[0] : undefined);
    return taken ? { pay: taken.pay } : {};
  }

  /** With what the price asks and the player lacks. */
  private funded(player: Player, { offer, times, pay }: Request, atMs: number): Player {
    const { economy } = this;
    const sold = economy.offers.get(offer);
    const choice = sold?.prices?.find((one) => pay === undefined || one.pay === pay);
    const quoted = sold && quoteMake(economy, sold, choice, times, playerScope(economy, player, atMs), atMs);
    if (!quoted?.ok) return player;
    const lack: Basket = {};
    for (const [asset, units] of Object.entries(quoted.quote.total)) {
      const held = playerHolds(economy, player, asset);
      if (held < units) lack[asset] = units - held;
    }
    return Object.keys(lack).length === 0
      ? player
      : playerReceive(economy, player, lack, worldAccount('replay'), 'replay:paid', atMs).player;
  }

  /** Without what fills the room that this needs and may have been spent or used up; the same player where nothing does. */
  private emptied(player: Player, { reasons }: Verdict, request: Request, atMs: number): Player {
    const { economy } = this;
    let given = player;
    for (const reason of reasons) {
      if (reason.code === 'over-cap')
        given = { ...given, balances: { ...given.balances, [reason.currency]: { units: 0, sinceMs: atMs } } };
      if (reason.code === 'carry-full' && economy.items.get(reason.item)?.kind !== 'durable')
        given = { ...given, stacks: given.stacks.filter(({ item }) => item !== reason.item) };
    }
    // What was emptied may be what is paid with.
    return given === player ? player : this.funded(given, request, atMs);
  }
}

/** The economy with what had been pinned for that moment. */
function withPin(economy: Economy, { offer, atMs }: Recorded): Economy {
  const shelf = economy.offers.get(offer)?.shelf;
  if (!shelf?.rotation) return economy;
  const { startMs, endMs } = beatPeriod(shelf.rotation.beat, atMs);
  const record = { earlier: [], periods: [{ startMs, endMs, pinned: [offer], without: [] }] };
  return { ...economy, rotationRecords: new Map([[shelf.key, record]]) };
}

interface Request {
  offer: string;
  times: number;
  pay?: string;
}

const withAttributes = (player: Player, attributes: Readonly<Record<string, Value>>): Player =>
  Object.keys(attributes).length === 0
    ? player
    : playerWith(player, { attributes: { ...player.attributes, ...attributes } });

/** All of them, summed by offer and, where an attribute is named, by its value. `onEach` is told of every one. */
export function replayPurchases(
  economy: Economy,
  purchases: readonly Recorded[],
  { by, onEach }: { by?: string; onEach?: (replayed: Replayed) => void } = {},
): ReplayResult {
  const replay = new Replay(economy);
  const offers = new Map<string, OfferReplayed>();
  const groups = new Map<string, GroupReplayed & { ids: Set<string> }>();
  let refused = 0;
  for (const recorded of purchases) {
    const replayed = replay.next(recorded);
    onEach?.(replayed);
    if (replayed.outcome === 'refused') refused++;
    const { offer } = recorded;
    const sum = offers.get(offer) ?? { offer, name: replayed.name, ...nothing() };
    offers.set(offer, sum);
    count(sum, replayed);
    if (by === undefined) continue;
    const group = String(recorded.attributes[by] ?? 'not told');
    const one = groups.get(group) ?? { group, players: 0, ids: new Set<string>(), ...nothing() };
    groups.set(group, one);
    one.ids.add(recorded.player);
    count(one, replayed);
  }
  const refusals = ({ refused: codes }: Pick<OfferReplayed, 'refused'>): number =>
    Object.values(codes).reduce((sum, times) => sum + times, 0);
  return {
    purchases: purchases.length,
    players: new Set(purchases.map(({ player }) => player)).size,
    refused,
    offers: [...offers.values()].sort((a, b) => refusals(b) - refusals(a) || b.recorded - a.recorded),
    groups: [...groups.values()].map(({ ids, ...group }) => ({ ...group, players: ids.size })),
  };
}

const nothing = (): Omit<OfferReplayed, 'offer' | 'name'> => ({
  recorded: 0,
  refused: {},
  paid: {},
  cost: {},
  dearer: 0,
  cheaper: 0,
  same: 0,
});

function count(sum: Omit<OfferReplayed, 'offer' | 'name'>, replayed: Replayed): void {
  sum.recorded++;
  if (replayed.outcome === 'refused') {
    const code = replayed.reasons[0]!.code;
    sum.refused[code] = (sum.refused[code] ?? 0) + 1;
    return;
  }
  const { paid } = replayed.recorded;
  if (!paid) return;
  basketAddAll(sum.paid, paid);
  basketAddAll(sum.cost, replayed.total);
  // Of baskets in several currencies neither may be the larger.
  const assets = new Set([...Object.keys(paid), ...Object.keys(replayed.total)]);
  const apart = [...assets].map((asset) => (replayed.total[asset] ?? 0) - (paid[asset] ?? 0));
  if (apart.every((units) => units === 0)) sum.same++;
  else if (apart.some((units) => units > 0)) sum.dearer++;
  else sum.cheaper++;
}
