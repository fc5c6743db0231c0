/** The names of the columns; a click sorts. */
import type { Header } from '@tanstack/react-table';
import type { GridColumn, GridRow } from './columns.js';

const SORTS = {
  asc: { aria: 'ascending', mark: ' ↑' },
  desc: { aria: 'descending', mark: ' ↓' },
  none: { aria: 'none', mark: '' },
} as const;

export function GridHead({
  headers,
  columns,
}: {
  headers: readonly Header<GridRow, unknown>[];
  columns: readonly GridColumn[];
}) {
  return (
    <thead className="sticky top-0 z-10 bg-sunk">
      <tr aria-rowindex={1}>
        {headers.map((header) => {
          const column = columns[Number(header.id)]!;
          const { aria, mark } = SORTS[header.column.getIsSorted() || 'none'];
          return (
            <th
              key={header.id}
              scope="col"
              aria-sort={aria}
              className={`truncate border-b border-line px-2 py-1 text-sm text-soft ${column.right ? 'text-right' : 'text-left'}`}
            >
              <button
                type="button"
                onClick={header.column.getToggleSortingHandler()}
                className="font-semibold"
                title={column.help}
                aria-label={`Sort by ${column.head}`}
              >
                {column.head}
                {mark}
              </button>
            </th>
          );
        })}
      </tr>
    </thead>
  );
}
