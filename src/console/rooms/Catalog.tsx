/** Catalog: items, currencies, offers and loot entries in a grid that saves each change to the draft. */
import { Tabs } from 'radix-ui';
import { useMemo, useState } from 'react';
import type { EconomyDocument } from '../../core/document/index.js';
import { CATALOG_SHEETS, SECTION_SHEETS } from '../../core/catalog/sheet.js';
import type { FormulaValue, SheetName } from '../../core/catalog/index.js';
import { useDraft, usePlayers, useSchema, useValues } from '../api.js';
import { amountText, documentLabels } from '../../core/texts/amounts.js';
import { ThingPanel } from '../catalog/ThingPanel.js';
import { NewThing } from '../catalog/NewThing.js';
import { Reprice } from '../catalog/Reprice.js';
import { SavedViews } from '../catalog/SavedViews.js';
import { SheetWindow } from '../catalog/SheetWindow.js';
import { Texts } from '../catalog/Texts.js';
import { SheetGrid } from '../grid/SheetGrid.js';
import { GRIDS } from '../grid/columns.js';
import type { GridRow } from '../grid/columns.js';
import { BESIDE } from '../parts/Panel.js';
import { EditBar } from '../parts/EditBar.js';
import { PersonaChoice } from '../parts/playtime.js';
import { useJustMade } from '../parts/justMade.js';
import { useParam, useSetParams } from '../parts/search.js';
import { Button, Choice, Empty, Input, Waiting } from '../parts/ui.js';

/** The tab that is no sheet. */
const TEXTS = 'texts' as const;
/** In the order of the work: what things are paid with comes before them. */
const FIRST = 'currencies' as const;
const TABS = [FIRST, ...CATALOG_SHEETS.filter((name) => name !== FIRST), TEXTS];
const NOBODY = '(no values)';
const sheetOf = (view: string): SheetName => CATALOG_SHEETS.find((name) => name === view) ?? 'items';

export default function Catalog() {
  const [viewParam] = useParam('view', 'items');
  const isTexts = viewParam === TEXTS;
  const view = sheetOf(viewParam);
  const [filter, setFilter] = useParam('find', '');
  const [extra, setExtra] = useParam('columns', '');
  const [open, setOpen] = useParam('open', '');
  const { fresh, made } = useJustMade(open, setOpen);
  const [player, setPlayer] = useParam('values', NOBODY);
  const setParams = useSetParams();
  const [selected, setSelected] = useState<GridRow[]>([]);
  const [window, setWindow] = useParam('window', '');
  const document = useDraft().data?.document;
  const schema = useSchema().data;
  const values = useFormulaValues(player === NOBODY ? '' : player, document);
  const grid = GRIDS[view];
  const rows = useMemo(() => (document ? grid.rows(document) : []), [grid, document]);
  if (!document || !schema) return <Waiting />;
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
        <Tabs.List aria-label="What to edit" className="flex flex-wrap gap-1">
          {TABS.map((key) => (
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
        {(view === 'items' || view === 'offers' || view === 'goals') && <PersonaChoice />}
        {(view === 'offers' || view === 'loot') && <ValuesFor player={player} onPick={setPlayer} />}
        {section && selected.length === 1 && (
          <Button onClick={() => setOpen(selected[0]!.pointer)}>Open {selected[0]!.id}</Button>
        )}
        {selected.length > 1 && <span className="text-sm text-soft">{selected.length} rows selected</span>}
      </div>
      <Tabs.Content value={view} className={BESIDE}>
        <SheetGrid
          sheet={view}
          filter={filter}
          all={extra === 'all'}
          values={values}
          open={open}
          onOpen={setOpen}
          onSelect={setSelected}
          empty={
            <Empty>
              Nothing here yet. Add something above, paste from a spreadsheet, or push an economy folder: dimestall push
              FOLDER.
            </Empty>
          }
        />
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
