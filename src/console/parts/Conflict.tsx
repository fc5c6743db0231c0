/** A save that came too late, as a three-way view: what it was, what others made of it, what one wanted oneself. */
import type { Operation } from 'fast-json-patch';
import type { Change } from '../../core/document/index.js';
import type { ProblemMore } from '../../contract/index.js';
import { Badge, Button, DataTable, Window } from './ui.js';

export interface Conflict {
  stale: ProblemMore<'stale'>;
  operations: Operation[];
  why: string | undefined;
}

interface Row {
  what: string;
  before: unknown;
  theirs: unknown;
  mine: unknown;
  clash: boolean;
}

const shown = (value: unknown): string =>
  value === undefined ? '-' : typeof value === 'object' ? JSON.stringify(value) : String(value);

/** One row for each place that either has changed. */
function rowsOf(theirs: readonly Change[], mine: readonly Change[], clashes: readonly string[]): Row[] {
  const pointers = [...new Set([...mine, ...theirs].map(({ pointer }) => pointer))];
  return pointers.map((pointer) => {
    const [their, my] = [theirs, mine].map((changes) => changes.find((one) => one.pointer === pointer));
    const { subject, field, before } = (my ?? their)!;
    return {
      what: field ? `${subject}, ${field}` : subject,
      before,
      theirs: their ? (their.after ?? '(removed)') : before,
      mine: my ? (my.after ?? '(removed)') : before,
      clash: clashes.includes(pointer),
    };
  });
}

export function ConflictWindow({
  conflict: { stale },
  onTheirs,
  onMine,
}: {
  conflict: Conflict;
  onTheirs: () => void;
  onMine: () => void;
}) {
  const { changes, mine = [], clashes = [], savedBy, revision } = stale;
  return (
    <Window title={`${savedBy} saved revision ${revision} while you worked`} open onClose={onTheirs} wide>
      <div className="flex flex-col gap-3">
        <p>
          Your change was not saved.{' '}
          {clashes.length === 0
            ? 'It meets nothing of what they changed, so it can be put on top.'
            : 'Both of you changed the same place: choose whose value holds.'}
        </p>
        <DataTable
          label="What both changed"
          rows={rowsOf(changes, mine, clashes)}
          rowKey={({ what }) => what}
          columns={[
            {
              head: 'what',
              cell: ({ what, clash }) =>
                clash ? (
                  <>
                    {what} <Badge tone="bad">both</Badge>
                  </>
                ) : (
                  what
                ),
            },
            { head: 'before', cell: ({ before }) => shown(before) },
            { head: 'theirs', cell: ({ theirs }) => shown(theirs) },
            { head: 'yours', cell: ({ mine: own }) => shown(own) },
          ]}
        />
        <span className="flex gap-2">
          <Button look="primary" onClick={onMine}>
            Put mine on top
          </Button>
          <Button onClick={onTheirs}>Keep theirs</Button>
        </span>
      </div>
    </Window>
  );
}
