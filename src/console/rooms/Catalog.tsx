/** Catalog: items, currencies, offers and loot entries in a grid that saves each change to the draft. */
import { Tabs } from 'radix-ui';
import type { SortingState } from '@tanstack/react-table';
import { useMemo, useState } from 'react';
import type { EconomyDocument } from '../../core/document/index.js';
import { CATALOG_SHEETS, SECTION_SHEETS } from '../../core/catalog/sheet.js';
import type { FormulaValue, SheetName } from '../../core/catalog/index.js';
import { useAudit, useDraft, usePlayers, useSchema, useValues } from '../api.js';
import { amountText, documentLabels } from '../../core/texts/amounts.js';
import { ThingPanel } from '../catalog/ThingPanel.js';
import { NewThing } from '../catalog/NewThing.js';
import { Reprice } from '../catalog/Reprice.js';
import { SavedViews } from '../catalog/SavedViews.js';
import { SheetWindow } from '../catalog/SheetWindow.js';
import { Texts } from '../catalog/Texts.js';
import { Grid } from '../grid/Grid.js';
import type { CellEdit } from '../grid/Grid.js';
import { cellsRead } from '../grid/cellsRead.js';
import { GRIDS } from '../grid/columns.js';
import type { GridRow } from '../grid/columns.js';
import { BESIDE } from '../parts/Panel.js';
import { EditBar } from '../parts/EditBar.js';
import { useEdits } from '../parts/edits.js';
import { useJustMade } from '../parts/justMade.js';
import { useParam, useSetParams } from '../parts/search.js';
import { Badge, Button, Choice, Empty, Input, Problem, Waiting } from '../parts/ui.js';

/** The tab that is no sheet. */
const TEXTS = 'texts' as const;
const NOBODY = '(no values)';
const sheetOf = (view: string): SheetName => CATALOG_SHEETS.find((name) => name === view) ?? 'items';

/** `worth` up, `-worth` down. */
const sortingOf = (sort: string, heads: readonly string[]): SortingState => {
  const index = heads.indexOf(sort.replace(/^-/, ''));
  return index < 0 ? [] : [{ id: String(index), desc: sort.startsWith('-') }];
};

export default function Catalog() {
  const [viewParam] = useParam('view', 'items');
  const isTexts = viewParam === TEXTS;
  const view = sheetOf(viewParam);
  const [filter, setFilter] = useParam('find', '');
  const [sort, setSort] = useParam('sort', '');
  const [extra, setExtra] = useParam('columns', '');
  const [open, setOpen] = useParam('open', '');
  const { fresh, made } = useJustMade(open, setOpen);
  const [player, setPlayer] = useParam('values', NOBODY);
  const setParams = useSetParams();
  const [selected, setSelected] = useState<GridRow[]>([]);
  const [refused, setRefused] = useState<unknown>(null);
  const [window, setWindow] = useParam('window', '');
  const document = useDraft().data?.document;
  const schema = useSchema().data;
  const findings = useAudit().data?.findings ?? [];
  const edits = useEdits();
  const values = useFormulaValues(player === NOBODY ? '' : player, document);
  const grid = GRIDS[view];
  const rows = useMemo(() => (document ? grid.rows(document) : []), [grid, document]);
  const columns = useMemo(
    () =>
      document && schema ? grid.columns(document, schema).filter((column) => extra === 'all' || !column.extra) : [],
    [grid, document, schema, extra],
  );
  if (!document || !schema) return <Waiting />;
  const edit = (cells: CellEdit[]): string | undefined => {
    const read = cellsRead(cells);
    if (!read.ok) return read.problem;
    if (read.operations.length > 0) edits.apply({ operations: read.operations });
    return undefined;
  };
  // One after the other: each is refused for itself while something refers to it.
  const remove = (gone: GridRow[]) => {
    setRefused(null);
    const next = (index: number): Promise<unknown> =>
      index < gone.length
        ? edits.run({ kind: 'remove', pointer: gone[index]!.pointer }).then(() => next(index + 1))
        : Promise.resolve();
    next(0).catch(setRefused);
  };
  const heads = columns.map(({ head }) => head);
  const section = SECTION_SHEETS.find((name) => name === view);
  return (
    <Tabs.Root
      value={isTexts ? TEXTS : view}
      onValueChange={(next) => {
        setSelected([]);
        setParams({ view: next === 'items' ? '' : next, sort: '', open: '' });
      }}
      className="flex flex-col gap-2"
    >
      <div className="flex flex-wrap items-center gap-2">
        <h1 className="mr-1 text-2xl">Catalog</h1>
        <Tabs.List aria-label="What to edit" className="flex gap-1">
          {[...CATALOG_SHEETS, TEXTS].map((key) => (
            <Tabs.Trigger
              key={key}
              value={key}
              className="rounded-tag border border-line bg-sheet px-3 py-0.5 font-semibold data-[state=active]:bg-ink data-[state=active]:text-paper"
            >
              {key === TEXTS ? 'Texts' : GRIDS[key].name}
            </Tabs.Trigger>
          ))}
        </Tabs.List>
        <Input
          aria-label="Find"
          placeholder="Find ..."
          className="w-40"
          value={filter}
          onChange={(event) => setFilter(event.target.value)}
        />
        <SavedViews />
        <EditBar {...(isTexts ? {} : { what: `${rows.length} ${rows.length === 1 ? 'row' : 'rows'}` })} />
      </div>
      {isTexts && <Texts document={document} find={filter} />}
      <div className={`flex flex-wrap items-center gap-2 ${isTexts ? 'hidden' : ''}`}>
        {section && <NewThing section={section} document={document} onMade={made} />}
        <SheetWindow sheet={view} />
        {(view === 'items' || view === 'offers') && <Button onClick={() => setWindow('reprice')}>Reprice ...</Button>}
        <Button aria-pressed={extra === 'all'} onClick={() => setExtra(extra === 'all' ? '' : 'all')}>
          {extra === 'all' ? 'Fewer columns' : 'All columns'}
        </Button>
        {(view === 'offers' || view === 'loot') && <ValuesFor player={player} onPick={setPlayer} />}
        {section && selected.length === 1 && (
          <Button onClick={() => setOpen(selected[0]!.pointer)}>Open {selected[0]!.id}</Button>
        )}
        {selected.length > 1 && <span className="text-sm text-soft">{selected.length} rows selected</span>}
      </div>
      <Problem error={refused} />
      <Tabs.Content value={view} className={BESIDE}>
        <div className="min-w-0 flex-1">
          {rows.length === 0 ? (
            <Empty>
              Nothing here yet. Add something above, paste from a spreadsheet, or push an economy folder: dimestall push
              FOLDER.
            </Empty>
          ) : (
            <Grid
              key={view}
              label={grid.name}
              columns={columns}
              rows={rows}
              filter={filter}
              findings={findings}
              sorting={sortingOf(sort, heads)}
              onSorting={([one]) => setSort(one ? `${one.desc ? '-' : ''}${heads[Number(one.id)]}` : '')}
              values={values}
              open={open}
              onOpen={setOpen}
              onEdit={edit}
              refused={edits.refused}
              onTakeBack={edits.forget}
              onSelect={setSelected}
              onRemove={remove}
            />
          )}
          <p className="mt-1 text-sm text-soft">
            Type to edit; Shift and arrows select, Ctrl+C and Ctrl+V copy and paste, Ctrl+D fills down, Delete on an id
            takes the row away, Ctrl+Z undoes. Prices read <code>900 shells; 2 pearls</code>, alternatives{' '}
            <code>12 pearls | 2600 shells</code>, formulas <code>=60 * 1.15 ^ owned(wind_chime) shells</code>.{' '}
            <Badge tone="bad">!</Badge> marks a finding.
          </p>
        </div>
        {section && open !== '' && (
          <ThingPanel pointer={open} document={document} fresh={fresh} onOpen={setOpen} onMade={made} />
        )}
      </Tabs.Content>
      {window === 'reprice' && <Reprice document={document} selected={selected} onClose={() => setWindow('')} />}
    </Tabs.Root>
  );
}

function ValuesFor({ player, onPick }: { player: string; onPick: (player: string) => void }) {
  const players = usePlayers().data?.items ?? [];
  return (
    <Choice
      label="Formula values for"
      value={player}
      options={[
        { value: NOBODY, label: 'formulas only' },
        ...players.map(({ id, name }) => ({ value: id, label: `values for ${name}` })),
      ]}
      onChange={onPick}
    />
  );
}

/** What formulas come to for a player, as text by pointer. */
function useFormulaValues(
  player: string,
  document: EconomyDocument | undefined,
): ReadonlyMap<string, string> | undefined {
  const { data } = useValues(player);
  return useMemo(() => {
    if (!data || player === '') return undefined;
    const labels = documentLabels(document);
    const words = ({ value, problem, pointer }: FormulaValue): string => {
      if (typeof value !== 'number') return value === null ? `fails: ${problem}` : value ? 'yes' : 'no';
      const asset = pointer.split('/').at(-1)!;
      return amountText(labels, asset, value);
    };
    return new Map(data.values.map((value) => [value.pointer, words(value)]));
  }, [data, player, document]);
}
