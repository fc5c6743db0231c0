/** Who is asking: tokens kept as hashes, and sessions of the console. What each role may do is in the contract. */
import { createHash, randomBytes } from 'node:crypto';
import { LRUCache } from 'lru-cache';
import type { Identity, Role, TokenView } from '../contract/index.js';
import type { Caches } from './held.js';
import { notFound } from './problem.js';
import type { TokenRecord, TokenStore } from './store/tokenStore.js';

/** `token`: the beginning of its hash, as lists show it. */
export type Who = Identity & { token?: string };

/** The cookie of a console session. */
export const SESSION_COOKIE = 'dimestall_session';
/** How long a console session lasts, whatever renews it. */
export const SESSION_MS = 12 * 3_600_000;

const hashOf = (token: string): string => createHash('sha256').update(token).digest('hex');

export class Access {
  /** Hash to holder: read on each request, so held in memory; every change clears it. */
  private readonly held = new LRUCache<string, TokenRecord>({ max: 10_000 });

  constructor(
    private readonly store: TokenStore,
    private readonly now: () => number,
    /** What was written and undone is forgotten with everything else. */
    caches?: Caches,
    private readonly random: () => Buffer = () => randomBytes(24),
  ) {
    caches?.onForget(() => this.forget());
  }

  /** Inside the writer only. A new token; this is the only time that it can be read. */
  issue(name: string, role: Role, lifetimeMs?: number): string {
    return this.make({ name, role, parent: null }, lifetimeMs ?? Infinity);
  }

  /**
   * Inside the writer only. A session of whoever has `token`; it ends with it. One that is opened with a session lasts no
   * longer than that: however often it is renewed, somebody has signed in within the longest time. Undefined where nobody
   * has it.
   */
  sessionOpen(token: string): { session: string; who: Who; lastsMs: number } | undefined {
    const known = this.known(token);
    if (!known) return undefined;
    const { hash, name, role, parent } = known;
    const lastsMs = Math.min(SESSION_MS, (known.expiresMs ?? Infinity) - this.now());
    return { session: this.make({ name, role, parent: parent ?? hash }, lastsMs), who: { name, role }, lastsMs };
  }

  private make(whose: Pick<TokenRecord, 'name' | 'role' | 'parent'>, lifetimeMs: number): string {
    const token = `ds_${this.random().toString('base64url')}`;
    const createdMs = this.now();
    const expiresMs = Number.isFinite(lifetimeMs) ? createdMs + lifetimeMs : null;
    this.store.removeExpired(createdMs);
    this.store.add({ hash: hashOf(token), ...whose, createdMs, expiresMs });
    return token;
  }

  whoHas(token: string): Who | undefined {
    const known = this.known(token);
    return known && { name: known.name, role: known.role, token: known.hash.slice(0, ID_LENGTH) };
  }

  private known(token: string): TokenRecord | undefined {
    const hash = hashOf(token);
    let known = this.held.get(hash);
    if (!known) {
      known = this.store.find(hash);
      if (!known) return undefined;
      this.held.set(hash, known);
    }
    return known.expiresMs !== null && this.now() >= known.expiresMs ? undefined : known;
  }

  /** Inside the writer only. Ends one session. */
  signOut(token: string): void {
    this.store.remove(hashOf(token));
    this.forget();
  }

  /** Inside the writer only. Ends a token, with every session that was opened with it, or a session. Throws where there is none. */
  revoke(id: string): TokenView {
    const found = id.length === ID_LENGTH ? this.store.beginning(id) : [];
    if (found.length !== 1)
      throw notFound(
        'token',
        id,
        this.list().map((token) => token.id),
      );
    this.store.remove(found[0]!.hash);
    this.forget();
    return viewOf(found[0]!);
  }

  /** What is held of tokens may not be true any more. */
  forget(): void {
    this.held.clear();
  }

  /** Tokens and sessions that are good now, oldest first, without what would let anyone use them. */
  list(): TokenView[] {
    const nowMs = this.now();
    return this.store
      .list()
      .filter(({ expiresMs }) => expiresMs === null || expiresMs > nowMs)
      .map(viewOf);
  }

  /** True when at least one token exists with which somebody could sign in. */
  any(): boolean {
    return this.store.any(this.now());
  }
}

/** The beginning of a hash tells tokens apart and lets nobody use them. */
const ID_LENGTH = 12;

const viewOf = ({ hash, name, role, createdMs, expiresMs, parent }: TokenRecord): TokenView => ({
  id: hash.slice(0, ID_LENGTH),
  kind: parent === null ? 'token' : 'session',
  name,
  role,
  createdMs,
  expiresMs,
});
