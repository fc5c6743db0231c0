/**
 * Goals and levels: what a deed counts towards, and what is paid for it. A reward may bring others nearer, so it goes on
 * until nothing more is reached; each goal is reached once within its period and each level once, so it ends.
 */
import { MAX_UNITS, basketAdd } from '../amount/index.js';
import type { Basket, Units } from '../amount/index.js';
import type { Economy, Goal, Share, Track } from '../economy/index.js';
import type { Value } from '../formula/index.js';
import { playerAccount, worldAccount } from '../ledger/index.js';
import type { Movement } from '../ledger/index.js';
import { playerLoot } from '../loot/index.js';
import {
  counterKey,
  playerHolds,
  playerReceive,
  playerScope,
  playerWith,
  sharedTold,
  teamShare,
} from '../player/index.js';
import type { Counters, Player, Team } from '../player/index.js';
import { keyOf, keyOfText, keyWith } from '../random/index.js';
import type { Key } from '../random/index.js';
import { limitPeriod, limitUsed } from '../schedule/index.js';
import { eventCount, goalAdd, goalIsOpen, goalReach, moneyMoved, moneyOf } from './counting.js';
import type { Deed, OwnCounters } from './counting.js';
import { teamsProgress } from './teamProgress.js';
import type { TeamProgress } from './teamProgress.js';

/** What came of a reward. */
interface Paid {
  given: Basket;
  /** Kept out by a cap or carry. */
  dropped: Basket;
  /** What went to teams instead, by team; left out where nothing did. */
  shared?: Record<string, Basket>;
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
  | TeamProgress
  | ({ kind: 'level'; track: string; name: string; level: number; earned: Units; money: string } & Paid);

export interface Changed {
  player: Player;
  movements: Movement[];
}

/** A goal, and its place in the order in which they are written. */
interface Watcher {
  goal: Goal;
  place: number;
}

/** Who looks at what, worked out once for an economy. */
interface Watchers {
  events: Map<string, Watcher[]>;
  offers: Map<string, Watcher[]>;
  earned: Map<string, Watcher[]>;
  spent: Map<string, Watcher[]>;
  items: Map<string, Watcher[]>;
  attributes: Map<string, Watcher[]>;
  /** All that look at what there is. */
  looking: Watcher[];
  /** Goals that begin with another. */
  followers: Map<string, Goal[]>;
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
    looking: [],
    followers: new Map(),
  };
  for (const [place, goal] of [...economy.goals.values()].entries()) {
    for (const [kind, id] of watched(goal)) push(watchers[kind], id, { goal, place });
    if (goalLooks(goal)) watchers.looking.push({ goal, place });
    if (goal.after !== undefined) push(watchers.followers, goal.after, goal);
  }
  known.set(economy, watchers);
  return watchers;
}

/** Whether a goal looks at what there is, rather than to count what happens. */
const goalLooks = ({ counts }: Goal): boolean => counts.kind === 'owned' || counts.kind === 'attribute';

function watched({ counts }: Goal): [Exclude<keyof Watchers, 'followers' | 'looking'>, string][] {
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

/**
 * The deed's consequences; the same player and no movements where there are none. What is open counts when the deed is
 * done; goals come in the order in which they are written, and tracks after them. What holds already, since it was
 * published late or because time brought it, is reached with the deed, whatever it is. `luck` is that of the deed:
 * tables of rewards draw by it. Linear in what is touched and in the goals that look at what there is.
 */
export function progressMake(
  economy: Economy,
  before: Player,
  first: Deed,
  nowMs: number,
  luck: Key = keyOf(economy.seed, before.id),
): Changed & { progress: Progress[] } {
  const made = { player: before, movements: [] as Movement[], progress: [] as Progress[] };
  if (economy.goals.size + economy.tracks.size + economy.teamGoals.size === 0) return made;
  const watchers = watchersOf(economy);
  const deeds: Deed[] = [first];
  const done: Deed[] = [];
  let own: OwnCounters = {};
  for (let deed = deeds.shift(); deed; deed = deeds.shift()) {
    done.push(deed);
    const { earned, spent, arrived } = moneyMoved(economy, [playerAccount(before.id)], deed.movements);
    /** What each adds; null for those that look at what there is. */
    const touched: (Watcher & { count: number | null })[] = [];
    const touch = (list: readonly Watcher[] | undefined, count: number | null): void => {
      for (const { goal, place } of list ?? []) {
        // More than one thing may have touched what is looked at; all else has one cause.
        if (count === null && touched.some((one) => one.goal === goal)) continue;
        if (isOpen(goal)) touched.push({ goal, place, count });
      }
    };
    if (deed.event) {
      const scope = deed.event.scope(made.player);
      for (const watcher of watchers.events.get(deed.event.name) ?? []) {
        const { goal } = watcher;
        const count = eventCount(goal, scope);
        if (typeof count === 'number') touch([watcher], count);
        else made.progress.push({ kind: 'failed', goal: goal.id, name: goal.name, problem: count.problem });
      }
    }
    if (deed.purchase) touch(watchers.offers.get(deed.purchase.offer), deed.purchase.times);
    for (const [currency, units] of earned) touch(watchers.earned.get(currency), units);
    for (const [currency, units] of spent) touch(watchers.spent.get(currency), units);
    for (const item of arrived) touch(watchers.items.get(item), null);
    for (const name in deed.set) touch(watchers.attributes.get(name), null);
    if (deed === first) for (const watcher of watchers.looking) if (stands(watcher.goal)) touch([watcher], null);
    if (touched.length > 1) touched.sort((a, b) => a.place - b.place);
    for (const { goal, count } of touched)
      if (count === null) look(goal);
      else if (count > 0) advance(goal, count);
    for (const track of economy.tracks.values()) {
      const units = earned.get(track.currency) ?? 0;
      if (units > 0 || deed === first) climb(track, units);
    }
  }
  const together = teamsProgress(economy, made.player, done, nowMs);
  return {
    player: together.player,
    movements: [...made.movements, ...together.movements],
    progress: [...made.progress, ...together.progress],
  };

  function stands(goal: Goal): boolean {
    return isOpen(goal) && goalCount(economy, made.player, goal, nowMs) >= goal.target;
  }

  function isOpen(goal: Goal): boolean {
    return goalIsOpen(economy, made.player.counters, goal, nowMs);
  }

  function advance(goal: Goal, count: number): void {
    settle(goal, goalAdd(economy, ownCounters(), goal, count, nowMs));
  }

  /** Copied when the first goal moves, and again after anything else has made the player anew. */
  function ownCounters(): OwnCounters {
    if (made.player.counters !== own) {
      own = { ...made.player.counters };
      made.player = playerWith(made.player, { counters: own });
    }
    return own;
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
    const startMs = goalReach(economy, ownCounters(), goal, nowMs);
    const set = Object.fromEntries(goal.sets);
    if (goal.sets.size > 0)
      made.player = playerWith(made.player, { attributes: { ...made.player.attributes, ...set } });
    const drawn = goal.loot === undefined ? undefined : { table: goal.loot, luck: rewardLuck(luck, goal.id, startMs) };
    const paid = pay(goal.gives, drawn, goal.share, 'goal', goal.id, set);
    made.progress.push({ kind: 'reached', ...told, set, ...paid });
    for (const follower of watchersOf(economy).followers.get(goal.id) ?? []) if (goalLooks(follower)) look(follower);
  }

  function climb(track: Track, units: Units): void {
    const { id, name, currency, attribute, start, levels } = track;
    const at = trackAt(track, made.player);
    const earned = Math.min(MAX_UNITS, at.earned + units);
    if (units === 0 && !levels.some(({ level, from }) => level > at.level && from <= earned)) return;
    const [trackKey, levelKey] = [counterKey.track(id), counterKey.level(id)];
    ownCounters()[trackKey] = { count: earned, startMs: 0 };
    if (at.level > start) ownCounters()[levelKey] = { count: at.level, startMs: 0 };
    for (const { level, from, gives } of levels) {
      if (from > earned) break;
      if (level <= at.level) continue;
      const now = made.player.attributes[attribute];
      // A level that was bought, say, is not taken back.
      const set = { [attribute]: Math.max(level, typeof now === 'number' ? now : start) };
      ownCounters()[levelKey] = { count: level, startMs: 0 };
      made.player = playerWith(made.player, { attributes: { ...made.player.attributes, ...set } });
      made.progress.push({
        kind: 'level',
        track: id,
        name,
        level,
        earned,
        money: currency,
        ...pay(gives, undefined, NO_SHARE, 'track', id, set),
      });
    }
  }

  function pay(
    gives: Basket,
    loot: { table: string; luck: Key } | undefined,
    share: Share,
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
    const [from, cause] = [worldAccount(kind), `${kind}:${id}`] as const;
    const parts = teamShare(economy, made.player, share, all, from, cause);
    const received = playerReceive(economy, parts.player, parts.own, from, cause, nowMs);
    made.player = received.player;
    const movements = [...parts.movements, ...received.movements];
    made.movements.push(...movements);
    deeds.push({ movements, set });
    const { given, dropped } = received;
    return { given, dropped, ...sharedTold(parts) };
  }
}

const NO_SHARE: Share = new Map();
const MINUTE_MS = 60_000;
/** What the reward of a goal draws by, in the period that began at `startMs`. */
export const rewardLuck = (deed: Key, goal: string | Key, startMs: number): Key =>
  keyWith(deed, GOAL, goal, Math.floor(startMs / MINUTE_MS));
const GOAL = keyOfText('goal');

/**
 * Where a player is on a track. Before anything was earned on it they begin where the attribute stands, since a track
 * may be published late, and who joins may be of a higher level already.
 */
export function trackAt(
  { id, attribute, start, levels }: Track,
  { attributes, counters }: Pick<Player, 'attributes' | 'counters'>,
): { level: number; earned: Units } {
  const earned = counters[counterKey.track(id)]?.count;
  if (earned !== undefined) return { level: counters[counterKey.level(id)]?.count ?? start, earned };
  const now = attributes[attribute];
  const begun = typeof now === 'number' ? levels.findLast(({ level }) => level <= now) : undefined;
  return begun ? { level: begun.level, earned: begun.from } : { level: start, earned: 0 };
}

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
export const progressEnds = (economy: Economy, { counters, teams }: Player, nowMs: number): number[] => {
  const ends = ({ id, period }: Goal, counted: Counters): number[] =>
    [counterKey.goal(id), counterKey.reached(id)].flatMap((key) =>
      period.span.kind !== 'lifetime' && limitUsed(period, counted[key], economy.zone, nowMs) > 0
        ? [limitPeriod(period, counted[key], economy.zone, nowMs).endMs]
        : [],
    );
  return [
    ...[...economy.goals.values()].flatMap((goal) => ends(goal, counters)),
    ...[...economy.teamGoals.values()].flatMap((goal) => ends(goal, teams[goal.team]?.counters ?? {})),
  ];
};

export interface GoalStanding extends Counted {
  /** Whose goal it is; null where it is the player's own. */
  team: { id: string; name: string } | null;
  description: string | null;
  /** Within this period. */
  reached: boolean;
  gives: Basket;
  /** The goal that must be reached before it counts; left out where its turn has come. */
  waitsFor?: { goal: string; name: string };
  /** How far, in the words of a language, where one was asked for. */
  told?: string;
}

export interface TrackStanding {
  track: string;
  name: string;
  level: number;
  earned: Units;
  money: string;
  /** The next level and what must have been earned in all; null at the last. */
  next: { level: number; from: Units } | null;
  /** How high, in the words of a language, where one was asked for. */
  told?: string;
}

/**
 * What a player works towards. As players may see it, goals whose turn has not come, or that are still hidden, are left
 * out; with `all` nothing is. What holds already and waits for a deed stands at its target, and is not reached yet.
 */
export function progressOf(
  economy: Economy,
  player: Player,
  nowMs: number,
  all = false,
): { goals: GoalStanding[]; tracks: TrackStanding[] } {
  const own = [...economy.goals.values()].flatMap((goal) =>
    goalStanding(economy, goal, player.counters, goalCount(economy, player, goal, nowMs), null, nowMs, all),
  );
  const together = Object.values(player.teams).flatMap((team) => teamGoalsOf(economy, team, nowMs, all));
  const tracks = [...economy.tracks.values()].map((track): TrackStanding => {
    const { id, name, currency, levels } = track;
    const { level, earned } = trackAt(track, player);
    const next = levels.find((one) => one.level > level);
    return {
      track: id,
      name,
      level,
      money: currency,
      earned,
      next: next ? { level: next.level, from: next.from } : null,
    };
  });
  return { goals: [...own, ...together], tracks };
}

/** What a team works towards, as its members may see it; with `all` whatever is hidden from them too. */
export const teamGoalsOf = (
  economy: Economy,
  { id, kind, name, counters }: Team,
  nowMs: number,
  all = false,
): GoalStanding[] =>
  [...economy.teamGoals.values()]
    .filter(({ team }) => team === kind)
    .flatMap((goal) => {
      const count = limitUsed(goal.period, counters[counterKey.goal(goal.id)], economy.zone, nowMs);
      return goalStanding(economy, goal, counters, count, { id, name }, nowMs, all);
    });

function goalStanding(
  economy: Economy,
  goal: Goal,
  counters: Counters,
  count: number,
  team: GoalStanding['team'],
  nowMs: number,
  all: boolean,
): GoalStanding[] {
  const { id, name, description = null, target, gives, after, period, shownFrom } = goal;
  const waits = after !== undefined && !counters[counterKey.reached(after)];
  if (waits && !all) return [];
  const reached = limitUsed(period, counters[counterKey.reached(id)], economy.zone, nowMs) > 0;
  if (!reached && !all && count < shownFrom * target) return [];
  const money = moneyOf(goal);
  const standing = { goal: id, name, team, description, count: Math.min(count, target), target, money, reached, gives };
  const first = economy.goals.get(after ?? '') ?? economy.teamGoals.get(after ?? '');
  return [waits ? { ...standing, waitsFor: { goal: after, name: first?.name ?? after } } : standing];
}
