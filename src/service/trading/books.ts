/** What every deal looks at before it is decided, and where everything that it changed is written. */
import type { Economy } from '../../core/economy/index.js';
import type { Movement } from '../../core/ledger/index.js';
import { playerWith } from '../../core/player/index.js';
import type { Player } from '../../core/player/index.js';
import type { Shared } from '../../core/trade/index.js';
import type { RankingChanges } from '../rankings/changes.js';
import type { Sources } from '../sources.js';
import type { LedgerStore } from '../store/ledgerStore.js';
import type { PlayerStore } from '../store/playerStore.js';
import type { SharedStore } from '../store/sharedStore.js';

/** How things stand for a player: under which rules, and when. */
export interface Standing {
  player: Player;
  shared: Shared;
  economy: Economy;
  release: number;
  atMs: number;
}

/** What a deal changed: the player as they are now, what changed of what all share, and what moved. */
interface Changed {
  player: Player;
  shared?: Shared;
  movements: readonly Movement[];
}

export class Books {
  constructor(
    private readonly players: PlayerStore,
    private readonly shared: SharedStore,
    private readonly ledger: LedgerStore,
    private readonly rankings: RankingChanges,
    private readonly sources: Sources,
    private readonly now: () => number,
  ) {}

  /** Throws where there is no such player, nor a release on the channel (`live` by default). */
  open(playerId: string, channel?: string): Standing {
    const held = this.players.find(playerId);
    const { economy, release } = this.sources.live(channel);
    return { player: held.player, shared: this.shared.get(), economy, release, atMs: this.now() };
  }

  /** Inside the writer only. */
  write({ player: before, economy, release, atMs }: Standing, { player, shared, movements }: Changed): void {
    this.players.save(before, player);
    if (shared) this.shared.save(shared);
    this.move(player.id, release, atMs, movements);
    this.rankings.moved(economy, before, player, movements, atMs);
  }

  /** Inside the writer only: a player who was not there before, and what they begin with. */
  create(economy: Economy, release: number, atMs: number, { player, movements }: Changed): void {
    this.players.create(player);
    this.move(player.id, release, atMs, movements);
    this.rankings.moved(economy, playerWith(player, { balances: {}, counters: {} }), player, [], atMs);
  }

  /** Inside the writer only: movements that a request of a player, or for nobody (''), caused. */
  move(player: string, release: number, atMs: number, movements: readonly Movement[]): void {
    this.ledger.append(player, release, atMs, movements);
  }
}
