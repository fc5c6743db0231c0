/** Published releases: added, never changed, and kept for ever, compressed. */
import { gunzipSync } from 'node:zlib';
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
    if (!row) return undefined;
    const { packed, ...release } = row;
    return { ...release, document: JSON.parse(gunzipSync(packed!).toString()) as EconomyDocument };
  }

  /** The documents of all releases as JSON, one after the other. */
  *texts(): Generator<string> {
    for (const { number } of this.list(Number.MAX_SAFE_INTEGER, Number.MAX_SAFE_INTEGER)) {
      const row = this.database.db
        .select({ packed: releases.packed })
        .from(releases)
        .where(eq(releases.number, number))
        .get();
      yield gunzipSync(row!.packed!).toString();
    }
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

  /** Inside the writer only. `packed` is the document as JSON, compressed by gzip. Gives the number. */
  add(release: Omit<ReleaseView, 'number'> & { packed: Buffer }): number {
    return this.database.db
      .insert(releases)
      .values({ ...release, document: '' })
      .returning({ number: releases.number })
      .get().number;
  }
}
