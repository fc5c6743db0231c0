/**
 * Places in rankings, in memory: what a ranking compares is read when it is first asked for, in slices, and follows
 * every write from then on. What is stored stays the truth: after an undone write it is read anew.
 */
import { LRUCache } from 'lru-cache';
import type { Units } from '../../core/amount/index.js';
import type { Economy } from '../../core/economy/index.js';
import type { Movement } from '../../core/ledger/index.js';
import type { Player, Team } from '../../core/player/index.js';
import { goalScore, orderAdd, orderRemove, rankingEarnings } from '../../core/ranking/index.js';
import type { Contest, Order } from '../../core/ranking/index.js';
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
}

export class Rankings {
  private readonly kept = new LRUCache<string, Kept>({ max: MOST_KEPT });

  constructor(
    private readonly store: RankingStore,
    caches: Caches,
  ) {
    caches.onForget(() => this.kept.clear());
  }

  /** All who have a score, in order. */
  async order(contest: Contest): Promise<{ order: Order; score(who: string): Units }> {
    const key = JSON.stringify(contest);
    for (;;) {
      const kept = this.kept.get(key) ?? this.begin(key, contest);
      await kept.whole;
      // Unless all was forgotten meanwhile.
      if (this.kept.get(key) === kept) return { order: kept.order, score: (who) => kept.scores.get(who) ?? 0 };
    }
  }

  private begin(key: string, contest: Contest): Kept {
    const kept: Kept = {
      contest,
      scores: new Map(),
      order: undefined,
      isWhole: false,
      changed: new Set(),
      whole: Promise.resolve(),
    };
    kept.whole = inSlices(this.reading(kept));
    this.kept.set(key, kept);
    return kept;
  }

  private *reading(kept: Kept): Generator<undefined, void, undefined> {
    const { contest } = kept;
    let after = '';
    for (;;) {
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
    this.changed('player', before, after);
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
    for (const kept of this.kept.values()) if (kept.contest.holder === holder) follow(kept, id, 0);
  }

  private changed(holder: Contest['holder'], before: Scores | undefined, after: Scores): void {
    for (const kept of this.kept.values()) {
      const { contest } = kept;
      if (contest.holder !== holder) continue;
      if (contest.by === 'balance') {
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
