/** The saved states of the draft. */
import { desc, eq, lt } from 'drizzle-orm';
import type { EconomyDocument } from '../../core/document/index.js';
import type { Database } from './database.js';
import { draftRevisions } from './tables.js';

/** A state with its document as JSON text. */
export type DraftRow = typeof draftRevisions.$inferSelect;

export interface SavedDraft extends Omit<DraftRow, 'document'> {
  document: EconomyDocument;
}

const { revision, savedMs, savedBy, why } = draftRevisions;

export class DraftStore {
  constructor(private readonly database: Database) {}

  latest(): DraftRow | undefined {
    return this.database.db.select().from(draftRevisions).orderBy(desc(revision)).limit(1).get();
  }

  /** Without the document; 0 where nothing was saved yet. */
  latestRevision(): number {
    return this.list(Number.MAX_SAFE_INTEGER, 1)[0]?.revision ?? 0;
  }

  get(number: number): SavedDraft | undefined {
    const row = this.database.db.select().from(draftRevisions).where(eq(revision, number)).get();
    return row && { ...row, document: JSON.parse(row.document) as EconomyDocument };
  }

  /** Without the documents, newest first, before `cursor`. */
  list(cursor: number, limit: number): Omit<DraftRow, 'document'>[] {
    return this.database.db
      .select({ revision, savedMs, savedBy, why })
      .from(draftRevisions)
      .where(lt(revision, cursor))
      .orderBy(desc(revision))
      .limit(limit)
      .all();
  }

  /** Inside the writer only. */
  add(row: DraftRow): void {
    this.database.db.insert(draftRevisions).values(row).run();
  }
}
