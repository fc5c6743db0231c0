/** The saved states of the draft. */
import { desc, eq, lt } from 'drizzle-orm';
import type { EconomyDocument } from '../../core/document/index.js';
import type { Database } from './database.js';
import { draftRevisions } from './tables.js';

export interface SavedDraft {
  revision: number;
  savedMs: number;
  savedBy: string;
  why: string;
  document: EconomyDocument;
}

const { revision, savedMs, savedBy, why } = draftRevisions;
const read = (row: typeof draftRevisions.$inferSelect | undefined): SavedDraft | undefined =>
  row && { ...row, document: JSON.parse(row.document) as EconomyDocument };

export class DraftStore {
  constructor(private readonly database: Database) {}

  latest(): SavedDraft | undefined {
    return read(this.database.db.select().from(draftRevisions).orderBy(desc(revision)).limit(1).get());
  }

  get(number: number): SavedDraft | undefined {
    return read(this.database.db.select().from(draftRevisions).where(eq(revision, number)).get());
  }

  /** Without the documents, newest first, before `cursor`. */
  list(cursor: number, limit: number): Omit<SavedDraft, 'document'>[] {
    return this.database.db
      .select({ revision, savedMs, savedBy, why })
      .from(draftRevisions)
      .where(lt(revision, cursor))
      .orderBy(desc(revision))
      .limit(limit)
      .all();
  }

  /** Inside the writer only. */
  add({ document, ...row }: SavedDraft): void {
    this.database.db
      .insert(draftRevisions)
      .values({ ...row, document: JSON.stringify(document) })
      .run();
  }
}
