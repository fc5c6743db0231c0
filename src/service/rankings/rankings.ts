/**
 * Places in rankings, in memory: what a ranking compares is read when it is first asked for, in slices, and follows
 * every write from then on. What is stored stays the truth: after an undone write it is read anew. A balance that time
 * changes (a refill, an end) is told as it is at the instant of asking: whose turn it was since is worked out then.
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
  orderRemove,
  rankingEarnings,
} from '../../core/ranking/index.js';
import type { Contest, Levels, Order } from '../../core/ranking/index.js';
import type { Caches } from '../held.js';
import { inSlices } from '../slices.js';
import type { RankingStore } from '../store/rankingStore.js';

/** Rankings and periods that are kept at once; the one that was asked for longest ago goes. */
const MOST_KEPT = 20;
const PAGE = 500;

interface Kept {
  contest: Contest;
  scores: Map<string, Units>;
  order: Order;
  isWhole: boolean;
  /** Who changed before all was read: what is read of them then is known already. */
  changed: Set<string>;
  whole: Promise<void>;
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

  constructor(
    private readonly store: RankingStore,
    caches: Caches,
  ) {
    caches.onForget(() => this.kept.clear());
  }

  /** All who have a score at an instant, in order. `economy` says what time does to balances. */
  async order(contest: Contest, economy: Economy, nowMs: number): Promise<{ order: Order; score(who: string): Units }> {
    const moving = movingOf(contest, economy);
    const key = moving ? `${JSON.stringify(contest)} ${rulesText(moving.sources)}` : JSON.stringify(contest);
    for (;;) {
      const kept = this.kept.get(key) ?? this.begin(key, contest, moving, nowMs);
      await kept.whole;
      if (kept.moving) await inSlices(timePasses(kept, kept.moving, nowMs));
      // Unless all was forgotten meanwhile.
      if (this.kept.get(key) === kept) return { order: kept.order, score: (who) => kept.scores.get(who) ?? 0 };
    }
  }

  private begin(key: string, contest: Contest, moving: Moving | undefined, nowMs: number): Kept {
    const kept: Kept = {
      contest,
      moving,
      scores: new Map(),
      order: undefined,
      isWhole: false,
      changed: new Set(),
      whole: Promise.resolve(),
    };
    kept.whole = inSlices(this.reading(kept, nowMs));
    this.kept.set(key, kept);
    return kept;
  }

  private *reading(kept: Kept, nowMs: number): Generator<undefined, void, undefined> {
    const { contest, moving } = kept;
    let after = '';
    for (;;) {
      if (moving) {
        const ids = moving.sources.map(({ id }) => id);
        const players = this.store.levels(ids, after, PAGE);
        for (const { who, levels } of players) if (!kept.changed.has(who)) levelsPut(kept, moving, who, levels, nowMs);
        if (players.length < PAGE) break;
        after = players.at(-1)!.who;
        yield;
        continue;
      }
      const rows = this.store.page(contest, after, PAGE);
      for (const { who, score, startMs } of rows) {
        const isOver = contest.by === 'goal' && (startMs ?? 0) < contest.startMs;
        if (!kept.changed.has(who)) put(kept, who, isOver ? 0 : (score ?? 0));
      }
      if (rows.length < PAGE) break;
      after = rows.at(-1)!.who;
      yield;
    }
    kept.isWhole = true;
    kept.changed.clear();
  }

  /** Inside the writer only: what a player and the player's teams have come to, and what was earned on the way. */
  moved(economy: Economy, before: Player, after: Player, movements: readonly Movement[], atMs: number): void {
    this.changed('player', before, after, atMs);
    for (const kind in after.teams)
      if (after.teams[kind] !== before.teams[kind]) this.teamChanged(before.teams[kind], after.teams[kind]!);
    for (const earning of rankingEarnings(economy, after, movements, atMs)) {
      const units = this.store.earn(earning);
      const kept = this.kept.peek(JSON.stringify(earning.contest));
      if (kept) follow(kept, earning.who, units);
    }
  }

  /** Inside the writer only. */
  teamChanged(before: Team | undefined, after: Team): void {
    this.changed(`team ${after.kind}`, before && teamScores(before), teamScores(after));
  }

  /** Inside the writer only: a player or team that is no more has no place. */
  gone(holder: Contest['holder'], id: string): void {
    for (const kept of this.kept.values()) {
      if (kept.contest.holder !== holder) continue;
      kept.moving?.nextMs.delete(id);
      kept.moving?.levels.delete(id);
      follow(kept, id, 0);
    }
  }

  private changed(holder: Contest['holder'], before: Scores | undefined, after: Scores, atMs = 0): void {
    for (const kept of this.kept.values()) {
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
  const { economy, currency, sources, due } = moving;
  const { units, nextMs } = balanceAt(economy, currency, sources, levels, nowMs);
  moving.levels.set(who, levels);
  moving.nextMs.set(who, nextMs);
  if (Number.isFinite(nextMs)) due.push({ who, nextMs });
  put(kept, who, units);
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
