/**
 * The saved states of the draft. Most are kept as what they changed of the one before, so that a small save of a large
 * draft takes little; a whole one comes now and then, so that none is far from one.
 */
import { desc, eq, lt } from 'drizzle-orm';
import type { EconomyDocument } from '../../core/document/index.js';
import type { Caches } from '../held.js';
import type { Database } from './database.js';
import { keptAsChange, spliceApply } from './splice.js';
import type { Changes, Splice } from './splice.js';
import { draftRevisions } from './tables.js';

/** A state with its document as JSON text. */
export interface DraftRow {
  revision: number;
  document: string;
  savedMs: number;
  savedBy: string;
  why: string;
}

export interface SavedDraft extends Omit<DraftRow, 'document'> {
  document: EconomyDocument;
}

const { revision, savedMs, savedBy, why } = draftRevisions;
const VIEW = { revision, savedMs, savedBy, why };

export class DraftStore {
  private readonly statements: ReturnType<typeof prepareStatements>;
  /** The text that was read or written last: the next is often one change away. */
  private known: { revision: number; text: string } | undefined;

  constructor(
    private readonly database: Database,
    caches: Caches,
  ) {
    this.statements = prepareStatements(database);
    // Of an undone save; one that was committed never changes.
    caches.onForget(
      () => (this.known = undefined),
      () => undefined,
    );
  }

  latest(): DraftRow | undefined {
    return this.row(this.latestRevision());
  }

  /** Without the document; 0 where nothing was saved yet. */
  latestRevision(): number {
    return this.list(Number.MAX_SAFE_INTEGER, 1)[0]?.revision ?? 0;
  }

  get(number: number): SavedDraft | undefined {
    const row = this.row(number);
    return row && { ...row, document: JSON.parse(row.document) as EconomyDocument };
  }

  private row(number: number): DraftRow | undefined {
    const view = this.database.db.select(VIEW).from(draftRevisions).where(eq(revision, number)).get();
    return view && { ...view, document: this.text(number) };
  }

  /** The document of a revision that there is: the last whole one before it, and what was changed since. */
  private text(number: number): string {
    const { statements, known } = this;
    if (known?.revision === number) return known.text;
    const whole = statements.wholeBefore.get(number)!.revision;
    // What is known is nearer.
    const isNearer = known !== undefined && known.revision >= whole && known.revision < number;
    const first = isNearer ? known.revision : whole;
    let text = isNearer ? known.text : '';
    for (const row of statements.between.iterate(isNearer ? first + 1 : first, number))
      text =
        row.at === null
          ? row.document
          : spliceApply(text, { at: row.at, removed: row.removed!, inserted: row.document });
    this.known = { revision: number, text };
    return text;
  }

  /** Without the documents, newest first, before `cursor`. */
  list(cursor: number, limit: number): Omit<DraftRow, 'document'>[] {
    return this.database.db
      .select(VIEW)
      .from(draftRevisions)
      .where(lt(revision, cursor))
      .orderBy(desc(revision))
      .limit(limit)
      .all();
  }

  /** Inside the writer only. `splice` is what it changed of the revision before. */
  add({ document, ...row }: DraftRow, splice: Splice): void {
    const isChange = row.revision > 1 && keptAsChange(this.changesBefore(row.revision), splice, document.length);
    this.database.db
      .insert(draftRevisions)
      .values(
        isChange
          ? { ...row, document: splice.inserted, spliceAt: splice.at, spliceRemoved: splice.removed }
          : { ...row, document },
      )
      .run();
    this.known = { revision: row.revision, text: document };
  }

  private changesBefore(number: number): Changes {
    const { statements } = this;
    return statements.changes.get(statements.wholeBefore.get(number)!.revision, number)!;
  }
}

function prepareStatements({ raw }: Database) {
  return {
    wholeBefore: raw.prepare<[number], { revision: number }>(
      'SELECT max(revision) AS revision FROM draft_revisions WHERE revision <= ? AND splice_at IS NULL',
    ),
    between: raw.prepare<[number, number], { document: string; at: number | null; removed: number | null }>(
      `SELECT document, splice_at AS at, splice_removed AS removed FROM draft_revisions
       WHERE revision BETWEEN ? AND ? ORDER BY revision`,
    ),
    changes: raw.prepare<[number, number], Changes>(
      `SELECT count(*) AS count, coalesce(sum(length(document)), 0) AS length FROM draft_revisions
       WHERE revision > ? AND revision < ?`,
    ),
  };
}
