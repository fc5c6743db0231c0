/** What is in hand becomes the draft: told first, then saved as one step that can be taken back. */
import { useState } from 'react';
import { useEdits } from '../parts/edits.js';
import { focusIfLost } from '../parts/focusBack.js';
import { Button, DataTable, Field, Input, Problem, Waiting } from '../parts/ui.js';
import type { Moved, PlayAsked } from './desk/orders.js';
import { useDeskAnswer } from './useDesk.js';
import type { DeskFor } from './useDesk.js';

const shownValue = (value: unknown): string => (typeof value === 'string' ? value : JSON.stringify(value));

export function PutIntoDraft({
  at,
  asked,
  words,
  onDone,
}: {
  at: DeskFor;
  asked: PlayAsked;
  /** What the note says until it is written anew. */
  words: string;
  onDone: () => void;
}) {
  const edits = useEdits();
  const [note, setNote] = useState(words);
  const moved = useDeskAnswer(at, 'set', asked, ({ desk, document }) => desk.now(document, 'set', asked));
  const put = (rows: readonly Moved[]): void => {
    edits.apply({
      operations: rows.map(({ pointer, after }) => ({ op: 'replace', path: pointer, value: after })),
      why: note.trim() === '' ? words : note.trim(),
    });
    onDone();
  };
  if (moved.error) return <Problem error={moved.error} />;
  if (!moved.data) return <Waiting />;
  if (moved.data.length === 0)
    return (
      // What was pressed is gone with it: the focus stays here.
      <p ref={focusIfLost} tabIndex={-1} className="text-sm text-soft">
        Nothing in hand differs from the draft.
      </p>
    );
  const rows = moved.data;
  return (
    <section aria-label="Put into the draft" className="flex flex-col gap-2 text-sm">
      <DataTable
        label="What would change"
        rows={rows}
        rowKey={({ pointer }) => pointer}
        columns={[
          { head: 'what', cell: (row) => row.words },
          { head: 'now', right: true, cell: ({ before }) => shownValue(before) },
          { head: 'then', right: true, cell: ({ after }) => <strong>{shownValue(after)}</strong> },
        ]}
      />
      <Field label="Note">
        {(id) => <Input id={id} value={note} maxLength={500} onChange={(event) => setNote(event.target.value)} />}
      </Field>
      <Button look="primary" disabled={edits.saving} onClick={() => put(rows)}>
        Put into the draft
      </Button>
    </section>
  );
}
