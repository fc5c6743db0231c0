/** Who is asking: tokens kept as hashes, and sessions of the console. What each role may do is in the contract. */
import { createHash, randomBytes } from 'node:crypto';
import { LRUCache } from 'lru-cache';
import type { Identity, Role } from '../contract/index.js';
import type { TokenRecord, TokenStore } from './store/tokenStore.js';

export type Who = Identity;

/** The cookie of a console session. */
export const SESSION_COOKIE = 'dimestall_session';
/** How long a console session lasts. */
export const SESSION_MS = 12 * 3_600_000;

const hashOf = (token: string): string => createHash('sha256').update(token).digest('hex');

export class Access {
  /** Hash to holder: read on each request, so held in memory; every change clears it. */
  private readonly held = new LRUCache<string, TokenRecord>({ max: 10_000 });

  constructor(
    private readonly store: TokenStore,
    private readonly now: () => number,
    private readonly random: () => Buffer = () => randomBytes(24),
  ) {}

  /** A new token; this is the only time that it can be read. */
  issue(name: string, role: Role, lifetimeMs?: number): string {
    const token = `ds_${this.random().toString('base64url')}`;
    const createdMs = this.now();
    const expiresMs = lifetimeMs === undefined ? null : createdMs + lifetimeMs;
    this.store.add({ hash: hashOf(token), name, role, createdMs, expiresMs });
    return token;
  }

  whoHas(token: string): Who | undefined {
    const hash = hashOf(token);
    let known = this.held.get(hash);
    if (!known) {
      known = this.store.find(hash);
      if (!known) return undefined;
      this.held.set(hash, known);
    }
    return known.expiresMs !== null && this.now() >= known.expiresMs
      ? undefined
      : { name: known.name, role: known.role };
  }

  revoke(token: string): void {
    this.store.remove(hashOf(token));
    this.held.clear();
  }

  /** Long-lived tokens by name, without what would let anyone use them. */
  list() {
    return this.store.lasting();
  }

  /** True when at least one token that does not expire exists. */
  any(): boolean {
    return this.store.anyLasting();
  }
}
