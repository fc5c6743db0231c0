/** Records of tokens. Only hashes are kept. */
import { asc, eq, lte, or } from 'drizzle-orm';
import type { Role } from '../../contract/index.js';
import type { Database } from './database.js';
import { tokens } from './tables.js';

export interface TokenRecord {
  hash: string;
  name: string;
  role: Role;
  createdMs: number;
  /** Null for one that lasts until it is revoked. */
  expiresMs: number | null;
  /** The hash of the token that a session was opened with; null for a token. */
  parent: string | null;
}

export class TokenStore {
  constructor(private readonly database: Database) {}

  /** Inside the writer only, as are all that change something. */
  add(token: TokenRecord): void {
    this.database.db.insert(tokens).values(token).run();
  }

  find(hash: string): TokenRecord | undefined {
    const row = this.database.db.select().from(tokens).where(eq(tokens.hash, hash)).get();
    return row && recordOf(row);
  }

  /** Those whose hash begins so, oldest first. */
  beginning(start: string): TokenRecord[] {
    return this.list().filter(({ hash }) => hash.startsWith(start));
  }

  /** With the sessions that were opened with it. */
  remove(hash: string): void {
    this.database.db
      .delete(tokens)
      .where(or(eq(tokens.hash, hash), eq(tokens.parent, hash)))
      .run();
  }

  removeExpired(nowMs: number): void {
    this.database.db.delete(tokens).where(lte(tokens.expiresMs, nowMs)).run();
  }

  /** Oldest first. */
  list(): TokenRecord[] {
    return this.database.db.select().from(tokens).orderBy(asc(tokens.createdMs), asc(tokens.hash)).all().map(recordOf);
  }

  /** Whether somebody could sign in. */
  any(nowMs: number): boolean {
    return this.list().some(({ parent, expiresMs }) => parent === null && (expiresMs === null || expiresMs > nowMs));
  }
}

const recordOf = (row: typeof tokens.$inferSelect): TokenRecord => ({ ...row, role: row.role as Role });
