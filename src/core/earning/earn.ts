/** What a game event pays or takes, by the earning rules. The caller makes sure that one event is handled once. */
import { basketAdd } from '../amount/index.js';
import type { Basket } from '../amount/index.js';
import { quantitiesEvaluate } from '../economy/index.js';
import type { EarningRule, Economy, QuantityBasket } from '../economy/index.js';
import type { Scope, Value } from '../formula/index.js';
import { playerLoot } from '../loot/index.js';
import { worldAccount } from '../ledger/index.js';
import type { Movement } from '../ledger/index.js';
import {
  counterKey,
  playerPay,
  playerReach,
  playerReceive,
  playerScope,
  playerSettle,
  playerWith,
  sharedTold,
  teamShare,
} from '../player/index.js';
import type { Player } from '../player/index.js';
import { progressMake } from '../progress/index.js';
import type { Progress } from '../progress/index.js';
import { keyOf, keyWith, numberOf } from '../random/index.js';
import type { Key } from '../random/index.js';
import { limitCount, limitPeriod, limitUsed } from '../schedule/index.js';
import type { Limit } from '../schedule/index.js';

export interface GameEvent {
  /** Unique for the player, for ever: a repeat changes nothing. */
  id: string;
  name: string;
  fields: Readonly<Record<string, Value>>;
}

export type SkipReason = 'when' | 'chance' | 'limit' | 'cooldown' | 'formula';

/** What one rule did with the event. */
export type RuleOutcome =
  | {
      rule: string;
      paid: true;
      given: Basket;
      taken: Basket;
      /** Kept out by a cap or carry. */ dropped: Basket;
      /** Due, but not there to be taken. */ missed: Basket;
      /** What went to teams instead, by team; left out where nothing did. */ shared?: Record<string, Basket>;
    }
  /** All that was due was kept out by a cap or carry. Nothing is taken then, and nothing counts for limits and cooldown. */
  | { rule: string; paid: false; why: 'kept-out'; dropped: Basket }
  | { rule: string; paid: false; why: SkipReason; resetsMs?: number; problem?: string };

export interface Earned {
  player: Player;
  movements: Movement[];
  outcomes: RuleOutcome[];
  /** What it did for goals and levels, after all rules. */
  progress: Progress[];
}

/**
 * Runs every rule for the event in document order. What is drawn is keyed by the event's luck and the rule, so the same
 * event has the same luck wherever and whenever it is handled.
 */
export function eventApply(
  economy: Economy,
  player: Player,
  event: GameEvent,
  nowMs: number,
  luck = keyOf(economy.seed, player.id, event.id),
): Earned {
  const settled = playerSettle(economy, player, nowMs);
  const result: Earned = { player: settled.player, movements: settled.movements, outcomes: [], progress: [] };
  for (const rule of economy.earningByEvent.get(event.name) ?? []) {
    const outcome = ruleApply(economy, result.player, rule, event, nowMs, luck);
    result.outcomes.push(outcome.outcome);
    if (outcome.player) result.player = outcome.player;
    if (outcome.movements) result.movements.push(...outcome.movements);
  }
  const deed = {
    event: { name: event.name, scope: (who: Player) => eventScope(economy, who, event, nowMs) },
    movements: result.movements,
  };
  const made = progressMake(economy, result.player, deed, nowMs, luck);
  result.player = made.player;
  result.movements.push(...made.movements);
  result.progress = made.progress;
  return result;
}

interface RuleApplied {
  outcome: RuleOutcome;
  player?: Player;
  movements?: Movement[];
}

function ruleApply(
  economy: Economy,
  player: Player,
  rule: EarningRule,
  event: GameEvent,
  nowMs: number,
  luck: Key,
): RuleApplied {
  const scope = eventScope(economy, player, event, nowMs);
  const skip = ruleSkip(economy, player, rule, scope, nowMs, luck);
  if (skip) return { outcome: { rule: rule.id, paid: false, ...skip } };
  const amounts = ruleAmounts(rule.takes, rule.gives, scope);
  if (!amounts.ok) return { outcome: { rule: rule.id, paid: false, why: 'formula', problem: amounts.problem } };
  const { taken, missed } = playerReach(economy, player, amounts.takes);
  const cause = `earning:${rule.id}`;
  const looted =
    rule.loot === undefined ? undefined : playerLoot(economy, player, rule.loot, nowMs, keyWith(luck, rule.id, 'loot'));
  const gives = looted ? basketSum(amounts.gives, looted.gives) : amounts.gives;
  const from = worldAccount('earning');
  const paid = playerPay(economy, looted?.player ?? player, taken, from, cause, nowMs);
  const parts = teamShare(economy, paid.player, rule.share, gives, from, cause);
  const received = playerReceive(economy, parts.player, parts.own, from, cause, nowMs);
  const { given, dropped } = received;
  if (Object.keys(given).length === 0 && Object.keys(dropped).length > 0 && parts.movements.length === 0)
    // What came was dropped, which the ledger tells; all else is as if the rule had not been there.
    return { outcome: { rule: rule.id, paid: false, why: 'kept-out', dropped }, movements: received.movements };
  return {
    outcome: { rule: rule.id, paid: true, given, taken, dropped, missed, ...sharedTold(parts) },
    player: ruleCount(economy, received.player, rule, nowMs),
    movements: [...paid.movements, ...parts.movements, ...received.movements],
  };
}

function basketSum(a: Readonly<Basket>, b: Readonly<Basket>): Basket {
  const sum = { ...a };
  for (const asset in b) basketAdd(sum, asset, b[asset]!);
  return sum;
}

function ruleAmounts(
  takes: QuantityBasket,
  gives: QuantityBasket,
  scope: Scope,
): { ok: true; takes: Basket; gives: Basket } | { ok: false; problem: string } {
  const takesNow = quantitiesEvaluate(takes, scope);
  const givesNow = quantitiesEvaluate(gives, scope);
  if (!takesNow.ok) return { ok: false, problem: takesNow.problem.message };
  return givesNow.ok
    ? { ok: true, takes: takesNow.basket, gives: givesNow.basket }
    : { ok: false, problem: givesNow.problem.message };
}

function eventScope(economy: Economy, player: Player, event: GameEvent, nowMs: number): Scope {
  const scope = playerScope(economy, player, nowMs);
  return {
    name: (name) => (Object.hasOwn(event.fields, name) ? event.fields[name]! : scope.name(name)),
    owned: scope.owned,
    balance: scope.balance,
    bought: scope.bought,
  };
}

/** A cooldown is a limit of one within its duration. */
export const ruleLimits = ({ cooldownMs, limits }: EarningRule): Limit[] =>
  cooldownMs === undefined
    ? limits
    : [{ period: 'cooldown', most: 1, span: { kind: 'duration', everyMs: cooldownMs } }, ...limits];

function ruleSkip(
  economy: Economy,
  player: Player,
  rule: EarningRule,
  scope: Scope,
  nowMs: number,
  luck: Key,
): { why: SkipReason; resetsMs?: number } | undefined {
  if (rule.when && rule.when.run(scope) !== true) return { why: 'when' };
  for (const limit of ruleLimits(rule)) {
    const counter = player.counters[counterKey.earning(rule.id, limit.period)];
    if (limitUsed(limit, counter, economy.zone, nowMs) < limit.most) continue;
    const { endMs } = limitPeriod(limit, counter, economy.zone, nowMs);
    return {
      why: limit.period === 'cooldown' ? 'cooldown' : 'limit',
      ...(Number.isFinite(endMs) ? { resetsMs: endMs } : {}),
    };
  }
  const chance = typeof rule.chance === 'number' ? rule.chance : (rule.chance.run(scope) as number);
  return chance < 1 && !(numberOf(keyWith(luck, rule.id)) < chance) ? { why: 'chance' } : undefined;
}

function ruleCount(economy: Economy, player: Player, rule: EarningRule, nowMs: number): Player {
  const limits = ruleLimits(rule);
  if (limits.length === 0) return player;
  const counters = { ...player.counters };
  for (const limit of limits) {
    const key = counterKey.earning(rule.id, limit.period);
    counters[key] = limitCount(limit, counters[key], economy.zone, nowMs, 1);
  }
  return playerWith(player, { counters });
}

/** What is wrong with an event's fields: missing, unknown or of another type. None means that it can be handled. */
export function eventProblems(economy: Economy, name: string, fields: Readonly<Record<string, unknown>>): string[] {
  const kind = economy.events.get(name);
  if (!kind) return [`there is no event "${name}"; events: ${[...economy.events.keys()].join(', ') || 'none'}`];
  const { fields: wanted } = kind;
  const problems = Object.keys(fields)
    .filter((field) => !wanted.has(field))
    .map((field) => `unknown field "${field}"; fields: ${[...wanted.keys()].join(', ') || 'none'}`);
  for (const [field, type] of wanted) {
    const value = fields[field];
    const fits = type === 'number' ? typeof value === 'number' && Number.isFinite(value) : typeof value === 'string';
    if (!fits) problems.push(`the field "${field}" must be a ${type}`);
  }
  return problems;
}
