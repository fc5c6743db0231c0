/** Selling back: what a shop pays for what a player holds. */
import { basketAdd, basketHolds, unitsShare, unitsTimes } from '../amount/index.js';
import type { Basket } from '../amount/index.js';
import { fixedUnits } from '../economy/index.js';
import type { Buyback, Economy, Item, Offer, Shop } from '../economy/index.js';
import { nearestName } from '../issue/index.js';
import { shopAccount } from '../ledger/index.js';
import {
  assetMost,
  playerHolds,
  playerPay,
  playerReceive,
  playerScope,
  playerSettle,
  stacksLeaving,
} from '../player/index.js';
import type { Player } from '../player/index.js';
import { levelReachesMs } from '../schedule/index.js';
import type { Level } from '../schedule/index.js';
import { anyText } from '../schema/index.js';
import { actCheck, mustBeAllowed, actDone, notHeld } from './act.js';
import type { ActCase, ActFacts, ActReason, ActRequest, ActVerdictOf, Acted } from './act.js';
import { conditionUnmet } from './quote.js';
import type { Step } from './quote.js';
import { comesMs, nearest, units } from './reasonBlocks.js';
import type { ReasonTable, ReasonsOf } from './reasonBlocks.js';
import { shopReasons } from './rules.js';
import { sharedWith } from './shared.js';
import type { Shared } from './shared.js';
import { stockChange } from './stock.js';
import { paymentAccount, tillChange, tillLevel } from './till.js';

export const SELL_REASONS = {
  'unknown-shop': { shop: anyText(), nearest: nearest() },
  'not-taken': { shop: anyText(), item: anyText() },
  'not-sellable': { item: anyText() },
  'pays-nothing': { item: anyText() },
  'till-short': { asset: anyText(), held: units(), needed: units(), refilledMs: comesMs() },
} as const satisfies ReasonTable;
type SellReason = ReasonsOf<typeof SELL_REASONS> | ActReason;

/** Whether a buyback's groups, tags or items name the item. */
export const buybackTakes = ({ groups, tags, items }: Buyback, item: Item): boolean =>
  items.includes(item.id) ||
  (item.group !== undefined && groups.includes(item.group)) ||
  item.tags.some((tag) => tags.includes(tag));

/**
 * What one unit brings: rate x worth (or x what was paid for it), rounded down for each unit, so that ten at once pay
 * what ten one by one would. Empty where that comes to nothing.
 */
export function buybackUnit(buyback: Buyback, item: Item, paid: Readonly<Basket> | null): Basket {
  const from = buyback.of === 'paid' ? (paid ?? {}) : item.worth;
  const result: Basket = {};
  for (const asset in from) {
    if (buyback.pays !== undefined && asset !== buyback.pays) continue;
    const units = unitsShare(from[asset]!, buyback) ?? 0;
    if (units > 0) result[asset] = units;
  }
  return result;
}

/** Whether a shop has what it would pay a unit in: a till pays nothing that it does not name. */
export const tillNames = ({ till }: Shop, pays: Readonly<Basket>): boolean =>
  !till || Object.keys(pays).every((asset) => till.has(asset));

/** What up to `times` units bring one after another, in the order in which they leave the stacks. */
function buybackSteps(buyback: Buyback, item: Item, player: Player, times: number): Step[] {
  const steps: Step[] = [];
  let left = times;
  for (const stack of stacksLeaving(player.stacks, item.id)) {
    const units = Math.min(stack.units, left);
    if (units === 0) break;
    left -= units;
    steps.push({ times: units, cost: { [item.id]: 1 }, gives: buybackUnit(buyback, item, stack.paid) });
  }
  return steps;
}

/** Undefined past the ceiling. */
function stepsTotal(steps: readonly Step[]): Basket | undefined {
  const total: Basket = {};
  for (const { times, gives } of steps)
    for (const asset in gives) {
      const units = unitsTimes(gives[asset]!, times);
      if (units === undefined || !basketAdd(total, asset, units)) return undefined;
    }
  return total;
}

/** May the player sell this here, and for what? All reasons against it are told. */
export function sellCheck(
  economy: Economy,
  player: Player,
  shared: Shared,
  request: ActRequest,
  nowMs: number,
): ActVerdictOf<SellReason> {
  return actCheck<SellReason>({ act: 'sell' }, economy, player, request, nowMs, (facts) => {
    const { item, times } = facts;
    const shop = economy.shops.get(request.shop ?? '');
    if (!shop) {
      const nearest = nearestName(request.shop ?? '', economy.shops.keys()) ?? null;
      const reasons: SellReason[] = [{ code: 'unknown-shop', shop: request.shop ?? '', nearest }, ...notHeld(facts)];
      if (!item.sellable) reasons.push({ code: 'not-sellable', item: item.id });
      return { reasons, takes: {}, gives: {} };
    }
    const takes = { [item.id]: times };
    const taken = shop.buyback && buybackTakes(shop.buyback, item);
    const steps = taken ? buybackSteps(shop.buyback!, item, facts.player, times) : [];
    const scope = playerScope(economy, facts.player, facts.nowMs);
    const reasons: SellReason[] = [
      ...shopReasons(shop, conditionUnmet(economy, undefined, shop.when, steps, scope), facts.nowMs),
      ...notHeld(facts),
    ];
    if (!item.sellable) reasons.push({ code: 'not-sellable', item: item.id });
    if (!taken) {
      reasons.push({ code: 'not-taken', shop: shop.id, item: item.id });
      return { reasons, takes, gives: {} };
    }
    const gives = stepsTotal(steps);
    // A single unit for which nothing is paid would be refused, so it is among several too.
    if (steps.some((step) => Object.keys(step.gives).length === 0))
      reasons.push({ code: 'pays-nothing', item: item.id });
    reasons.push(...moneyReasons(facts, shop, shared, gives ?? {}));
    // More than was shown is paid and told.
    if (request.expect && gives && !basketHolds(gives, request.expect))
      reasons.push({ code: 'price-changed', expected: request.expect, actual: gives });
    return { reasons, takes, gives: gives ?? {} };
  });
}

const EMPTY: Level = { units: 0, sinceMs: null };

function moneyReasons({ economy, player, nowMs }: ActCase, shop: Shop, shared: Shared, gives: Basket): SellReason[] {
  const reasons: SellReason[] = [];
  for (const asset in gives) {
    const needed = gives[asset]!;
    // A till pays only what it holds: of what it does not name there is nothing in it.
    const till = shop.till && (tillLevel(shop, shared, asset, nowMs) ?? EMPTY);
    if (till && till.units < needed) {
      const refilledMs = levelReachesMs(till, shop.till!.get(asset)?.refill, needed) ?? null;
      reasons.push({ code: 'till-short', asset, held: till.units, needed, refilledMs });
    }
    const held = playerHolds(economy, player, asset);
    const cap = assetMost(economy, asset);
    if (held + needed > cap) reasons.push({ code: 'over-cap', currency: asset, cap, held, arriving: needed });
  }
  return reasons;
}

/** Throws when the verdict does not allow it: asking first is the caller's duty. */
export function sellApply(economy: Economy, player: Player, shared: Shared, verdict: ActFacts): Acted {
  mustBeAllowed(verdict);
  const { atMs, takes, gives, item, times } = verdict;
  const shop = economy.shops.get(verdict.shop!)!;
  const cause = `sell:${item}`;
  const settled = playerSettle(economy, player, atMs);
  const paid = playerPay(economy, settled.player, takes, shopAccount(shop.id), cause, atMs);
  const received = playerReceive(economy, paid.player, gives, paymentAccount(shop), cause, atMs);
  const till = tillChange(shop, shared, gives, -1, atMs);
  const offer = resells(shop, item);
  const stock = offer && stockChange(received.player, shared, offer, times, cause, atMs);
  const done = {
    player: received.player,
    shared: stock ? sharedWith(till.shared, stock.shared) : till.shared,
    movements: [settled, till, paid, ...(stock ? [stock] : []), received].flatMap(({ movements }) => movements),
    given: received.given,
    dropped: received.dropped,
    set: {},
  };
  return actDone(economy, done, atMs);
}

/** With `resell`, what is sold back joins the shared stock of the offer that sells single units of it. */
const resells = (shop: Shop, item: string): Offer | undefined =>
  shop.buyback!.resell ? shop.shelves.flatMap(({ offers }) => offers).find(sellsSingle(item)) : undefined;

const sellsSingle =
  (item: string) =>
  ({ gives, stock }: Offer): boolean =>
    stock?.scope === 'shared' && gives.length === 1 && gives[0]!.asset === item && fixedUnits(gives[0]!) === 1;
