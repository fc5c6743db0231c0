/**
 * The storefront read, prepared: games poll it, so its bytes are kept until something changes. Two versions
 * and the end of validity decide that: the player's, the shared stock's, and the instant at which time alone
 * would change the answer. Only reads of the live release for a real player, now, come here.
 */
import { LRUCache } from 'lru-cache';
import { frontMake, frontTell } from '../core/storefront/index.js';
import { languageShown } from '../core/texts/index.js';
import type { Economy, Shop } from '../core/economy/index.js';
import type { Channels } from './channels/channels.js';
import type { Compiled } from './releases/releases.js';
import type { PlayerStore } from './store/playerStore.js';
import type { SharedStore, SharedUse } from './store/sharedStore.js';

export interface Prepared {
  /** With what is recorded of rotations: another object when anything of it changes. */
  economy: Economy;
  player: number;
  /** Which of the things that all players share this answer depends on, and their version. */
  uses: SharedUse;
  shared: number;
  fromMs: number;
  untilMs: number;
  etag: string;
  bytes: Buffer;
  /** The headers that it is sent with, once it was sent. */
  head?: string[];
}

const MOST_PREPARED = 20_000;
const MOST_BYTES = 64 * 1024 * 1024;
/** About what an entry takes beside its bytes. */
const ENTRY_BYTES = 1000;

export class HotFront {
  private readonly prepared = new LRUCache<string, Prepared>({
    max: MOST_PREPARED,
    maxSize: MOST_BYTES,
    sizeCalculation: ({ bytes }) => bytes.length + ENTRY_BYTES,
  });
  private serial = 0;
  /** How often the kept bytes served, for metrics. */
  readonly counts = { kept: 0, made: 0 };

  /** `start` sets the ETags of one start of the service apart from those of another. */
  constructor(
    private readonly players: PlayerStore,
    private readonly shared: SharedStore,
    private readonly channels: Channels,
    private readonly start: string,
  ) {}

  /** What is ready; undefined where it must be made. */
  kept(
    { compiled: { economy }, channel, shopId, playerId, language }: FrontAsked,
    nowMs: number,
  ): Prepared | undefined {
    const player = this.players.get(playerId);
    const known = this.prepared.get(keyOf(economy, channel, shopId, playerId, language));
    const isTrue =
      known &&
      known.economy === economy &&
      known.player === player?.version &&
      known.shared === this.shared.version(known.uses) &&
      nowMs >= known.fromMs &&
      nowMs < known.untilMs;
    if (!isTrue) return undefined;
    this.counts.kept++;
    return known;
  }

  /** Undefined when there is no such shop or player: the ordinary route then says which. */
  make({ compiled, channel, shopId, playerId, language: asked }: FrontAsked, nowMs: number): Prepared | undefined {
    const { release, economy } = compiled;
    const held = this.players.get(playerId);
    const shop = economy.shops.get(shopId);
    if (!held || !shop) return undefined;
    const language = languageOf(economy, asked);
    const front = frontMake(economy, shop, held.player, this.shared.get(), nowMs);
    const uses = sharedUse(shop, front.buysBack.length > 0);
    const made: Prepared = {
      economy,
      player: held.version,
      uses,
      shared: this.shared.version(uses),
      fromMs: nowMs,
      untilMs: Math.min(front.changesMs ?? Infinity, this.channels.nextMs(channel) ?? Infinity),
      etag: `"${this.start}-${++this.serial}"`,
      bytes: Buffer.from(
        JSON.stringify({ release, ...(language === undefined ? front : frontTell(economy, front, language)) }),
      ),
    };
    this.prepared.set(keyOf(economy, channel, shopId, playerId, asked), made);
    this.counts.made++;
    return made;
  }
}

/** A storefront of what a channel points at, for a player, now. */
export interface FrontAsked {
  compiled: Compiled;
  channel: string;
  shopId: string;
  playerId: string;
  language: string | undefined;
}

/** Made-up languages come to the same answer, which is kept once. */
const languageOf = (economy: Economy, asked: string | undefined): string | undefined =>
  asked === undefined ? undefined : languageShown(economy, asked);

const keyOf = (economy: Economy, channel: string, shop: string, player: string, asked: string | undefined): string =>
  `${channel} ${shop} ${player} ${languageOf(economy, asked) ?? ''}`;

/** What all players share of which a storefront tells: stock, and the till where the player has something to sell. */
const sharedUse = (shop: Shop, sells: boolean): SharedUse => ({
  stocks: shop.shelves.flatMap(({ offers }) =>
    offers.filter(({ stock }) => stock?.scope === 'shared').map(({ id }) => id),
  ),
  tills: sells && shop.till ? [shop.id] : [],
});
