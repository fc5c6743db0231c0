/**
 * Goals and levels: what a deed counts towards, and what is paid for it. A reward may bring others nearer, so it goes on
 * until nothing more is reached; each goal is reached once within its period and each level once, so it ends.
 */
import { MAX_UNITS, basketAdd } from '../amount/index.js';
import type { Basket, Units } from '../amount/index.js';
import { countRound } from '../economy/index.js';
import type { Economy, Goal, Track } from '../economy/index.js';
import type { Formula, Scope, Value } from '../formula/index.js';
import { worldAccount } from '../ledger/index.js';
import type { Movement } from '../ledger/index.js';
import { playerLoot } from '../loot/index.js';
import { counterKey, playerHolds, playerReceive, playerScope } from '../player/index.js';
import type { Player } from '../player/index.js';
import { keyOf, keyOfText, keyWith } from '../random/index.js';
import type { Key } from '../random/index.js';
import { limitCount, limitPeriod, limitUsed } from '../schedule/index.js';

/** What was done: it counts for whatever looks at it. */
export interface Deed {
  /** The event that was reported, with names of its fields besides those of the player. */
  event?: { name: string; scope(player: Player): Scope };
  purchase?: { offer: string; times: number };
  movements: readonly Movement[];
  /** Attributes that were set. */
  set?: Readonly<Record<string, Value>>;
}

/** What came of a reward. */
interface Paid {
  given: Basket;
  /** Kept out by a cap or carry. */
  dropped: Basket;
}

interface Counted {
  goal: string;
  name: string;
  /** In smallest units of `money`, where it counts some. */
  count: number;
  target: number;
  money: string | null;
}

export type Progress =
  | ({ kind: 'nearer' } & Counted)
  | ({ kind: 'reached'; set: Record<string, Value> } & Counted & Paid)
  | { kind: 'failed'; goal: string; name: string; problem: string }
  | ({ kind: 'level'; track: string; name: string; level: number; earned: Units; money: string } & Paid);

export interface Changed {
  player: Player;
  movements: Movement[];
}

/** Who looks at what, worked out once for an economy. */
interface Watchers {
  events: Map<string, Goal[]>;
  offers: Map<string, Goal[]>;
  earned: Map<string, Goal[]>;
  spent: Map<string, Goal[]>;
  items: Map<string, Goal[]>;
  attributes: Map<string, Goal[]>;
  /** Goals that begin with another. */
  followers: Map<string, Goal[]>;
  /** Their places in the order in which they are written. */
  order: Map<Goal, number>;
}

const known = new WeakMap<Economy, Watchers>();

function watchersOf(economy: Economy): Watchers {
  const before = known.get(economy);
  if (before) return before;
  const watchers: Watchers = {
    events: new Map(),
    offers: new Map(),
    earned: new Map(),
    spent: new Map(),
    items: new Map(),
    attributes: new Map(),
    followers: new Map(),
    order: new Map([...economy.goals.values()].map((goal, place) => [goal, place])),
  };
  for (const goal of economy.goals.values()) {
    for (const [kind, id] of watched(goal)) push(watchers[kind], id, goal);
    if (goal.after !== undefined) push(watchers.followers, goal.after, goal);
  }
  known.set(economy, watchers);
  return watchers;
}

function watched({ counts }: Goal): [Exclude<keyof Watchers, 'followers' | 'order'>, string][] {
  switch (counts.kind) {
    case 'events':
      return [['events', counts.event]];
    case 'purchases':
      return [...counts.offers].map((offer) => ['offers', offer]);
    case 'earned':
    case 'spent':
      return [[counts.kind, counts.currency]];
    case 'owned':
      return [...counts.items].map((item) => ['items', item]);
    case 'attribute':
      return [['attributes', counts.attribute]];
  }
}

function push<T>(lists: Map<string, T[]>, id: string, one: T): void {
  const list = lists.get(id);
  if (list) list.push(one);
  else lists.set(id, [one]);
}

/** Causes of movements by which players earn, beside what they buy, sell, start with, get back or are granted. */
const EARNED = new Set(['earning', 'goal', 'track', 'open', 'use', 'collect']);

/**
 * The deed's consequences; the same player and no movements where there are none. What is open counts when the deed is
 * done; goals come in the order in which they are written, and tracks after them. `luck` is that of the deed: tables of
 * rewards draw by it. Linear in what is touched.
 */
export function progressMake(
  economy: Economy,
  before: Player,
  first: Deed,
  nowMs: number,
  luck: Key = keyOf(economy.seed, before.id),
): Changed & { progress: Progress[] } {
  const made = { player: before, movements: [] as Movement[], progress: [] as Progress[] };
  if (economy.goals.size === 0 && economy.tracks.size === 0) return made;
  const watchers = watchersOf(economy);
  const deeds: Deed[] = [first];
  for (let deed = deeds.shift(); deed; deed = deeds.shift()) {
    const { earned, spent, arrived } = moneyMoved(economy, before.id, deed.movements);
    /** What each adds; null for those that look at what there is. */
    const touched = new Map<Goal, number | null>();
    for (const goal of (deed.event && watchers.events.get(deed.event.name)) ?? []) {
      const count = eventCount(goal, deed.event!.scope(made.player));
      if (typeof count === 'number') touched.set(goal, count);
      else made.progress.push({ kind: 'failed', goal: goal.id, name: goal.name, problem: count.problem });
    }
    if (deed.purchase)
      for (const goal of watchers.offers.get(deed.purchase.offer) ?? []) touched.set(goal, deed.purchase.times);
    for (const [moved, lists] of [
      [earned, watchers.earned],
      [spent, watchers.spent],
    ] as const)
      for (const [currency, units] of moved) for (const goal of lists.get(currency) ?? []) touched.set(goal, units);
    for (const item of arrived) for (const goal of watchers.items.get(item) ?? []) touched.set(goal, null);
    for (const name of Object.keys(deed.set ?? {}))
      for (const goal of watchers.attributes.get(name) ?? []) touched.set(goal, null);
    const open = [...touched]
      .filter(([goal]) => isOpen(goal))
      .sort(([a], [b]) => watchers.order.get(a)! - watchers.order.get(b)!);
    for (const [goal, count] of open)
      if (count === null) look(goal);
      else if (count > 0) advance(goal, count);
    for (const track of economy.tracks.values()) {
      const units = earned.get(track.currency) ?? 0;
      if (units > 0) climb(track, units);
    }
  }
  return made;

  function isOpen({ id, after, period }: Goal): boolean {
    const { counters } = made.player;
    if (after !== undefined && !counters[counterKey.reached(after)]) return false;
    return limitUsed(period, counters[counterKey.reached(id)], economy.zone, nowMs) === 0;
  }

  function advance(goal: Goal, count: number): void {
    const key = counterKey.goal(goal.id);
    const used = limitUsed(goal.period, made.player.counters[key], economy.zone, nowMs);
    const counter = limitCount(
      goal.period,
      made.player.counters[key],
      economy.zone,
      nowMs,
      Math.min(count, MAX_UNITS - used),
    );
    made.player = { ...made.player, counters: { ...made.player.counters, [key]: counter } };
    settle(goal, counter.count);
  }

  function look(goal: Goal): void {
    if (isOpen(goal)) settle(goal, goalCount(economy, made.player, goal, nowMs));
  }

  function settle(goal: Goal, count: number): void {
    const told = { goal: goal.id, name: goal.name, count, target: goal.target, money: moneyOf(goal) };
    if (count < goal.target) {
      made.progress.push({ kind: 'nearer', ...told });
      return;
    }
    const key = counterKey.reached(goal.id);
    const reached = limitCount(goal.period, made.player.counters[key], economy.zone, nowMs, 1);
    const set = Object.fromEntries(goal.sets);
    made.player = {
      ...made.player,
      ...(goal.sets.size > 0 ? { attributes: { ...made.player.attributes, ...set } } : {}),
      counters: { ...made.player.counters, [key]: reached },
    };
    const drawn =
      goal.loot === undefined ? undefined : { table: goal.loot, luck: rewardLuck(luck, goal.id, reached.startMs) };
    const paid = pay(goal.gives, drawn, 'goal', goal.id, set);
    made.progress.push({ kind: 'reached', ...told, set, ...paid });
    for (const follower of watchersOf(economy).followers.get(goal.id) ?? [])
      if (follower.counts.kind === 'owned' || follower.counts.kind === 'attribute') look(follower);
  }

  function climb({ id, name, currency, attribute, start, levels }: Track, units: Units): void {
    const [trackKey, levelKey] = [counterKey.track(id), counterKey.level(id)];
    const earned = Math.min(MAX_UNITS, (made.player.counters[trackKey]?.count ?? 0) + units);
    made.player = {
      ...made.player,
      counters: { ...made.player.counters, [trackKey]: { count: earned, startMs: 0 } },
    };
    for (const { level, from, gives } of levels) {
      if (from > earned) break;
      if (level <= (made.player.counters[levelKey]?.count ?? start)) continue;
      const now = made.player.attributes[attribute];
      // A level that was bought, say, is not taken back.
      const set = { [attribute]: Math.max(level, typeof now === 'number' ? now : start) };
      made.player = {
        ...made.player,
        attributes: { ...made.player.attributes, ...set },
        counters: { ...made.player.counters, [levelKey]: { count: level, startMs: 0 } },
      };
      made.progress.push({
        kind: 'level',
        track: id,
        name,
        level,
        earned,
        money: currency,
        ...pay(gives, undefined, 'track', id, set),
      });
    }
  }

  function pay(
    gives: Basket,
    loot: { table: string; luck: Key } | undefined,
    kind: 'goal' | 'track',
    id: string,
    set: Record<string, Value>,
  ): Paid {
    const all = { ...gives };
    if (loot) {
      const drawn = playerLoot(economy, made.player, loot.table, nowMs, loot.luck);
      made.player = drawn.player;
      for (const asset in drawn.gives) basketAdd(all, asset, drawn.gives[asset]!);
    }
    const received = playerReceive(economy, made.player, all, worldAccount(kind), `${kind}:${id}`, nowMs);
    made.player = received.player;
    made.movements.push(...received.movements);
    deeds.push({ movements: received.movements, set });
    return { given: received.given, dropped: received.dropped };
  }
}

const MINUTE_MS = 60_000;
/** What the reward of a goal draws by, in the period that began at `startMs`. */
export const rewardLuck = (deed: Key, goal: string | Key, startMs: number): Key =>
  keyWith(deed, GOAL, goal, Math.floor(startMs / MINUTE_MS));
const GOAL = keyOfText('goal');

/** What an event counts; 0 where its condition does not hold. */
function eventCount({ counts }: Goal, scope: Scope): number | { problem: string } {
  if (counts.kind !== 'events' || (counts.when && counts.when.run(scope) !== true)) return 0;
  if (typeof counts.by === 'number') return Math.floor(counts.by);
  const value = counts.by.run(scope) as number;
  const count = countRound(value);
  return count ?? { problem: countProblem(counts.by, value, scope) };
}

/** Why what a formula comes to is no count. */
export function countProblem(by: Formula, value: number, scope: Scope): string {
  const inputs = by.inputs(scope).map(({ name, value: input }) => `${name} = ${String(input)}`);
  return `${by.text} gives ${value}, which is no count${inputs.length > 0 ? ` (${inputs.join(', ')})` : ''}`;
}

/** What a player earned and spent of each currency, and the items that came. What a cap kept out was not earned. */
function moneyMoved(economy: Economy, id: string, movements: readonly Movement[]) {
  const earned = new Map<string, Units>();
  const spent = new Map<string, Units>();
  const arrived = new Set<string>();
  const account = `player:${id}`;
  const add = (sums: Map<string, Units>, asset: string, units: Units): void => {
    sums.set(asset, (sums.get(asset) ?? 0) + units);
  };
  for (const { asset, units, from, to, cause } of movements) {
    const kind = cause.slice(0, cause.indexOf(':'));
    if (!economy.currencies.has(asset)) {
      if (to === account) arrived.add(asset);
    } else if (EARNED.has(kind)) {
      if (to === account) add(earned, asset, units);
      else if (to === 'world:over-cap') add(earned, asset, -units);
    } else if (kind === 'purchase' && from === account) add(spent, asset, units);
  }
  return { earned, spent, arrived };
}

/** The currency that a goal counts. */
const moneyOf = ({ counts }: Goal): string | null =>
  counts.kind === 'earned' || counts.kind === 'spent' ? counts.currency : null;

/** How far a goal is: what was counted in this period, or what there is now. */
export function goalCount(economy: Economy, player: Player, { id, counts, period }: Goal, nowMs: number): number {
  if (counts.kind === 'attribute') {
    const value = playerScope(economy, player, nowMs).name(counts.attribute);
    return typeof value === 'number' ? value : 0;
  }
  if (counts.kind !== 'owned') return limitUsed(period, player.counters[counterKey.goal(id)], economy.zone, nowMs);
  let count = 0;
  for (const item of counts.items) {
    const held = playerHolds(economy, player, item);
    count += counts.distinct ? Math.min(1, held) : held;
  }
  return count;
}

/** When what is seen of goals changes by time alone: the ends of periods in which something was counted, epoch ms. */
export const progressEnds = (economy: Economy, { counters }: Player, nowMs: number): number[] =>
  [...economy.goals.values()].flatMap(({ id, period }) =>
    [counterKey.goal(id), counterKey.reached(id)].flatMap((key) =>
      period.span.kind !== 'lifetime' && limitUsed(period, counters[key], economy.zone, nowMs) > 0
        ? [limitPeriod(period, counters[key], economy.zone, nowMs).endMs]
        : [],
    ),
  );

export interface GoalStanding extends Counted {
  description: string | null;
  /** Within this period. */
  reached: boolean;
  gives: Basket;
}

export interface TrackStanding {
  track: string;
  name: string;
  level: number;
  earned: Units;
  money: string;
  /** The next level and what must have been earned in all; null at the last. */
  next: { level: number; from: Units } | null;
}

/** What a player works towards, as players may see it: goals whose turn has not come, or that are still hidden, are left out. */
export function progressOf(
  economy: Economy,
  player: Player,
  nowMs: number,
): { goals: GoalStanding[]; tracks: TrackStanding[] } {
  const goals = [...economy.goals.values()].flatMap((goal): GoalStanding[] => {
    const { id, name, description = null, target, gives, after, period, shownFrom } = goal;
    if (after !== undefined && !player.counters[counterKey.reached(after)]) return [];
    const reached = limitUsed(period, player.counters[counterKey.reached(id)], economy.zone, nowMs) > 0;
    const count = goalCount(economy, player, goal, nowMs);
    if (!reached && count < shownFrom * target) return [];
    return [
      { goal: id, name, description, count: Math.min(count, target), target, money: moneyOf(goal), reached, gives },
    ];
  });
  const tracks = [...economy.tracks.values()].map(({ id, name, currency, start, levels }): TrackStanding => {
    const level = player.counters[counterKey.level(id)]?.count ?? start;
    const next = levels.find((one) => one.level > level);
    return {
      track: id,
      name,
      level,
      money: currency,
      earned: player.counters[counterKey.track(id)]?.count ?? 0,
      next: next ? { level: next.level, from: next.from } : null,
    };
  });
  return { goals, tracks };
}
