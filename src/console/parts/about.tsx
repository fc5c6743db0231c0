/** What there is to know and do about one thing: where it is used, where it flows, copying and deleting it. */
import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { Link } from 'react-router';
import type { FlowLine } from '../../core/catalog/index.js';
import type { ThingKind } from '../../core/document/index.js';
import { ApiProblem } from '../../client/index.js';
import { client } from '../api.js';
import { StillAsCopied, copyNoted } from './copies.js';
import { useEdits } from './edits.js';
import { placeLink } from './findings.js';
import { Button, Problem } from './ui.js';

function Lines({
  title,
  lines,
}: {
  title: string;
  lines: readonly { pointer: string; name: string; words: string }[];
}) {
  return (
    <section>
      <h3 className="text-sm font-semibold text-soft">{title}</h3>
      {lines.length === 0 ? (
        <p className="text-sm">nothing</p>
      ) : (
        <ul className="text-sm">
          {lines.map(({ pointer, name, words }) => (
            <li key={pointer + words}>
              <Link
                className="underline decoration-line underline-offset-2 hover:decoration-copper"
                to={placeLink(pointer)}
              >
                {name}
              </Link>
              {words ? `: ${words}` : ''}
            </li>
          ))}
        </ul>
      )}
    </section>
  );
}

export function UsedIn({ kind, id }: { kind: ThingKind; id: string }) {
  // What was just made is not there to be asked about until it is saved.
  const { saving } = useEdits();
  const uses = useQuery({
    enabled: !saving,
    queryKey: ['uses', kind, id],
    queryFn: () => client.call('GET /draft/uses/{kind}/{id}', { params: { kind, id } }),
  });
  if (!uses.data) return null;
  return (
    <Lines title="Used in" lines={uses.data.items.map(({ pointer, words }) => ({ pointer, name: words, words: '' }))} />
  );
}

/** Where a currency or item comes from, where it goes, what it buys. */
export function Flow({ asset }: { asset: string }) {
  const { saving } = useEdits();
  const flow = useQuery({
    enabled: !saving,
    queryKey: ['flow', asset],
    queryFn: () => client.call('GET /flows/{asset}', { params: { asset }, query: { source: 'draft' } }),
  });
  if (!flow.data) return <Problem error={flow.error} />;
  const parts: [string, readonly FlowLine[]][] = [
    ['Comes from', flow.data.sources],
    ['Goes to', flow.data.sinks],
    ['Buys', flow.data.buys],
  ];
  return (
    <div className="flex flex-col gap-2">
      {parts.map(([title, lines]) => (
        <Lines key={title} title={title} lines={lines} />
      ))}
    </div>
  );
}

/** Duplicate and delete. Deleting says what would dangle, and offers to remove that too; both can be undone. */
export function CopyAndDelete({
  pointer,
  name,
  onGone,
  onMade,
}: {
  pointer: string;
  name: string;
  onGone: () => void;
  onMade: (pointer: string) => void;
}) {
  const { run } = useEdits();
  const [error, setError] = useState<unknown>(null);
  const uses = error instanceof ApiProblem ? (error.more('edit-refused')?.uses ?? []) : [];
  const remove = (mend: boolean) =>
    run({ kind: 'remove', pointer, ...(mend ? { mend } : {}) }).then(() => onGone(), setError);
  return (
    <div className="flex flex-col gap-2">
      <span className="flex gap-2">
        <Button
          onClick={() => {
            run({ kind: 'duplicate', pointer }).then(({ made }) => {
              if (made === null) return;
              copyNoted(made, pointer);
              onMade(made);
            }, setError);
          }}
          aria-label={`Duplicate ${name}`}
        >
          Duplicate
        </Button>
        <Button
          onClick={() => {
            void remove(false);
          }}
          aria-label={`Delete ${name}`}
        >
          Delete
        </Button>
      </span>
      <StillAsCopied pointer={pointer} />
      {uses.length > 0 ? (
        <div role="alert" className="rounded-sheet border border-brick bg-tint-brick px-3 py-2 text-sm">
          <p className="font-semibold">{name} is used. Without it these would refer to nothing:</p>
          <ul className="list-disc pl-5">
            {uses.map(({ pointer: at, words, cut }) => (
              <li key={at}>
                {words}
                {cut === null ? ' (a formula: mend it by hand first)' : ''}
              </li>
            ))}
          </ul>
          <span className="mt-2 flex gap-2">
            {uses.every(({ cut }) => cut !== null) && (
              <Button
                onClick={() => {
                  setError(null);
                  void remove(true);
                }}
              >
                Delete it and these
              </Button>
            )}
            <Button onClick={() => setError(null)}>Keep it</Button>
          </span>
        </div>
      ) : (
        <Problem error={error} />
      )}
    </div>
  );
}
