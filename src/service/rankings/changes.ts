/** What is written that changes places in rankings, as it is told to whoever keeps them in order. */
import type { Units } from '../../core/amount/index.js';
import type { Economy } from '../../core/economy/index.js';
import type { Movement } from '../../core/ledger/index.js';
import { counterKey } from '../../core/player/index.js';
import type { Counters, Player, Team } from '../../core/player/index.js';
import { rankingEarnings } from '../../core/ranking/index.js';
import type { Contest, Earning, Levels } from '../../core/ranking/index.js';
import type { Caches } from '../held.js';
import type { RankingStore } from '../store/rankingStore.js';

/** What somebody has come to, never by how much: whoever is told twice, or late, is told what is so. */
export type Change =
  | {
      kind: 'has';
      holder: Contest['holder'];
      id: string;
      atMs: number;
      /** All of the balances, where one has changed. */
      balances: Levels | undefined;
      /** All that counts towards goals, where something was counted. */
      goals: Counters | undefined;
    }
  | { kind: 'earned'; contest: Earning['contest']; who: string; units: Units }
  /** A player or team that is no more has no place. */
  | { kind: 'gone'; holder: Contest['holder']; id: string }
  /** Something was undone that was told. */
  | { kind: 'undone' };

/** Called inside the writer only. */
export class RankingChanges {
  private take: (change: Change) => void = () => undefined;

  constructor(
    private readonly store: RankingStore,
    caches: Caches,
  ) {
    caches.onForget(() => this.take({ kind: 'undone' }));
  }

  /** Who is told from now on, at once. */
  tell(take: (change: Change) => void): void {
    this.take = take;
  }

  /** What a player and the player's teams have come to; and what was earned on the way, which is written. */
  moved(economy: Economy, before: Player, after: Player, movements: readonly Movement[], atMs: number): void {
    this.has('player', before, after, atMs);
    for (const kind in after.teams)
      if (after.teams[kind] !== before.teams[kind]) this.teamChanged(before.teams[kind], after.teams[kind]!);
    for (const earning of rankingEarnings(economy, after, movements, atMs))
      this.take({ kind: 'earned', contest: earning.contest, who: earning.who, units: this.store.earn(earning) });
  }

  teamChanged(before: Team | undefined, after: Team): void {
    this.has(`team ${after.kind}`, before && teamHas(before), teamHas(after), 0);
  }

  gone(holder: Contest['holder'], id: string): void {
    this.take({ kind: 'gone', holder, id });
  }

  private has(holder: Contest['holder'], before: Has | undefined, { id, balances, counters }: Has, atMs: number): void {
    const change = {
      balances: balances === before?.balances ? undefined : balances,
      goals: counters === before?.counters ? undefined : goalsOf(counters),
    };
    if (change.balances ?? change.goals) this.take({ kind: 'has', holder, id, atMs, ...change });
  }
}

type Has = Pick<Player, 'id' | 'counters' | 'balances'>;

const teamHas = ({ id, counters, holdings }: Team): Has => ({
  id,
  counters,
  balances: Object.fromEntries(Object.entries(holdings).map(([asset, units]) => [asset, { units, sinceMs: null }])),
});

const GOAL = counterKey.goal('');
const goalsOf = (counters: Counters): Counters =>
  Object.fromEntries(Object.entries(counters).filter(([key]) => key.startsWith(GOAL)));
