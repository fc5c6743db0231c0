/** Using, opening and collecting: what things that a player holds do. */
import { basketAdd, basketAddAll, basketTimes, basketTimesOver } from '../amount/index.js';
import type { Basket } from '../amount/index.js';
import { itemOnUse, itemYields, quantitiesEvaluate } from '../economy/index.js';
import type { Box, Economy, UseEffect } from '../economy/index.js';
import type { Value } from '../formula/index.js';
import { worldAccount } from '../ledger/index.js';
import type { Movement } from '../ledger/index.js';
import { playerLoot } from '../loot/index.js';
import {
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
import type { ActFacts, ActOf, ActReason, ActRequest, ActVerdictOf, Acted } from './act.js';
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
    const nothing = { takes: {}, gives: {} };
    const onUse = itemOnUse(item);
    const usedUp = item.kind === 'consumable' ? item : undefined;
    if (!usedUp && !onUse) return { reasons: [USE.notDoneWith(item)], ...nothing };
    const left = usedUp ? playerUses(facts.player, usedUp) : 0;
    const holds = playerHolds(economy, facts.player, item.id);
    if (usedUp ? left < times : holds === 0)
      return { reasons: [{ code: 'not-held', item: item.id, held: left, wanted: times, begun: false }], ...nothing };
    const units = usedUp ? holds - Math.ceil((left - times) / usedUp.uses) : 0;
    const effect = onUse && effectOf(economy, facts.player, onUse, times, nowMs);
    if (effect?.problem) return { reasons: [effect.problem], ...nothing };
    return { reasons: [], takes: units > 0 ? { [item.id]: units } : {}, gives: effect?.gives ?? {} };
  });
}

interface Effect {
  gives: Basket;
  set: Record<string, Value>;
  problem?: UseReason;
}

/** What using `times` times gives and sets; each time sees the attributes that the one before set. */
function effectOf(economy: Economy, player: Player, effect: UseEffect, times: number, nowMs: number): Effect {
  const gives: Basket = {};
  const set: Record<string, Value> = {};
  let current = player;
  for (let done = 0; done < times; done++) {
    const scope = playerScope(economy, current, nowMs);
    const amounts = quantitiesEvaluate(effect.gives, scope);
    if (!amounts.ok) {
      const { formula, inputs, message } = amounts.problem;
      return { gives, set, problem: { code: 'bad-formula', where: 'onUse', formula, problem: message, inputs } };
    }
    const over = basketAddAll(gives, amounts.basket);
    if (over) return { gives, set, problem: { code: 'too-large', times, most: done, over } };
    for (const { attribute, to } of effect.set) {
      const value = typeof to === 'object' ? to.run(scope) : to;
      if (typeof value === 'number' && !Number.isFinite(value)) {
        const { text, inputs } = to as Exclude<typeof to, Value>;
        const problem = `${text} gives no number`;
        return {
          gives,
          set,
          problem: { code: 'bad-formula', where: 'onUse', formula: text, problem, inputs: inputs(scope) },
        };
      }
      set[attribute] = value;
    }
    current = playerWith(current, { attributes: { ...current.attributes, ...set } });
  }
  return { gives, set };
}

/** Uses what a verdict allowed. Throws for one that refuses. */
export function useApply(economy: Economy, player: Player, verdict: ActFacts): Acted {
  mustBeAllowed(verdict);
  const { atMs, times } = verdict;
  const item = economy.items.get(verdict.item)!;
  const settled = playerSettle(economy, player, atMs);
  const used =
    item.kind === 'consumable'
      ? playerUse(economy, settled.player, item, times, atMs)
      : { player: settled.player, movements: [] };
  const onUse = itemOnUse(item);
  const effect = onUse ? effectOf(economy, settled.player, onUse, times, atMs) : { gives: {}, set: {} };
  const changed =
    Object.keys(effect.set).length === 0
      ? used.player
      : playerWith(used.player, { attributes: { ...used.player.attributes, ...effect.set } });
  const received = playerReceive(economy, changed, effect.gives, worldAccount('use'), `use:${item.id}`, atMs);
  const done = {
    player: received.player,
    shared: UNTOUCHED,
    movements: [...settled.movements, ...used.movements, ...received.movements],
    given: received.given,
    dropped: received.dropped,
    set: effect.set,
  };
  return actDone(economy, done, atMs);
}

// --- opening

const OPEN: ActOf<UseReason> = { act: 'open', notDoneWith: ({ id }) => ({ code: 'not-a-box', item: id }) };

/** May the player open this? What it will draw is not told before. */
export function openCheck(
  economy: Economy,
  player: Player,
  request: ActRequest,
  nowMs: number,
): ActVerdictOf<UseReason> {
  return actCheck<UseReason>(OPEN, economy, player, request, nowMs, (facts) => {
    const { times } = facts;
    const item = facts.item as Box;
    const takes: Basket = { [item.id]: times };
    const reasons: UseReason[] = notHeld(facts);
    if (item.opensWith) {
      const { item: key, keeps } = item.opensWith;
      const needed = keeps ? 1 : times;
      const held = playerSpendable(economy, facts.player, key);
      if (held < needed) reasons.push({ code: 'key-needed', key, held, needed });
      if (!keeps) takes[key] = times;
    }
    const gives = basketTimes(item.gives, times);
    if (!gives) reasons.push({ code: 'too-large', times, most: 1, over: basketTimesOver(item.gives, times) });
    return { reasons, takes, gives: gives ?? {} };
  });
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
  const { atMs, times, takes } = verdict;
  const box = economy.items.get(verdict.item) as Box;
  const cause = `open:${box.id}`;
  const settled = playerSettle(economy, player, atMs);
  const paid = playerPay(economy, settled.player, takes, worldAccount('open'), cause, atMs);
  const result: Opened = {
    player: paid.player,
    shared: UNTOUCHED,
    movements: [...settled.movements, ...paid.movements],
    given: {},
    dropped: {},
    set: {},
    drawn: [],
  };
  for (let time = 0; time < times; time++) openOnce(economy, box, result, cause, atMs, seed);
  return actDone(economy, result, atMs);
}

type Opened = Omit<Acted, 'progress'> & { drawn: string[][] };

function openOnce(economy: Economy, box: Box, result: Opened, cause: string, nowMs: number, seed: number): void {
  const { player } = result;
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
  result.movements.push(...received.movements);
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
    const { times, player: after } = yieldTake(economy, facts.player, item, nowMs);
    const yields = itemYields(item);
    const gives = yields && basketTimes(yields.gives, times);
    if (gives && times > 0) return { reasons: [], takes: {}, gives };
    const counter = after.counters[counterKey.yield(item.id)];
    const units = playerHolds(economy, facts.player, item.id);
    const nextMs = counter && yields && units > 0 ? nowMs + Math.ceil((yields.everyMs - counter.count) / units) : null;
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
