/** Loot: tables with their entries, and the exact odds that follow, while weights are being edited. */
import { keepPreviousData, useQuery } from '@tanstack/react-query';
import { Suspense, lazy, useMemo, useState } from 'react';
import type { EconomyDocument } from '../../core/document/index.js';
import type { LootOdds, OpeningsNeeded } from '../../core/loot/index.js';
import { CELLS } from '../../core/catalog/cell.js';
import { client, useAudit, useSchema, useDraft } from '../api.js';
import { documentLabels } from '../../core/texts/amounts.js';
import { Grid } from '../grid/Grid.js';
import type { CellEdit } from '../grid/Grid.js';
import { cellsRead } from '../grid/cellsRead.js';
import { Many } from '../fields/Many.js';
import { GRIDS } from '../grid/columns.js';
import { AddByName } from '../parts/AddByName.js';
import { CopyAndDelete, UsedIn } from '../parts/about.js';
import { Picks } from '../parts/Picks.js';
import { EditBar } from '../parts/EditBar.js';
import { useEdits } from '../parts/edits.js';
import { addOperations } from '../parts/step.js';
import { SchemaForm } from '../parts/SchemaForm.js';
import { useJustMade } from '../parts/justMade.js';
import { useParam } from '../parts/search.js';
import { Badge, DataTable, Empty, Problem, Sheet, Waiting } from '../parts/ui.js';

/** The chart's package is the heaviest part of the room: tables and odds do not wait for it. */
const OpeningsChart = lazy(async () => ({ default: (await import('../charts/OpeningsChart.js')).OpeningsChart }));

const percent = (share: number): string => `${Number((share * 100).toPrecision(4))} %`;

export default function Loot() {
  const document = useDraft().data?.document;
  const tables = Object.entries(document?.loot ?? {});
  const [table, setTable] = useParam('table', tables[0]?.[0] ?? '');
  const { fresh, made } = useJustMade(table, setTable);
  const edits = useEdits();
  if (!document) return <Waiting />;
  const chosen = document.loot?.[table];
  return (
    <div className="flex flex-col gap-3">
      <div className="flex flex-wrap items-center gap-2">
        <h1 className="mr-1 text-2xl">Loot</h1>
        <Picks
          label="Loot tables"
          all={tables.map(([id, { name }]) => ({ id, name }))}
          picked={table}
          onPick={setTable}
        />
        <AddByName
          what="table"
          taken={(id) => document.loot?.[id] !== undefined}
          onAdd={(id, name) => {
            edits.apply({
              operations: addOperations(document, 'loot', id, { name, entries: { nothing: { weight: 1 } } }),
            });
            made(id);
          }}
        />
        <EditBar />
      </div>
      {chosen ? (
        <Table key={table} id={table} document={document} fresh={fresh} onGone={() => setTable('')} onMade={made} />
      ) : (
        <Empty>There is no loot table yet. Add one above: what a box draws from, or what an event may bring.</Empty>
      )}
    </div>
  );
}

function Table({
  id,
  document,
  fresh,
  onGone,
  onMade,
}: {
  id: string;
  document: EconomyDocument;
  fresh: boolean;
  onGone: () => void;
  onMade: (id: string) => void;
}) {
  const pointer = `/loot/${id}`;
  const table = document.loot![id]!;
  const edits = useEdits();
  const findings = useAudit().data?.findings ?? [];
  const [typing, setTyping] = useState<CellEdit | null>(null);
  const rows = useMemo(() => GRIDS.loot.rows(document).filter(({ keys }) => keys[0] === id), [document, id]);
  const schema = useSchema().data;
  const columns = useMemo(
    () => (schema ? GRIDS.loot.columns(document, schema).filter(({ head }) => head !== 'loot') : []),
    [document, schema],
  );
  const [wanted, setWanted] = useParam('together', '');
  const together = useMemo(() => (wanted === '' ? [] : wanted.split(';')), [wanted]);
  const odds = useOdds(id, document, typing, together);
  const edit = (cells: CellEdit[]): string | undefined => {
    const read = cellsRead(cells);
    if (!read.ok) return read.problem;
    if (read.operations.length > 0) edits.apply({ operations: read.operations });
    return undefined;
  };
  return (
    <div className="flex items-start gap-3 max-lg:flex-col max-lg:items-stretch">
      <div className="flex min-w-0 flex-1 flex-col gap-3">
        <Sheet
          title="Entries"
          actions={
            <AddByName
              what="entry"
              taken={(entry) => table.entries[entry] !== undefined}
              onAdd={(entry) =>
                edits.apply({
                  operations: [{ op: 'add', path: `${pointer}/entries/${entry}`, value: { weight: 1 } }],
                })
              }
            />
          }
        >
          <Grid
            label="Entries"
            height="300px"
            columns={columns}
            rows={rows}
            filter=""
            findings={findings}
            sorting={[]}
            onSorting={() => undefined}
            onEdit={edit}
            refused={edits.refused}
            onTakeBack={edits.forget}
            onTyping={setTyping}
            onRemove={(gone) =>
              edits.apply({
                operations: gone.map(({ pointer: path }) => ({ op: 'remove', path })),
              })
            }
          />
        </Sheet>
        <Problem error={odds.error} />
        {odds.data && (
          <Odds
            odds={odds.data}
            document={document}
            live={typing !== null}
            together={together}
            onTogether={(assets) => setWanted(assets.join(';'))}
          />
        )}
      </div>
      <Sheet title={table.name} className="w-80 shrink-0 max-lg:w-full">
        <div className="flex flex-col gap-3">
          <CopyAndDelete
            pointer={pointer}
            name={table.name}
            onGone={onGone}
            onMade={(made) => onMade(made.split('/').at(-1)!)}
          />
          <SchemaForm pointer={pointer} value={table} fresh={fresh} />
          <UsedIn kind="loot" id={id} />
        </div>
      </Sheet>
    </div>
  );
}

/** The odds of the draft; while a weight is typed, those that it would make. */
function useOdds(id: string, document: EconomyDocument, typing: CellEdit | null, together: readonly string[]) {
  const read = typing && typing.column.field === 'weight' ? CELLS.number.read(typing.text) : undefined;
  const set =
    read?.ok && typeof read.value === 'number' ? { [`${typing!.row.pointer}/weight`]: read.value } : undefined;
  return useQuery({
    queryKey: ['odds', id, document.loot, set, together],
    queryFn: () =>
      client.call('POST /odds', {
        body: {
          id,
          source: 'draft',
          ...(set ? { set } : {}),
          ...(together.length > 0 ? { together: [...together] } : {}),
        },
      }),
    placeholderData: keepPreviousData,
    retry: false,
  });
}

/** The mean number of openings. */
const meanText = ({ mean }: OpeningsNeeded): string => (mean === null ? 'never' : String(Number(mean.toPrecision(4))));

/** "12.5 openings on average; 50 % after 10, 90 % after 22, 99 % after 40". */
function togetherText(needed: OpeningsNeeded): string {
  const [half, nine, most] = [needed.half, needed.nine, needed.most].map((openings) => openings ?? 'never');
  return `${meanText(needed)} openings on average; 50 % after ${half}, 90 % after ${nine}, 99 % after ${most}`;
}

function Odds({
  odds,
  document,
  live,
  together,
  onTogether,
}: {
  odds: LootOdds;
  document: EconomyDocument;
  live: boolean;
  together: readonly string[];
  onTogether: (assets: readonly string[]) => void;
}) {
  const labels = documentLabels(document);
  const amount = (asset: string, units: number) =>
    Number((units / 10 ** (labels(asset)?.decimals ?? 0)).toPrecision(5)).toLocaleString('en');
  const longRun = odds.guarantee !== null || odds.once.length > 0;
  return (
    <Sheet
      title="Odds of one opening"
      actions={
        <>
          {live && <Badge tone="care">as typed, not saved yet</Badge>}
          <span className="text-sm text-soft">nothing at all: {percent(odds.nothing)}</span>
        </>
      }
    >
      <div className="flex items-start gap-4">
        <div className="min-w-0 flex-1">
          <DataTable
            label="Odds"
            rows={odds.assets}
            rowKey={({ asset }) => asset}
            columns={[
              { head: 'asset', cell: ({ asset }) => labels(asset)?.name ?? asset },
              { head: 'chance', right: true, cell: ({ chance }) => percent(chance) },
              { head: 'expected', right: true, cell: ({ asset, expected }) => amount(asset, expected) },
              ...(longRun
                ? [
                    {
                      head: 'long-run chance',
                      right: true,
                      cell: ({ longRunChance }: LootOdds['assets'][number]) => percent(longRunChance),
                    },
                  ]
                : []),
              { head: 'openings', right: true, cell: ({ openings }) => meanText(openings) },
              { head: '50 % after', right: true, cell: ({ openings }) => openings.half ?? 'never' },
              { head: '90 %', right: true, cell: ({ openings }) => openings.nine ?? 'never' },
              { head: '99 %', right: true, cell: ({ openings }) => openings.most ?? 'never' },
            ]}
          />
          <div className="mt-2 flex flex-col gap-1">
            <Many
              label="Until all of these are had"
              help="Exactly, for up to ten things."
              options={odds.assets.map(({ asset }) => ({ id: asset, label: labels(asset)?.name ?? asset, hint: '' }))}
              word="thing"
              value={together}
              onKeep={(next) => onTogether(next ?? [])}
            />
            {odds.together && <p role="status">{togetherText(odds.together)}</p>}
          </div>
          {odds.once.length > 0 && (
            <p className="mt-1 text-sm text-soft">
              {odds.once.join(', ')}: once for each player; the long run is of the openings after that.
            </p>
          )}
          {odds.guarantee && (
            <p className="mt-1 text-sm text-soft">
              {odds.guarantee.entry} comes at the latest in opening {odds.guarantee.within} without it; the long run
              counts that.
            </p>
          )}
        </div>
        <div className="w-[370px] shrink-0">
          <Suspense fallback={<Waiting />}>
            <OpeningsChart odds={odds} nameOf={(asset) => labels(asset)?.name ?? asset} />
          </Suspense>
        </div>
      </div>
    </Sheet>
  );
}
