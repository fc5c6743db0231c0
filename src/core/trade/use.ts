/** Using, opening and collecting: what things that a player holds do. */
import { basketAdd, basketAddAll, basketOverlaps, basketTimes, basketTimesOver } from '../amount/index.js';
import type { Basket } from '../amount/index.js';
import { itemOnUse, itemYields, quantitiesEvaluate } from '../economy/index.js';
import type { Box, Economy, Item, UseEffect } from '../economy/index.js';
import type { Value } from '../formula/index.js';
import { worldAccount } from '../ledger/index.js';
import type { Movement } from '../ledger/index.js';
import { playerLoot } from '../loot/index.js';
import {
  basketArrivals,
  counterKey,
  playerHolds,
  playerPay,
  playerReceive,
  playerScope,
  playerSettle,
  playerSpendable,
  playerUse,
  playerUses,
  playerWith,
  yieldTake,
} from '../player/index.js';
import type { Player } from '../player/index.js';
import { keyOf } from '../random/index.js';
import { anyText } from '../schema/index.js';
import { actCheck, mustBeAllowed, actDone, notHeld } from './act.js';
import type { ActCase, ActFacts, ActOf, ActReason, ActRequest, ActVerdictOf, Acted } from './act.js';
import { basketGivesNothing } from './quote.js';
import { comesMs, units } from './reasonBlocks.js';
import type { ReasonTable, ReasonsOf } from './reasonBlocks.js';
import { UNTOUCHED } from './shared.js';

export const USE_REASONS = {
  'not-usable': { item: anyText(), kind: anyText() },
  'not-a-box': { item: anyText() },
  'key-needed': { key: anyText(), held: units(), needed: units() },
  'nothing-to-collect': { item: anyText(), nextMs: comesMs() },
} as const satisfies ReasonTable;
type UseReason = ReasonsOf<typeof USE_REASONS> | ActReason;

// --- using

const USE = {
  act: 'use',
  notDoneWith: ({ id, kind }) => ({ code: 'not-usable', item: id, kind }),
} satisfies ActOf<UseReason>;

/** May the player use this so often? Using at zero is refused. */
export function useCheck(
  economy: Economy,
  player: Player,
  request: ActRequest,
  nowMs: number,
): ActVerdictOf<UseReason> {
  return actCheck<UseReason>(USE, economy, player, request, nowMs, (facts) => {
    const { item, times } = facts;
    const usedUp = item.kind === 'consumable' ? item : undefined;
    if (!usedUp && !itemOnUse(item))
      return { reasons: [USE.notDoneWith(item), ...notHeld(facts)], takes: {}, gives: {} };
    const left = usedUp ? playerUses(facts.player, usedUp) : 0;
    const holds = playerHolds(economy, facts.player, item.id);
    const isHeld = usedUp ? left >= times : holds > 0;
    const reasons: UseReason[] = isHeld
      ? []
      : [{ code: 'not-held', item: item.id, held: left, wanted: times, begun: false }];
    // Where nothing is held, what the first time would do is still looked at.
    const used = useTimes(
      economy,
      facts.player,
      item,
      isHeld ? times : Math.max(1, Math.min(left, times)),
      facts.nowMs,
    );
    if (used.problem) reasons.push(used.problem);
    if (reasons.length > 0) return { reasons, takes: {}, gives: {} };
    const units = usedUp ? holds - Math.ceil((left - times) / usedUp.uses) : 0;
    return { reasons, takes: units > 0 ? { [item.id]: units } : {}, gives: used.gives };
  });
}

interface Used {
  player: Player;
  movements: Movement[];
  /** What using gives, before caps. */
  gives: Basket;
  given: Basket;
  dropped: Basket;
  set: Record<string, Value>;
  problem?: UseReason;
}

/** Uses one time after another, so that each sees what the one before gave and set. Ends at the first problem. */
function useTimes(economy: Economy, player: Player, item: Item, times: number, nowMs: number): Used {
  const used: Used = { player, movements: [], gives: {}, given: {}, dropped: {}, set: {} };
  const effect = itemOnUse(item);
  if (!effect) {
    useUp(times);
    return used;
  }
  for (let time = 1; time <= times; time++) {
    const now = effectNow(economy, used.player, item, effect, time, nowMs);
    if (!now.ok) return { ...used, problem: now.problem };
    const over = basketAddAll(used.gives, now.gives);
    if (over) return { ...used, problem: { code: 'too-large', times, most: time - 1, over } };
    useUp(1);
    if (effect.set.length > 0) {
      Object.assign(used.set, now.set);
      used.player = playerWith(used.player, { attributes: { ...used.player.attributes, ...now.set } });
    }
    const came = playerReceive(economy, used.player, now.gives, worldAccount('use'), `use:${item.id}`, nowMs);
    used.player = came.player;
    used.movements.push(...came.movements);
    basketAddAll(used.given, came.given);
    basketAddAll(used.dropped, came.dropped);
  }
  return used;

  function useUp(count: number): void {
    if (item.kind !== 'consumable' || playerUses(used.player, item) < count) return;
    const done = playerUse(economy, used.player, item, count, nowMs);
    used.player = done.player;
    used.movements.push(...done.movements);
  }
}

/** What using once gives and sets, before anything of it is done. */
function effectNow(
  economy: Economy,
  player: Player,
  item: Item,
  effect: UseEffect,
  time: number,
  nowMs: number,
): { ok: true; gives: Basket; set: Record<string, Value> } | { ok: false; problem: UseReason } {
  const scope = playerScope(economy, player, nowMs);
  const amounts = quantitiesEvaluate(effect.gives, scope);
  if (!amounts.ok) {
    const { formula, inputs, message } = amounts.problem;
    return { ok: false, problem: { code: 'bad-formula', where: 'onUse', formula, problem: message, inputs } };
  }
  const set: Record<string, Value> = {};
  for (const { attribute, to } of effect.set) {
    const value = typeof to === 'object' ? to.run(scope) : to;
    if (typeof value === 'number' && !Number.isFinite(value)) {
      const { text, inputs } = to as Exclude<typeof to, Value>;
      const problem = `${text} gives no number`;
      return {
        ok: false,
        problem: { code: 'bad-formula', where: 'onUse', formula: text, problem, inputs: inputs(scope) },
      };
    }
    set[attribute] = value;
  }
  const isForNothing =
    item.kind === 'consumable' && effect.set.length === 0 && basketGivesNothing(economy, amounts.basket);
  return isForNothing
    ? { ok: false, problem: { code: 'gives-nothing', id: item.id, time } }
    : { ok: true, gives: amounts.basket, set };
}

/** Uses what a verdict allowed. Throws for one that refuses. */
export function useApply(economy: Economy, player: Player, verdict: ActFacts): Acted {
  mustBeAllowed(verdict);
  const { atMs, times } = verdict;
  const settled = playerSettle(economy, player, atMs);
  const used = useTimes(economy, settled.player, economy.items.get(verdict.item)!, times, atMs);
  const done = {
    player: used.player,
    shared: UNTOUCHED,
    movements: [...settled.movements, ...used.movements],
    given: used.given,
    dropped: used.dropped,
    set: used.set,
  };
  return actDone(economy, done, atMs);
}

// --- opening

const OPEN: ActOf<UseReason> = { act: 'open', notDoneWith: ({ id }) => ({ code: 'not-a-box', item: id }) };

/** May the player open this? What it will draw is not told before, so it does not count either. */
export function openCheck(
  economy: Economy,
  player: Player,
  request: ActRequest,
  nowMs: number,
): ActVerdictOf<UseReason> {
  return actCheck<UseReason>(OPEN, economy, player, request, nowMs, (facts) => {
    const { times } = facts;
    const box = facts.item as Box;
    const reasons = lackingFor(facts, box);
    if (box.loot === undefined && basketGivesNothing(economy, box.gives))
      reasons.push({ code: 'gives-nothing', id: box.id, time: 1 });
    const gives = basketTimes(box.gives, times);
    if (!gives) reasons.push({ code: 'too-large', times, most: 1, over: basketTimesOver(box.gives, times) });
    return { reasons, takes: basketTimes(opening(box), times)!, gives: gives ?? {} };
  });
}

/** What opening a box once takes. */
const opening = ({ id, opensWith }: Box): Basket => ({
  [id]: 1,
  ...(opensWith && !opensWith.keeps ? { [opensWith.item]: 1 } : {}),
});

/** Boxes and keys that are missing; those that other boxes hold for certain count when their turn comes. */
function lackingFor(facts: ActCase, box: Box): UseReason[] {
  const { economy, times, nowMs } = facts;
  const { opensWith } = box;
  const takes = opening(box);
  if (!basketOverlaps({ ...takes, ...(opensWith ? { [opensWith.item]: 1 } : {}) }, basketArrivals(economy, box.gives)))
    return [...notHeld(facts), ...keyNeeded(facts.player, opensWith?.keeps ? 1 : times)];
  let { player } = facts;
  for (let time = 0; time < times; time++) {
    const reasons = [...notHeld({ ...facts, player, times: 1 }), ...keyNeeded(player, 1)];
    if (reasons.length > 0) return reasons;
    player = playerPay(economy, player, takes, worldAccount('open'), 'open', nowMs).player;
    player = playerReceive(economy, player, box.gives, worldAccount('open'), 'open', nowMs).player;
  }
  return [];

  function keyNeeded(who: Player, needed: number): UseReason[] {
    if (!opensWith) return [];
    const held = playerSpendable(economy, who, opensWith.item);
    return held >= needed ? [] : [{ code: 'key-needed', key: opensWith.item, held, needed }];
  }
}

/**
 * Opens. What is drawn is a pure function of (seed, player, box, how many of it were opened before), so a repeat
 * after a failure draws the same. What a cap or carry keeps out is dropped, as with earnings, and told. Throws for a
 * verdict that refuses.
 */
export function openApply(
  economy: Economy,
  player: Player,
  verdict: ActFacts,
  seed = economy.seed,
): Acted & { drawn: string[][] } {
  mustBeAllowed(verdict);
  const { atMs, times } = verdict;
  const box = economy.items.get(verdict.item) as Box;
  const settled = playerSettle(economy, player, atMs);
  const result: Opened = {
    player: settled.player,
    shared: UNTOUCHED,
    movements: [...settled.movements],
    given: {},
    dropped: {},
    set: {},
    drawn: [],
  };
  for (let time = 0; time < times; time++) openOnce(economy, box, result, `open:${box.id}`, atMs, seed);
  return actDone(economy, result, atMs);
}

type Opened = Omit<Acted, 'progress'> & { drawn: string[][] };

function openOnce(economy: Economy, box: Box, result: Opened, cause: string, nowMs: number, seed: number): void {
  const paid = playerPay(economy, result.player, opening(box), worldAccount('open'), cause, nowMs);
  const { player } = paid;
  const opened = player.counters[counterKey.opened(box.id)]?.count ?? 0;
  const counters = { ...player.counters, [counterKey.opened(box.id)]: { count: opened + 1, startMs: 0 } };
  let opener = playerWith(player, { counters });
  const gives: Basket = { ...box.gives };
  if (box.loot !== undefined) {
    const rolled = playerLoot(economy, opener, box.loot, nowMs, keyOf(seed, player.id, 'open', box.id, opened));
    for (const asset in rolled.gives) basketAdd(gives, asset, rolled.gives[asset]!);
    opener = rolled.player;
    result.drawn.push(rolled.drawn);
  }
  const received = playerReceive(economy, opener, gives, worldAccount('open'), cause, nowMs);
  result.player = received.player;
  result.movements.push(...paid.movements, ...received.movements);
  for (const asset in received.given) basketAdd(result.given, asset, received.given[asset]!);
  for (const asset in received.dropped) basketAdd(result.dropped, asset, received.dropped[asset]!);
}

// --- collecting

const COLLECT: ActOf<UseReason> = {
  act: 'collect',
  notDoneWith: ({ id }) => ({ code: 'nothing-to-collect', item: id, nextMs: null }),
};

/** Is there a yield to collect, and what? */
export function collectCheck(
  economy: Economy,
  player: Player,
  request: ActRequest,
  nowMs: number,
): ActVerdictOf<UseReason> {
  return actCheck<UseReason>(COLLECT, economy, player, { ...request, times: 1 }, nowMs, (facts) => {
    const { item } = facts;
    const { times, player: after } = yieldTake(economy, facts.player, item, facts.nowMs);
    const yields = itemYields(item);
    const gives = yields && basketTimes(yields.gives, times);
    if (gives && times > 0) return { reasons: [], takes: {}, gives };
    const counter = after.counters[counterKey.yield(item.id)];
    const units = playerHolds(economy, facts.player, item.id);
    const nextMs =
      counter && yields && units > 0 ? facts.nowMs + Math.ceil((yields.everyMs - counter.count) / units) : null;
    return { reasons: [{ code: 'nothing-to-collect', item: item.id, nextMs }], takes: {}, gives: {} };
  });
}

/** Gives what was gathered, as a verdict allowed. Throws for one that refuses. */
export function collectApply(economy: Economy, player: Player, verdict: ActFacts): Acted {
  mustBeAllowed(verdict);
  const { atMs } = verdict;
  const item = economy.items.get(verdict.item)!;
  const settled = playerSettle(economy, player, atMs);
  const taken = yieldTake(economy, settled.player, item, atMs);
  const received = playerReceive(
    economy,
    taken.player,
    verdict.gives,
    worldAccount('yield'),
    `collect:${item.id}`,
    atMs,
  );
  const movements: Movement[] = [...settled.movements, ...received.movements];
  const done = {
    player: received.player,
    shared: UNTOUCHED,
    movements,
    given: received.given,
    dropped: received.dropped,
    set: {},
  };
  return actDone(economy, done, atMs);
}
