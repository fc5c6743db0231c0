/** A sheet of the draft in a grid: what is typed, pasted, filled or taken away is saved; sorting is in the address. */
import type { SortingState } from '@tanstack/react-table';
import { useMemo, useState } from 'react';
import type { ReactNode } from 'react';
import type { SheetName } from '../../core/catalog/index.js';
import { useAudit, useDraft, useSchema } from '../api.js';
import { useEdits } from '../parts/edits.js';
import { usePlaytime } from '../parts/playtime.js';
import { useParam } from '../parts/search.js';
import { Badge, Problem } from '../parts/ui.js';
import { Grid } from './Grid.js';
import type { CellEdit } from './Grid.js';
import { cellsRead } from './cellsRead.js';
import { GRIDS } from './columns.js';
import { withTimes } from './timeColumns.js';
import type { GridRow } from './columns.js';

/** `worth` up, `-worth` down. */
const sortingOf = (sort: string, heads: readonly string[]): SortingState => {
  const index = heads.indexOf(sort.replace(/^-/, ''));
  return index < 0 ? [] : [{ id: String(index), desc: sort.startsWith('-') }];
};

export function SheetGrid({
  sheet,
  filter,
  all,
  values,
  open,
  onOpen,
  onSelect,
  empty,
}: {
  sheet: SheetName;
  filter: string;
  /** Columns that most do without as well. */
  all: boolean;
  /** What formulas come to, by pointer. */
  values?: ReadonlyMap<string, string> | undefined;
  /** The pointer of the row that is open. */
  open: string;
  onOpen: (pointer: string) => void;
  onSelect: (rows: GridRow[]) => void;
  /** What is said where there is no row. */
  empty: ReactNode;
}) {
  const [sort, setSort] = useParam('sort', '');
  const [refused, setRefused] = useState<unknown>(null);
  const document = useDraft().data?.document;
  const schema = useSchema().data;
  const findings = useAudit().data?.findings ?? [];
  const { playtime } = usePlaytime();
  const edits = useEdits();
  const grid = GRIDS[sheet];
  const rows = useMemo(() => (document ? grid.rows(document) : []), [grid, document]);
  const columns = useMemo(
    () =>
      document && schema
        ? withTimes(
            sheet,
            document,
            grid.columns(document, schema).filter((column) => all || !column.extra),
            playtime,
          )
        : [],
    [sheet, grid, document, schema, all, playtime],
  );
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
  return (
    <div className="min-w-0 flex-1">
      <Problem error={refused} />
      {rows.length === 0 ? (
        empty
      ) : (
        <Grid
          key={sheet}
          label={grid.name}
          columns={columns}
          rows={rows}
          filter={filter}
          findings={findings}
          sorting={sortingOf(sort, heads)}
          onSorting={([one]) => setSort(one ? `${one.desc ? '-' : ''}${heads[Number(one.id)]}` : '')}
          values={values}
          open={open}
          onOpen={onOpen}
          onEdit={edit}
          refused={edits.refused}
          onTakeBack={edits.forget}
          onSelect={onSelect}
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
  );
}
