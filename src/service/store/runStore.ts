/** Records of simulations: what was asked, how far each is, and its result as text. */
import { gunzipSync } from 'node:zlib';
import { and, desc, eq, gte, inArray, lt, sql } from 'drizzle-orm';
import { RESULT_VERSION } from '../../core/simulation/index.js';
import type { RunMarks, RunSetupView, RunStatus, RunView } from '../../contract/index.js';
import type { Database } from './database.js';
import { runs } from './tables.js';

/** Characters of set-ups in one page of runs: each may be as long as a request. */
const MOST_LISTED = 200_000;

/** What changes in a run while it is waiting or running. */
export type RunChange = Partial<Pick<RunView, 'name' | 'status' | 'day' | 'error' | 'marks'>> & { result?: Buffer };

export class RunStore {
  constructor(private readonly database: Database) {}

  /** Returns its number. */
  add({
    setup,
    ...run
  }: Pick<RunView, 'name' | 'setup' | 'status' | 'day' | 'days' | 'createdMs' | 'createdBy'>): number {
    const row = { ...run, setup: JSON.stringify(setup) };
    return this.database.db.insert(runs).values(row).returning({ id: runs.id }).get().id;
  }

  change(id: number, { marks, ...change }: RunChange): void {
    const set = { ...change, ...(marks ? { marks: JSON.stringify(marks) } : {}) };
    this.database.db.update(runs).set(set).where(eq(runs.id, id)).run();
  }

  remove(id: number): void {
    this.database.db.delete(runs).where(eq(runs.id, id)).run();
  }

  /** Marks every run that is not over as failed. */
  failUnfinished(error: string): void {
    const unfinished: RunStatus[] = ['waiting', 'running'];
    this.database.db.update(runs).set({ status: 'failed', error }).where(inArray(runs.status, unfinished)).run();
  }

  find(id: number): RunView | undefined {
    const row = this.database.db.select(VIEW).from(runs).where(eq(runs.id, id)).get();
    return row && viewOf(row);
  }

  /** The newest first, before `cursor`: up to `limit`, fewer where what was set for them is long. There may be more where it is full. */
  list(cursor: number, limit: number): { runs: RunView[]; isFull: boolean } {
    const { db } = this.database;
    const before = lt(runs.id, cursor);
    const lengths = db
      .select({ id: runs.id, length: sql<number>`length(${runs.setup})` })
      .from(runs)
      .where(before)
      .orderBy(desc(runs.id))
      .limit(limit)
      .all();
    let length = 0;
    const last = lengths.find((row) => (length += row.length) > MOST_LISTED) ?? lengths.at(-1);
    if (!last) return { runs: [], isFull: false };
    const rows = db
      .select(VIEW)
      .from(runs)
      .where(and(before, gte(runs.id, last.id)))
      .orderBy(desc(runs.id))
      .all();
    return { runs: rows.map(viewOf), isFull: rows.length === limit || rows.length < lengths.length };
  }

  /** The result as bytes of JSON; undefined while there is none, and of one that an earlier version made. */
  resultJson(id: number): Buffer | undefined {
    const row = this.database.db.select({ result: runs.result }).from(runs).where(eq(runs.id, id)).get();
    const json = row?.result ? gunzipSync(row.result) : Buffer.alloc(0);
    const begin = `{"version":${RESULT_VERSION},`;
    return json.subarray(0, begin.length).toString() === begin ? json : undefined;
  }
}

/** How far a run is says its day, as far as nothing more is known. */
const doneOf = ({ day, days }: { day: number; days: number }): number => day / days;

/** Everything but the result, which may be large. */
const VIEW = {
  id: runs.id,
  name: runs.name,
  setup: runs.setup,
  status: runs.status,
  day: runs.day,
  days: runs.days,
  createdMs: runs.createdMs,
  createdBy: runs.createdBy,
  error: runs.error,
  marks: runs.marks,
};

const viewOf = (
  row: Omit<RunView, 'setup' | 'status' | 'done' | 'marks'> & { setup: string; status: string; marks: string | null },
): RunView => ({
  ...row,
  done: doneOf(row),
  status: row.status as RunStatus,
  setup: JSON.parse(row.setup) as RunSetupView,
  marks: row.marks === null ? null : (JSON.parse(row.marks) as RunMarks),
});
