/** Publish: findings, differences, a note, and the way back. */
import { useMutation, useQueryClient } from '@tanstack/react-query';
import { Dialog } from 'radix-ui';
import { useState } from 'react';
import { client, useAudit, useChanges, useChannels, useDraft, useReleases } from '../api.js';
import { Counts, FindingList } from '../parts/findings.js';
import { Badge, Button, DataTable, Empty, Field, Input, Problem, Sheet, Waiting, instantWords } from '../parts/ui.js';

export default function Publish() {
  const draft = useDraft();
  const audit = useAudit();
  const changes = useChanges();
  const [note, setNote] = useState('');
  const queries = useQueryClient();
  const publish = useMutation({
    mutationFn: () => client.publish(note, { revision: draft.data!.revision }),
    onSuccess: () => {
      setNote('');
      return queries.invalidateQueries();
    },
  });
  if (!draft.data || !audit.data || !changes.data) return <Waiting />;
  const { counts, findings } = audit.data;
  const list = changes.data.changes;
  const blocked =
    counts.error > 0
      ? `${counts.error} ${counts.error === 1 ? 'error stands' : 'errors stand'} against publishing`
      : list.length === 0
        ? 'nothing differs from what is live'
        : note.trim() === ''
          ? 'write a note first'
          : undefined;
  return (
    <div className="flex flex-col gap-3">
      <h1 className="text-2xl">Publish</h1>
      <div className="grid items-start gap-3 lg:grid-cols-2">
        <Sheet title={`What draft ${draft.data.revision} changes`}>
          {list.length === 0 ? (
            <Empty>Nothing differs from what is live.</Empty>
          ) : (
            <ul className="list-disc pl-5">
              {list.map(({ pointer, words }) => (
                <li key={pointer}>{words}</li>
              ))}
            </ul>
          )}
          <form
            className="mt-4 flex flex-col gap-2 border-t border-line pt-3"
            onSubmit={(event) => {
              event.preventDefault();
              if (!blocked) publish.mutate();
            }}
          >
            <Field label="Note: what is this release about?">
              {(id) => <Input id={id} value={note} onChange={(event) => setNote(event.target.value)} />}
            </Field>
            <div className="flex items-center gap-3">
              <Button look="primary" type="submit" disabled={blocked !== undefined || publish.isPending}>
                Publish to live
              </Button>
              {blocked && <span className="text-sm text-soft">{blocked}</span>}
              {publish.data && <Badge tone="good">release {publish.data.number} is live</Badge>}
            </div>
            <Problem error={publish.error} />
          </form>
        </Sheet>
        <Sheet title="Findings" actions={<Counts counts={counts} />}>
          <FindingList findings={findings} />
        </Sheet>
      </div>
      <History zone={draft.data.document.timeZone} />
    </div>
  );
}

function History({ zone }: { zone: string }) {
  const releases = useReleases().data?.items ?? [];
  const live = useChannels().data?.items.find(({ name }) => name === 'live')?.release;
  return (
    <Sheet title="Releases">
      {releases.length === 0 ? (
        <Empty>Nothing was published yet.</Empty>
      ) : (
        <DataTable
          label="Releases"
          rows={releases}
          rowKey={({ number }) => String(number)}
          columns={[
            { head: 'release', cell: ({ number }) => <strong>{number}</strong> },
            { head: 'note', cell: ({ note }) => note },
            { head: 'by', cell: ({ publishedBy }) => publishedBy },
            { head: 'when', cell: ({ publishedMs }) => instantWords(publishedMs, zone) },
            {
              head: 'live',
              cell: ({ number }) => (number === live ? <Badge tone="good">live</Badge> : <GoBack number={number} />),
            },
          ]}
        />
      )}
    </Sheet>
  );
}

/** Pointing live at another release changes what players pay, so it asks first. */
function GoBack({ number }: { number: number }) {
  const queries = useQueryClient();
  const [open, setOpen] = useState(false);
  const point = useMutation({
    mutationFn: () => client.pointChannel('live', number),
    onSuccess: () => {
      setOpen(false);
      return queries.invalidateQueries();
    },
  });
  return (
    <Dialog.Root open={open} onOpenChange={setOpen}>
      <Dialog.Trigger asChild>
        <Button className="py-0">Make live</Button>
      </Dialog.Trigger>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-40 bg-black/40" />
        <Dialog.Content className="fixed top-1/3 left-1/2 z-50 w-96 -translate-x-1/2 rounded-sheet border border-line bg-sheet p-5 shadow-sheet">
          <Dialog.Title className="text-xl">Make release {number} live?</Dialog.Title>
          <Dialog.Description className="my-3">
            Players see its shops and prices from the next moment on. The draft stays as it is.
          </Dialog.Description>
          <Problem error={point.error} />
          <div className="flex justify-end gap-2">
            <Dialog.Close asChild>
              <Button>Leave it</Button>
            </Dialog.Close>
            <Button look="primary" onClick={() => point.mutate()}>
              Make it live
            </Button>
          </div>
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}
