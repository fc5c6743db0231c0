/** The audit trail: who changed what, when and why. */
import { desc, lt } from 'drizzle-orm';
import type { Database } from './database.js';
import { trail } from './tables.js';

/** What was done, as the log tells it once it is on disk. */
export interface TrailEntry {
  action: string;
  who: string;
  subject: string;
  why: string;
}

/** Of players and teams the log tells nothing: what support does is in the trail, and their names are nobody else's. */
const UNTOLD = /^(player|team)\./;

export class Trail {
  /** Written and not yet committed. */
  private pending: TrailEntry[] = [];

  constructor(
    private readonly database: Database,
    private readonly now: () => number,
    private readonly tell: (entry: TrailEntry) => void = () => undefined,
  ) {}

  add(who: string, action: string, subject: string, why = ''): void {
    this.database.db.insert(trail).values({ atMs: this.now(), who, action, subject, why }).run();
    if (!UNTOLD.test(action)) this.pending.push({ action, who, subject, why });
  }

  /** What was written since the last time is on disk. */
  committed(): void {
    for (const entry of this.pending.splice(0)) this.tell(entry);
  }

  /** It was undone. */
  undone(): void {
    this.pending = [];
  }

  list(cursor: number, limit: number) {
    return this.database.db.select().from(trail).where(lt(trail.id, cursor)).orderBy(desc(trail.id)).limit(limit).all();
  }
}
