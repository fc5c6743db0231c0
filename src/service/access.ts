/** Who is asking: tokens kept as hashes, and sessions of the console. What each role may do is in the contract. */
import { createHash, randomBytes } from 'node:crypto';
import { LRUCache } from 'lru-cache';
import { and, asc, eq, isNull, sql } from 'drizzle-orm';
import type { Identity, Role } from '../contract/index.js';
import type { Database } from './store/database.js';
import { tokens } from './store/tables.js';

export type Who = Identity;

/** The cookie of a console session. */
export const SESSION_COOKIE = 'dimestall_session';
/** How long a console session lasts. */
export const SESSION_MS = 12 * 3_600_000;

const hashOf = (token: string): string => createHash('sha256').update(token).digest('hex');

export class Access {
  /** Hash to holder: read on each request, so held in memory; every change clears it. */
  private readonly held = new LRUCache<string, Who & { expiresMs: number | null }>({ max: 10_000 });

  constructor(
    private readonly database: Database,
    private readonly now: () => number,
    private readonly random: () => Buffer = () => randomBytes(24),
  ) {}

  /** A new token; this is the only time that it can be read. */
  issue(name: string, role: Role, lifetimeMs?: number): string {
    const token = `ds_${this.random().toString('base64url')}`;
    const createdMs = this.now();
    this.database.db
      .insert(tokens)
      .values({
        hash: hashOf(token),
        name,
        role,
        createdMs,
        expiresMs: lifetimeMs === undefined ? null : createdMs + lifetimeMs,
      })
      .run();
    return token;
  }

  whoHas(token: string): Who | undefined {
    const hash = hashOf(token);
    let known = this.held.get(hash);
    if (!known) {
      const row = this.database.db.select().from(tokens).where(eq(tokens.hash, hash)).get();
      if (!row) return undefined;
      known = { name: row.name, role: row.role as Role, expiresMs: row.expiresMs };
      this.held.set(hash, known);
    }
    return known.expiresMs !== null && this.now() >= known.expiresMs ? undefined : known;
  }

  revoke(token: string): void {
    this.database.db
      .delete(tokens)
      .where(eq(tokens.hash, hashOf(token)))
      .run();
    this.held.clear();
  }

  /** Long-lived tokens by name, without what would let anyone use them. */
  list() {
    return this.database.db
      .select({ name: tokens.name, role: tokens.role, createdMs: tokens.createdMs })
      .from(tokens)
      .where(isNull(tokens.expiresMs))
      .orderBy(asc(tokens.createdMs))
      .all()
      .map((token) => ({ ...token, role: token.role as Role }));
  }

  /** True when at least one token that does not expire exists. */
  any(): boolean {
    return (
      this.database.db
        .select({ one: sql`1` })
        .from(tokens)
        .where(and(isNull(tokens.expiresMs)))
        .limit(1)
        .get() !== undefined
    );
  }
}
