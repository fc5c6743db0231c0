/** What was decided for single periods of rotations: added, and taken back. */
import { and, asc, eq, getTableColumns, gte, isNull, lt, sql } from 'drizzle-orm';
import type { RotationRecordView } from '../../contract/index.js';
import type { Database } from './database.js';
import { rotationRecords } from './tables.js';

export class RotationStore {
  constructor(private readonly database: Database) {}

  /** Those that stand, in the order in which they were made. */
  standing(): RotationRecordView[] {
    const { endedMs, endedBy: _, ...columns } = getTableColumns(rotationRecords);
    return this.database.db
      .select(columns)
      .from(rotationRecords)
      .where(isNull(endedMs))
      .orderBy(asc(columns.id))
      .all()
      .map((row) => ({ ...row, kind: row.kind as RotationRecordView['kind'] }));
  }

  /** Inside the writer only. What was said of the same offer and period before is taken back. */
  add(record: Omit<RotationRecordView, 'id'>): void {
    const { shelf, startMs, endMs, offer, madeMs, madeBy } = record;
    // The same period by its time: another release may have numbered it otherwise.
    const middleMs = sql`(${rotationRecords.startMs} + ${rotationRecords.endMs}) / 2`;
    const same = and(
      eq(rotationRecords.shelf, shelf),
      eq(rotationRecords.offer, offer),
      gte(middleMs, startMs),
      lt(middleMs, endMs),
    );
    this.database.db
      .update(rotationRecords)
      .set({ endedMs: madeMs, endedBy: madeBy })
      .where(and(same, isNull(rotationRecords.endedMs)))
      .run();
    this.database.db.insert(rotationRecords).values(record).run();
  }

  /** Inside the writer only. False where there is no such record. */
  end(id: number, ended: { endedMs: number; endedBy: string }): boolean {
    return (
      this.database.db
        .update(rotationRecords)
        .set(ended)
        .where(and(eq(rotationRecords.id, id), isNull(rotationRecords.endedMs)))
        .run().changes > 0
    );
  }
}
