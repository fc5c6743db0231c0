/** The draft's revisions: who, when, why, what each changed, and the way back to any. */
import { useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { client, useDraft } from '../api.js';
import { useEdits } from '../parts/edits.js';
import { Badge, Button, DataTable, Sheet, Waiting, instantWords } from '../parts/ui.js';
import { Ask } from '../parts/Ask.js';

export function DraftHistory({ zone }: { zone: string }) {
  const edits = useEdits();
  const queries = useQueryClient();
  const current = useDraft().data?.revision ?? 0;
  const [shown, setShown] = useState(10);
  const revisions = useQuery({
    queryKey: ['revisions', current, edits.saved, shown],
    queryFn: () => client.call('GET /draft/revisions', { query: { limit: shown } }),
  }).data;
  const [open, setOpen] = useState<number | null>(null);
  const one = useQuery({
    queryKey: ['revision', open],
    queryFn: () => client.call('GET /draft/revisions/{revision}', { params: { revision: open! } }),
    enabled: open !== null,
    staleTime: Infinity,
  });
  return (
    <Sheet title="History of the draft">
      {!revisions ? (
        <Waiting />
      ) : (
        <DataTable
          label="History of the draft"
          rows={revisions.items}
          rowKey={({ revision }) => String(revision)}
          columns={[
            { head: 'revision', cell: ({ revision }) => <strong>{revision}</strong> },
            { head: 'when', cell: ({ savedMs }) => instantWords(savedMs, zone) },
            { head: 'by', cell: ({ savedBy }) => savedBy },
            {
              head: 'what',
              cell: ({ revision, why }) => (
                <>
                  {why}
                  {open === revision && (
                    <ul className="list-disc pl-5 text-sm">
                      {one.data?.changes.slice(0, 40).map(({ pointer, words }) => (
                        <li key={pointer}>{words}</li>
                      ))}
                      {one.data?.changes.length === 0 && <li>nothing changed</li>}
                      {(one.data?.changes.length ?? 0) > 40 && <li>and {one.data!.changes.length - 40} more</li>}
                    </ul>
                  )}
                </>
              ),
            },
            {
              head: '',
              right: true,
              cell: ({ revision }) => (
                <span className="flex justify-end gap-2">
                  <Button
                    className="py-0"
                    aria-expanded={open === revision}
                    onClick={() => setOpen(open === revision ? null : revision)}
                  >
                    What changed in {revision}
                  </Button>
                  {revision === current ? (
                    <Badge tone="good">the draft</Badge>
                  ) : (
                    <Ask
                      label={`Back to ${revision}`}
                      title={`Bring the draft back to revision ${revision}?`}
                      does={`It is saved anew as revision ${current + 1}, so nothing of the history is lost.`}
                      yes={`Back to revision ${revision}`}
                      act={() =>
                        client
                          .call('POST /draft/undo', { body: { to: revision }, revision: current })
                          .then(() => queries.invalidateQueries({ queryKey: ['draft'] }))
                      }
                    />
                  )}
                </span>
              ),
            },
          ]}
        />
      )}
      {revisions?.next && (
        <Button className="mt-2" onClick={() => setShown(shown + 20)}>
          Show older ones
        </Button>
      )}
    </Sheet>
  );
}
