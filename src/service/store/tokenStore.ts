/** Records of tokens. Only hashes are kept. */
import { asc, eq, isNull, sql } from 'drizzle-orm';
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
}

export class TokenStore {
  constructor(private readonly database: Database) {}

  add(token: TokenRecord): void {
    this.database.db.insert(tokens).values(token).run();
  }

  find(hash: string): TokenRecord | undefined {
    const row = this.database.db.select().from(tokens).where(eq(tokens.hash, hash)).get();
    return row && { ...row, role: row.role as Role };
  }

  remove(hash: string): void {
    this.database.db.delete(tokens).where(eq(tokens.hash, hash)).run();
  }

  /** Those that last, oldest first. */
  lasting(): Pick<TokenRecord, 'name' | 'role' | 'createdMs'>[] {
    return this.database.db
      .select({ name: tokens.name, role: tokens.role, createdMs: tokens.createdMs })
      .from(tokens)
      .where(isNull(tokens.expiresMs))
      .orderBy(asc(tokens.createdMs))
      .all()
      .map((row) => ({ ...row, role: row.role as Role }));
  }

  anyLasting(): boolean {
    const one = this.database.db
      .select({ one: sql`1` })
      .from(tokens)
      .where(isNull(tokens.expiresMs))
      .limit(1)
      .get();
    return one !== undefined;
  }
}
