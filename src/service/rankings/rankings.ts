/**
 * Places in rankings, in memory: what a ranking compares is read when it is first asked for, one ranking at a time and in
 * slices, and follows every write from then on. What is stored stays the truth: after an undone write it is read anew. A
 * balance that time changes (a refill, an end) is told as it is at the instant of asking: whose turn it was since is
 * worked out then.
 */
import { LRUCache } from 'lru-cache';
import TinyQueue from 'tinyqueue';
import type { Units } from '../../core/amount/index.js';
import type { Currency, Economy } from '../../core/economy/index.js';
import type { Movement } from '../../core/ledger/index.js';
import type { Player, Team } from '../../core/player/index.js';
import {
  balanceAt,
  balanceSources,
  goalScore,
  orderAdd,
  orderOf,
  orderRemove,
  rankingEarnings,
} from '../../core/ranking/index.js';
import type { Contest, Levels, Order, Scored } from '../../core/ranking/index.js';
import type { Caches } from '../held.js';
import { CallerGone } from '../problem.js';
import { inSlices } from '../slices.js';
import type { RankingStore } from '../store/rankingStore.js';

/** Rankings and periods that are kept at once, and places in all of them; the one that was asked for longest ago goes. */
const MOST_KEPT = 20;
const MOST_PLACES = 2_000_000;
const PAGE = 500;

interface Kept {
  contest: Contest;
  scores: Map<string, Units>;
  order: Order;
  isWhole: boolean;
  /** Who changed before all was in order: of them, and of nobody else, `scores` tells then what they have. */
  changed: Set<string>;
  whole: Promise<void>;
  /** False once something was undone: it is read anew. */
  isTrue: boolean;
  /** Of each who has asked before it was whole: whether they still wait. */
  askers: (() => boolean)[];
  /** Where time changes what is compared. */
  moving: Moving | undefined;
}

interface Due {
  who: string;
  nextMs: number;
}

/** Balances that time changes. */
interface Moving {
  economy: Economy;
  currency: string;
  sources: readonly Currency[];
  levels: Map<string, Levels>;
  /** Whose balance time changes next, and when; what was overtaken by a write is passed over. */
  due: TinyQueue<Due>;
  nextMs: Map<string, number>;
}

export class Rankings {
  private readonly kept = new LRUCache<string, Kept>({ max: MOST_KEPT });
  /** What is being read, and waits to be: nothing of it is dropped while somebody waits. */
  private readonly unread = new Map<string, Kept>();
  private lastRead: Promise<unknown> = Promise.resolve();

  constructor(
    private readonly store: RankingStore,
    caches: Caches,
  ) {
    caches.onForget(() => this.forget());
  }

  /**
   * All who have a score at an instant, in order. `economy` says what time does to balances. It is not read to the end
   * when nobody who asked is there any more: `isWanted` says whether the caller is.
   */
  async order(
    contest: Contest,
    economy: Economy,
    nowMs: number,
    isWanted: () => boolean = () => true,
  ): Promise<{ order: Order; score(who: string): Units }> {
    const moving = movingOf(contest, economy);
    const key = moving ? `${JSON.stringify(contest)} ${rulesText(moving.sources)}` : JSON.stringify(contest);
    for (;;) {
      const kept = this.kept.get(key) ?? this.unread.get(key) ?? this.begin(key, contest, moving, nowMs);
      if (!kept.isWhole) kept.askers.push(isWanted);
      try {
        await kept.whole;
      } catch (error) {
        // It was given up just before this caller asked.
        if (error instanceof CallerGone && isWanted()) continue;
        throw error;
      }
      if (kept.moving) await inSlices(timePasses(kept, kept.moving, nowMs));
      if (kept.isTrue) return { order: kept.order, score: (who) => kept.scores.get(who) ?? 0 };
    }
  }

  private begin(key: string, contest: Contest, moving: Moving | undefined, nowMs: number): Kept {
    const kept: Kept = {
      contest,
      moving,
      scores: new Map(),
      order: undefined,
      isWhole: false,
      isTrue: true,
      changed: new Set(),
      whole: Promise.resolve(),
      askers: [],
    };
    this.unread.set(key, kept);
    kept.whole = this.read(key, kept, nowMs, this.lastRead);
    this.lastRead = kept.whole.catch(() => undefined);
    return kept;
  }

  /** One after the other: many at once would take memory for all of them and be ready last. */
  private async read(key: string, kept: Kept, nowMs: number, before: Promise<unknown>): Promise<void> {
    await before;
    try {
      await inSlices(this.reading(kept, nowMs));
    } finally {
      // What fails is read anew for the next who asks.
      if (this.unread.get(key) === kept) this.unread.delete(key);
    }
    if (!kept.isTrue) return;
    this.kept.set(key, kept);
    const places = (): number => [...this.kept.values()].reduce((sum, { scores }) => sum + scores.size, 0);
    while (this.kept.size > 1 && places() > MOST_PLACES) this.kept.pop();
  }

  private forget(): void {
    for (const kept of this.followed()) kept.isTrue = false;
    this.kept.clear();
    this.unread.clear();
  }

  private *followed(): Generator<Kept, void, undefined> {
    yield* this.kept.values();
    yield* this.unread.values();
  }

  private *reading(kept: Kept, nowMs: number): Generator<undefined, void, undefined> {
    const scores = new Map<string, Units>();
    const pages: Scored[][] = [];
    for (const page of this.pages(kept, nowMs)) {
      if (!kept.isTrue) return;
      if (!kept.askers.some((isWaiting) => isWaiting())) throw new CallerGone();
      pages.push(page);
      for (const { who, score } of page) scores.set(who, score);
      yield;
    }
    let order = yield* orderOf(pages);
    // Who changed meanwhile, and while this goes on, is taken out as they were read, and put in as they are.
    for (const who of kept.changed) {
      kept.changed.delete(who);
      const [before, after] = [scores.get(who), kept.scores.get(who)];
      if (before !== undefined) order = orderRemove(order, { who, score: before });
      scores.delete(who);
      if (after !== undefined) {
        scores.set(who, after);
        order = orderAdd(order, { who, score: after });
      }
      yield;
    }
    Object.assign(kept, { scores, order, isWhole: true });
    kept.askers.length = 0;
  }

  /** Those who have a score, as they are stored. */
  private *pages({ contest, moving, changed }: Kept, nowMs: number): Generator<Scored[], void, undefined> {
    for (let after = '', isLast = false; !isLast;) {
      const page: Scored[] = [];
      const add = (who: string, score: Units): void => {
        after = who;
        if (score > 0) page.push({ who, score });
      };
      if (moving) {
        const ids = moving.sources.map(({ id }) => id);
        const players = this.store.levels(ids, after, PAGE);
        // What is known of those who changed since is newer.
        for (const { who, levels } of players)
          add(who, changed.has(who) ? 0 : levelsFollow(moving, who, levels, nowMs));
        isLast = players.length < PAGE;
      } else {
        const rows = this.store.page(contest, after, PAGE);
        for (const { who, score, startMs } of rows)
          add(who, contest.by === 'goal' && (startMs ?? 0) < contest.startMs ? 0 : (score ?? 0));
        isLast = rows.length < PAGE;
      }
      yield page;
    }
  }

  /** Inside the writer only: what a player and the player's teams have come to, and what was earned on the way. */
  moved(economy: Economy, before: Player, after: Player, movements: readonly Movement[], atMs: number): void {
    this.changed('player', before, after, atMs);
    for (const kind in after.teams)
      if (after.teams[kind] !== before.teams[kind]) this.teamChanged(before.teams[kind], after.teams[kind]!);
    for (const earning of rankingEarnings(economy, after, movements, atMs)) {
      const units = this.store.earn(earning);
      const key = JSON.stringify(earning.contest);
      const kept = this.kept.peek(key) ?? this.unread.get(key);
      if (kept) follow(kept, earning.who, units);
    }
  }

  /** Inside the writer only. */
  teamChanged(before: Team | undefined, after: Team): void {
    this.changed(`team ${after.kind}`, before && teamScores(before), teamScores(after));
  }

  /** Inside the writer only: a player or team that is no more has no place. */
  gone(holder: Contest['holder'], id: string): void {
    for (const kept of this.followed()) {
      if (kept.contest.holder !== holder) continue;
      kept.moving?.nextMs.delete(id);
      kept.moving?.levels.delete(id);
      follow(kept, id, 0);
    }
  }

  private changed(holder: Contest['holder'], before: Scores | undefined, after: Scores, atMs = 0): void {
    for (const kept of this.followed()) {
      const { contest, moving } = kept;
      if (contest.holder !== holder) continue;
      if (moving) {
        const { balances } = after as Player;
        const isOther = ({ id }: { id: string }): boolean => balances[id] !== before?.balances[id];
        if (!moving.sources.some(isOther)) continue;
        if (!kept.isWhole) kept.changed.add(after.id);
        levelsPut(kept, moving, after.id, balances, atMs);
      } else if (contest.by === 'balance') {
        const level = after.balances[contest.currency];
        if (level && level !== before?.balances[contest.currency]) follow(kept, after.id, level.units);
      } else if (contest.by === 'goal' && after.counters !== before?.counters)
        follow(kept, after.id, goalScore(contest, after.counters));
    }
  }
}

/** What of somebody rankings look at. */
type Scores = Pick<Player, 'id' | 'counters'> & { balances: Readonly<Record<string, { units: Units }>> };

const teamScores = ({ id, counters, holdings }: Team): Scores => ({
  id,
  counters,
  balances: Object.fromEntries(Object.entries(holdings).map(([asset, units]) => [asset, { units }])),
});

/** Undefined where what is compared changes by what players do alone. */
function movingOf({ holder, ...contest }: Contest, economy: Economy): Moving | undefined {
  if (contest.by !== 'balance' || holder !== 'player') return undefined;
  const sources = balanceSources(economy, contest.currency);
  return sources.length === 0
    ? undefined
    : {
        economy,
        currency: contest.currency,
        sources,
        levels: new Map(),
        due: new TinyQueue<Due>([], (a, b) => a.nextMs - b.nextMs),
        nextMs: new Map(),
      };
}

/** What time does to them, so that another release begins anew where it does something else. */
const rulesText = (sources: readonly Currency[]): string =>
  JSON.stringify(sources, (_, value: unknown) => (typeof value === 'bigint' ? String(value) : value));

function levelsPut(kept: Kept, moving: Moving, who: string, levels: Levels, nowMs: number): void {
  put(kept, who, levelsFollow(moving, who, levels, nowMs));
}

/** What they come to now, and that they are looked at again when time changes that. */
function levelsFollow(moving: Moving, who: string, levels: Levels, nowMs: number): Units {
  const { economy, currency, sources, due } = moving;
  const { units, nextMs } = balanceAt(economy, currency, sources, levels, nowMs);
  moving.levels.set(who, levels);
  moving.nextMs.set(who, nextMs);
  if (Number.isFinite(nextMs)) due.push({ who, nextMs });
  return units;
}

function* timePasses(kept: Kept, moving: Moving, nowMs: number): Generator<undefined, void, undefined> {
  for (let next = moving.due.peek(); next && next.nextMs <= nowMs; next = moving.due.peek()) {
    const { who, nextMs } = moving.due.pop()!;
    if (moving.nextMs.get(who) !== nextMs) continue;
    levelsPut(kept, moving, who, moving.levels.get(who)!, nowMs);
    yield;
  }
}

function follow(kept: Kept, who: string, score: Units): void {
  if (!kept.isWhole) kept.changed.add(who);
  put(kept, who, score);
}

function put(kept: Kept, who: string, score: Units): void {
  const before = kept.scores.get(who);
  if (before === score) return;
  if (before !== undefined) kept.order = orderRemove(kept.order, { who, score: before });
  kept.scores.delete(who);
  if (score <= 0) return;
  kept.scores.set(who, score);
  kept.order = orderAdd(kept.order, { who, score });
}
