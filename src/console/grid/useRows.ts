/** The rows in their order as filtered and sorted, and of them those in sight. */
import { getCoreRowModel, getFilteredRowModel, getSortedRowModel, useReactTable } from '@tanstack/react-table';
import type { ColumnDef, SortingFn, SortingState } from '@tanstack/react-table';
import { useVirtualizer } from '@tanstack/react-virtual';
import { useMemo } from 'react';
import type { RefObject } from 'react';
import type { GridColumn, GridRow } from './columns.js';

export const ROW_HEIGHT = 32;

interface Asked {
  rows: GridRow[];
  columns: readonly GridColumn[];
  filter: string;
  sorting: SortingState;
  onSorting(sorting: SortingState): void;
  scroller: RefObject<HTMLDivElement | null>;
}

/** Part after part, the first that differs decides. */
const byParts: SortingFn<GridRow> = (a, b, column) => {
  const [one, other] = [a.getValue<readonly number[]>(column), b.getValue<readonly number[]>(column)];
  const place = one.findIndex((part, at) => part !== other[at]);
  return place < 0 ? 0 : one[place]! - (other[place] ?? 0);
};

export function useRows({ rows, columns, filter, sorting, onSorting, scroller }: Asked) {
  const definitions = useMemo<ColumnDef<GridRow>[]>(
    () =>
      columns.map((column, index) => ({
        id: String(index),
        header: column.head,
        accessorFn: (row) => column.read(row),
        ...(column.order
          ? {
              accessorFn: (row) => column.order!(row),
              sortingFn: byParts,
              sortUndefined: 'last' as const,
              sortDescFirst: false,
            }
          : { sortingFn: column.numeric ? ('alphanumeric' as const) : ('auto' as const) }),
      })),
    [columns],
  );
  // The table's functions change with its state on purpose; nothing here memoises them.
  // oxlint-disable-next-line react/incompatible-library
  const table = useReactTable({
    data: rows,
    columns: definitions,
    state: { sorting, globalFilter: filter },
    onSortingChange: (change) => onSorting(typeof change === 'function' ? change(sorting) : change),
    globalFilterFn: ({ original }, id, sought: string) => {
      const { read, show } = columns[Number(id)]!;
      return `${read(original)} ${show?.(original) ?? ''}`.toLowerCase().includes(sought.toLowerCase());
    },
    getCoreRowModel: getCoreRowModel(),
    getSortedRowModel: getSortedRowModel(),
    getFilteredRowModel: getFilteredRowModel(),
  });
  const shown = table.getRowModel().rows.map(({ original }) => original);
  const virtual = useVirtualizer({
    count: shown.length,
    getScrollElement: () => scroller.current,
    estimateSize: () => ROW_HEIGHT,
    overscan: 8,
    scrollPaddingStart: ROW_HEIGHT,
  });
  const visible = virtual.getVirtualItems();
  return {
    headers: table.getFlatHeaders(),
    shown,
    visible: visible.map(({ index }) => index),
    /** Pixels of the rows that are not drawn. */
    above: visible[0]?.start ?? 0,
    below: virtual.getTotalSize() - (visible.at(-1)?.end ?? 0),
    /** Brings a row into sight; one that is in sight stays where it is. */
    scrollTo: (index: number) => {
      const { scrollTop, clientHeight } = scroller.current!;
      // Below the head, and wholly above the lower edge.
      const from = index * ROW_HEIGHT;
      if (from < scrollTop || from + 2 * ROW_HEIGHT > scrollTop + clientHeight) virtual.scrollToIndex(index);
    },
  };
}
