/**
 * The storefront read, prepared: games poll it, so its bytes are kept until something changes. Two versions
 * and the end of validity decide that: the player's, the shared stock's, and the instant at which time alone
 * would change the answer. Only reads of the live release for a real player, now, come here.
 *
 * Those that were asked for last are kept as they are sent. The others are kept as what sets them apart from another
 * player's of the same shop (deflate with that one as its dictionary): a twentieth of the room, and a fifteenth of the
 * work that making one anew is.
 */
import { deflateRawSync, inflateRawSync } from 'node:zlib';
import { LRUCache } from 'lru-cache';
import { frontMake, frontTell } from '../core/storefront/index.js';
import { languageShown } from '../core/texts/index.js';
import type { Economy, Shop } from '../core/economy/index.js';
import type { Channels } from './channels/channels.js';
import type { Compiled } from './releases/releases.js';
import type { PlayerStore } from './store/playerStore.js';
import type { SharedStore, SharedUse } from './store/sharedStore.js';

/** What decides whether an answer is still true. */
interface Grounds {
  /** With what is recorded of rotations: another object when anything of it changes. */
  economy: Economy;
  player: number;
  /** Which of the things that all players share this answer depends on, and their version. */
  uses: SharedUse;
  shared: number;
  fromMs: number;
  untilMs: number;
  etag: string;
  /** Another player's answer to the same, or its own: what it is packed against. */
  like: Buffer;
}

export interface Prepared extends Grounds {
  bytes: Buffer;
  /** The headers that it is sent with, once it was sent. */
  head?: string[];
}

interface Packed extends Grounds {
  packed: Buffer;
}

/** An answer that is still true: by its tag, and whole where somebody needs more than that. */
export interface Kept {
  etag: string;
  whole(): Prepared;
}

const MOST_READY_BYTES = 16 * 2 ** 20;
const MOST_PACKED_BYTES = 48 * 2 ** 20;
/** About what an entry takes beside its bytes. */
const ENTRY_BYTES = 1000;
/** Measured on the demo: the quickest makes them half as large again, the usual a tenth smaller in twice the time. */
const LEVEL = 3;
/** Answers that others are packed against: one for each shop, channel and language. */
const MOST_LIKE = 500;

export class HotFront {
  private readonly ready = new LRUCache<string, Prepared>({
    maxSize: MOST_READY_BYTES,
    sizeCalculation: ({ bytes }) => bytes.length + ENTRY_BYTES,
    dispose: (prepared, key, reason) => {
      if (reason === 'evict') this.pack(key, prepared);
    },
  });
  private readonly packed = new LRUCache<string, Packed>({
    maxSize: MOST_PACKED_BYTES,
    sizeCalculation: ({ packed }) => packed.length + ENTRY_BYTES,
  });
  private readonly alike = new LRUCache<string, { economy: Economy; like: Buffer }>({ max: MOST_LIKE });
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

  /** What is kept and still true; undefined where it must be made. */
  kept({ compiled: { economy }, channel, shopId, playerId, language }: FrontAsked, nowMs: number): Kept | undefined {
    const key = keyOf(economy, channel, shopId, playerId, language);
    const known = this.ready.get(key) ?? this.packed.get(key);
    const isTrue =
      known &&
      known.economy === economy &&
      known.player === this.players.get(playerId)?.version &&
      known.shared === this.shared.version(known.uses) &&
      nowMs >= known.fromMs &&
      nowMs < known.untilMs;
    if (!isTrue) return undefined;
    this.counts.kept++;
    return { etag: known.etag, whole: () => ('packed' in known ? this.unpack(key, known) : known) };
  }

  private pack(key: string, { bytes, head: _, ...grounds }: Prepared): void {
    const packed = deflateRawSync(bytes, { level: LEVEL, dictionary: grounds.like });
    this.packed.set(key, { ...grounds, packed: exact(packed) });
  }

  private unpack(key: string, { packed, ...grounds }: Packed): Prepared {
    const prepared = { ...grounds, bytes: exact(inflateRawSync(packed, { dictionary: grounds.like })) };
    this.packed.delete(key);
    this.ready.set(key, prepared);
    return prepared;
  }

  /** What an answer is packed against: the first that was made of its kind. */
  private like(economy: Economy, kind: string, bytes: Buffer): Buffer {
    const known = this.alike.get(kind);
    if (known?.economy === economy) return known.like;
    this.alike.set(kind, { economy, like: bytes });
    return bytes;
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
    const bytes = Buffer.from(
      JSON.stringify({ release, ...(language === undefined ? front : frontTell(economy, front, language)) }),
    );
    const made: Prepared = {
      economy,
      player: held.version,
      uses,
      shared: this.shared.version(uses),
      fromMs: nowMs,
      untilMs: Math.min(front.changesMs ?? Infinity, this.channels.nextMs(channel) ?? Infinity),
      etag: `"${this.start}-${++this.serial}"`,
      like: this.like(economy, keyOf(economy, channel, shopId, '', asked), bytes),
      bytes,
    };
    const key = keyOf(economy, channel, shopId, playerId, asked);
    this.packed.delete(key);
    this.ready.set(key, made);
    this.counts.made++;
    return made;
  }
}

/** In as much memory as it needs: what was packed or unpacked lies in a piece of a size that fits all. */
function exact(bytes: Buffer): Buffer {
  const own = Buffer.allocUnsafeSlow(bytes.length);
  bytes.copy(own);
  return own;
}

/** A storefront of what a channel points at, for a player, now. */
export interface FrontAsked {
  compiled: Compiled;
  channel: string;
  shopId: string;
  playerId: string;
  language: string | undefined;
  /** Who asks, by the name of the token. */
  holder: string;
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
