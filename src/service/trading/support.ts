/** What support does for players: making them known, and giving and taking with a reason. */
import type { GrantAnswer } from '../../contract/index.js';
import type { Basket } from '../../core/amount/index.js';
import type { Economy } from '../../core/economy/index.js';
import type { Value } from '../../core/formula/index.js';
import { worldAccount } from '../../core/ledger/index.js';
import { nearestName } from '../../core/issue/index.js';
import { playerCreate, playerEmptied, playerSettle } from '../../core/player/index.js';
import { keptOutTold } from '../../core/texts/index.js';
import { grantApply } from '../../core/trade/index.js';
import { attributesKnown } from '../asked.js';
import { Problem, invalid } from '../problem.js';
import type { RankingChanges } from '../rankings/changes.js';
import type { Retention } from '../retention/retention.js';
import type { Sources } from '../sources.js';
import type { PlayerStore } from '../store/playerStore.js';
import type { RetentionStore } from '../store/retentionStore.js';
import type { Writer } from '../store/writer.js';
import type { Trail } from '../store/trail.js';
import type { Books } from './books.js';
import type { Done, Once, OncePerKey } from './once.js';

/** What is given and taken, and why. */
export interface Grant {
  gives: Basket;
  takes: Basket;
  reason: string;
}

export class Support {
  constructor(
    private readonly writer: Writer,
    private readonly books: Books,
    private readonly once: OncePerKey,
    private readonly players: PlayerStore,
    private readonly rankings: RankingChanges,
    private readonly sources: Sources,
    private readonly trail: Trail,
    private readonly retentionStore: RetentionStore,
    private readonly retention: Retention,
    private readonly now: () => number,
  ) {}

  /** Makes a player known, with the live release's start balances. */
  create(id: string, name: string, attributes: Record<string, Value>, who: string): Promise<void> {
    return this.writer.submit(() => {
      if (this.players.get(id)) throw new Problem('already-there', `There is already a player "${id}".`);
      if (this.players.wasErased(id))
        throw new Problem(
          'already-there',
          `The player "${id}" was erased, and the id stays theirs in the ledger. Make the player known by another.`,
        );
      const { economy, release } = this.sources.live();
      attributesKnown(economy, attributes);
      const atMs = this.now();
      this.books.create(economy, release, atMs, playerCreate(economy, id, name, atMs, attributes));
      this.trail.add(who, 'player.create', id);
    });
  }

  /**
   * Erases a player: who they are, what they have, what was counted, and what is kept of their requests. Returns what they
   * had, which is lost.
   */
  async erase(id: string, reason: string, who: string): Promise<Basket> {
    const lost = await this.writer.submit(() => {
      const { player, economy, release, atMs } = this.books.open(id);
      const settled = playerSettle(economy, player, atMs);
      const { lost, movements } = playerEmptied(settled.player, worldAccount('erased'), `erase:${who}`);
      this.books.move(id, release, atMs, [...settled.movements, ...movements]);
      this.players.erase(id, atMs);
      this.rankings.gone('player', id);
      this.trail.add(who, 'player.erase', id, reason);
      this.retentionStore.eraseBegin(id);
      return lost;
    });
    await this.retention.erase(id);
    return lost;
  }

  /** Gives and takes once per key. What a cap keeps out, or is not there to be taken, is told. */
  grant(player: string, grant: Grant, who: string, key: string): Promise<Once<GrantAnswer>> {
    return this.writer.submit(() => {
      const { number, answer, repeated } = this.once.run('grant', { player, key, asked: grantWords(grant) }, () =>
        this.grantNow(player, grant, who),
      );
      return { answer: { grant: number, ...answer }, repeated };
    });
  }

  private grantNow(id: string, { gives, takes, reason }: Grant, who: string): Done<Omit<GrantAnswer, 'grant'>> {
    const standing = this.books.open(id);
    const { economy, atMs } = standing;
    assetsKnown(economy, { gives, takes });
    const by = { account: worldAccount('support'), cause: `grant:${who}` };
    const granted = grantApply(economy, standing.player, { gives, takes }, by, atMs);
    const { player, movements, given, taken, dropped, missed, progress } = granted;
    this.books.write(standing, { player, movements });
    this.trail.add(who, 'player.grant', id, reason);
    return {
      kept: true,
      atMs,
      answer: { given, taken, dropped, missed, keptOut: keptOutTold(economy, dropped), progress },
    };
  }
}

export const grantWords = ({ gives, takes, reason }: Grant): string =>
  JSON.stringify([Object.entries(gives).sort(), Object.entries(takes).sort(), reason]);

/** Throws a problem that names every asset that the economy does not have. */
export function assetsKnown(economy: Economy, baskets: Record<string, Basket>): void {
  const issues = Object.entries(baskets).flatMap(([field, basket]) =>
    Object.keys(basket)
      .filter((asset) => !economy.currencies.has(asset) && !economy.items.has(asset))
      .map((asset) => {
        const near = nearestName(asset, [...economy.currencies.keys(), ...economy.items.keys()]);
        return {
          code: 'dangling-reference' as const,
          pointer: `/${field}/${asset}`,
          message: `there is no currency or item "${asset}"`,
          fix: near === undefined ? 'Name one that exists.' : `Did you mean "${near}"?`,
        };
      }),
  );
  if (issues.length > 0) throw invalid('The basket does not fit the live release.', issues);
}
