/** The audit trail: who changed what, when and why. */
import { desc, lt } from 'drizzle-orm';
import type { Database } from './database.js';
import { trail } from './tables.js';

export class Trail {
  constructor(
    private readonly database: Database,
    private readonly now: () => number,
  ) {}

  add(who: string, action: string, subject: string, why = ''): void {
    this.database.db.insert(trail).values({ atMs: this.now(), who, action, subject, why }).run();
  }

  list(cursor: number, limit: number) {
    return this.database.db.select().from(trail).where(lt(trail.id, cursor)).orderBy(desc(trail.id)).limit(limit).all();
  }
}
