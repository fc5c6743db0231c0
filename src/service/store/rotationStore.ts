/** What was decided for single periods of rotations: added, and taken back. */
import { and, asc, eq, isNull } from 'drizzle-orm';
import type { RotationRecordView } from '../../contract/index.js';
import type { Database } from './database.js';
import { rotationRecords } from './tables.js';

export class RotationStore {
  constructor(private readonly database: Database) {}

  /** Those that stand, in the order in which they were made. */
  standing(): RotationRecordView[] {
    const { id, shelf, period, kind, offer, why, madeMs, madeBy } = rotationRecords;
    return this.database.db
      .select({ id, shelf, period, kind, offer, why, madeMs, madeBy })
      .from(rotationRecords)
      .where(isNull(rotationRecords.endedMs))
      .orderBy(asc(id))
      .all()
      .map((row) => ({ ...row, kind: row.kind as RotationRecordView['kind'] }));
  }

  /** Inside the writer only. What was said of the same offer and period before is taken back. */
  add(record: Omit<RotationRecordView, 'id'>): void {
    const { shelf, period, offer, madeMs, madeBy } = record;
    const same = and(
      eq(rotationRecords.shelf, shelf),
      eq(rotationRecords.period, period),
      eq(rotationRecords.offer, offer),
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
