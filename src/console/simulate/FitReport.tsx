/** Personas that were found in a log, how well they tell players who were held out, and the way into the draft. */
import { useState } from 'react';
import { Link } from 'react-router';
import type { EconomyDocument } from '../../core/document/index.js';
import { apartWords, drawRows, figureRows, fitThings, heldWords } from '../../core/fit/report.js';
import type { FigureRow } from '../../core/fit/report.js';
import type { FitResult } from '../../core/fit/index.js';
import { useEdits } from '../parts/edits.js';
import { Badge, Button, DataTable, Sheet } from '../parts/ui.js';
import type { FitRead } from './desk/orders.js';

export function FitReport({
  answer: { result, skipped },
  document,
  name,
}: {
  answer: FitRead;
  document: EconomyDocument;
  /** What the log is called. */
  name: string;
}) {
  const edits = useEdits();
  const [isPut, setPut] = useState(false);
  const { players, events, purchases, days, groups, notes } = result;
  const many = (count: number, one: string): string => `${count.toLocaleString('en')} ${count === 1 ? one : `${one}s`}`;
  return (
    <section aria-label="What was found" className="flex flex-col gap-3">
      <div className="flex flex-wrap items-center gap-3">
        <p>
          {many(players, 'player')}, {many(events, 'event')} and {many(purchases, 'purchase')} in {many(days, 'day')}
          {skipped > 0 && `; ${many(skipped, 'line')} left out`}: <strong>{many(groups.length, 'group')}</strong>
          {apartWords(result)}.
        </p>
        {isPut ? (
          <p role="status">
            In the draft.{' '}
            <Link className="underline" to={`/simulate?scenario=${result.scenario.id}`}>
              Play it on the bench
            </Link>
          </p>
        ) : (
          <Button
            look="primary"
            disabled={edits.saving}
            onClick={() => {
              edits.apply({ operations: operationsOf(document, result), why: `fitted to ${name}`.slice(0, 200) });
              setPut(true);
            }}
          >
            Put into the draft
          </Button>
        )}
      </div>
      {notes.length > 0 && (
        <ul className="list-disc pl-5 text-soft">
          {notes.map((note) => (
            <li key={note}>{note}</li>
          ))}
        </ul>
      )}
      {groups.map((group) => {
        const drawn = drawRows(group);
        return (
          <Sheet key={group.persona} title={group.name}>
            <p className="mb-2">{group.description}</p>
            <div className="grid items-start gap-4 lg:grid-cols-2">
              {group.figures.length > 0 && (
                <div>
                  <h3 className="text-sm font-semibold text-soft">
                    Against {many(group.heldOut, 'player')} held out: {heldWords(group)}
                  </h3>
                  <DataTable<FigureRow>
                    label={`${group.name} against players held out`}
                    rows={figureRows(group)}
                    rowKey={({ figure, of }) => `${figure} ${of}`}
                    columns={[
                      { head: 'figure', cell: ({ figure, of }) => (of === '' ? figure : `${of}: ${figure}`) },
                      { head: 'persona', right: true, cell: ({ persona }) => <strong>{persona}</strong> },
                      { head: 'held out', right: true, cell: ({ heldOut }) => heldOut },
                      { head: '95 %', right: true, cell: ({ interval }) => interval },
                      { head: 'tells it', cell: ({ verdict }) => VERDICTS[verdict] },
                    ]}
                  />
                </div>
              )}
              {drawn.length > 0 && (
                <div>
                  <h3 className="text-sm font-semibold text-soft">What events say</h3>
                  <DataTable
                    label={`${group.name}: what events say`}
                    rows={drawn}
                    rowKey={({ of, field }) => `${of} ${field}`}
                    columns={[
                      { head: 'field', cell: ({ of, field }) => `${of}: ${field}` },
                      { head: 'mean', right: true, cell: ({ mean }) => mean },
                      { head: 'deviation', right: true, cell: ({ deviation }) => deviation },
                      { head: 'drawn from', cell: ({ draw }) => <span className="text-sm">{draw}</span> },
                    ]}
                  />
                </div>
              )}
            </div>
          </Sheet>
        );
      })}
    </section>
  );
}

const VERDICTS: Readonly<Record<FigureRow['verdict'], React.ReactNode>> = {
  holds: <Badge tone="good">✓ holds</Badge>,
  'too much': <Badge tone="care">↑ too much</Badge>,
  'too little': <Badge tone="care">↓ too little</Badge>,
};

/** Things are added one by one, those of the same id replaced; a section that is not there yet is begun. */
function operationsOf(document: EconomyDocument, result: FitResult) {
  const things = fitThings(result);
  return Object.entries(things).flatMap(([section, own]) => {
    const known = document[section as keyof typeof things];
    if (known === undefined && Object.keys(own).length > 0)
      return [{ op: 'add' as const, path: `/${section}`, value: own }];
    return Object.entries(own).map(([id, value]) => ({ op: 'add' as const, path: `/${section}/${id}`, value }));
  });
}
