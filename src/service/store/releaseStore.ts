/** Published releases: added, never changed. */
import { desc, eq, lt } from 'drizzle-orm';
import type { ReleaseView } from '../../contract/index.js';
import type { EconomyDocument } from '../../core/document/index.js';
import type { Database } from './database.js';
import { releases } from './tables.js';

export type StoredRelease = ReleaseView & { document: EconomyDocument };

export class ReleaseStore {
  constructor(private readonly database: Database) {}

  get(number: number): StoredRelease | undefined {
    const row = this.database.db.select().from(releases).where(eq(releases.number, number)).get();
    return row && { ...row, document: JSON.parse(row.document) as EconomyDocument };
  }

  exists(number: number): boolean {
    return (
      this.database.db.select({ number: releases.number }).from(releases).where(eq(releases.number, number)).get() !==
      undefined
    );
  }

  /** Without the documents, newest first, before `cursor`. */
  list(cursor: number, limit: number): ReleaseView[] {
    const { number, note, draftRevision, publishedMs, publishedBy } = releases;
    return this.database.db
      .select({ number, note, draftRevision, publishedMs, publishedBy })
      .from(releases)
      .where(lt(number, cursor))
      .orderBy(desc(number))
      .limit(limit)
      .all();
  }

  /** Inside the writer only. Gives the number. */
  add({ document, ...row }: Omit<StoredRelease, 'number'>): number {
    return this.database.db
      .insert(releases)
      .values({ ...row, document: JSON.stringify(document) })
      .returning({ number: releases.number })
      .get().number;
  }
}
