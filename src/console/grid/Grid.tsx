/** A grid that edits like a spreadsheet: arrows move, typing edits, Enter and Tab keep, Escape drops. */
import {
  flexRender,
  getCoreRowModel,
  getFilteredRowModel,
  getSortedRowModel,
  useReactTable,
} from '@tanstack/react-table';
import type { ColumnDef, SortingState } from '@tanstack/react-table';
import { useMemo, useRef, useState } from 'react';
import type { KeyboardEvent } from 'react';
import type { Finding } from '../../core/audit/index.js';
import { SEVERITY_TONE } from '../parts/findings.js';
import { Badge, Hint } from '../parts/ui.js';
import type { GridColumn, GridRow } from './columns.js';

export interface CellEdit {
  row: GridRow;
  column: GridColumn;
  text: string;
}

interface Props {
  label: string;
  columns: readonly GridColumn[];
  rows: GridRow[];
  filter: string;
  findings: readonly Finding[];
  /** Gives a problem to show beside the cell, or nothing when the edit is on its way. */
  onEdit(edit: CellEdit): string | undefined;
  onUndo(): void;
}

interface At {
  row: number;
  column: number;
}
interface Editing extends At {
  text: string;
  problem?: string;
}

export function Grid({ label, columns, rows, filter, findings, onEdit, onUndo }: Props) {
  const [sorting, setSorting] = useState<SortingState>([]);
  const [at, setAt] = useState<At>({ row: 0, column: 0 });
  const [editing, setEditing] = useState<Editing | null>(null);
  const body = useRef<HTMLTableSectionElement>(null);
  const definitions = useMemo<ColumnDef<GridRow>[]>(
    () =>
      columns.map((column, index) => ({
        id: String(index),
        header: column.head,
        accessorFn: (row) => column.read(row),
        size: column.width,
      })),
    [columns],
  );
  // The table's functions change with its state on purpose; nothing here memoises them.
  // eslint-disable-next-line react-hooks/incompatible-library
  const table = useReactTable({
    data: rows,
    columns: definitions,
    state: { sorting, globalFilter: filter },
    onSortingChange: setSorting,
    globalFilterFn: 'includesString',
    getCoreRowModel: getCoreRowModel(),
    getSortedRowModel: getSortedRowModel(),
    getFilteredRowModel: getFilteredRowModel(),
  });
  const shown = table.getRowModel().rows;

  const focus = (next: At) => {
    const place = {
      row: Math.max(0, Math.min(shown.length - 1, next.row)),
      column: Math.max(0, Math.min(columns.length - 1, next.column)),
    };
    setAt(place);
    setEditing(null);
    body.current?.querySelector<HTMLElement>(`[data-at="${place.row}-${place.column}"]`)?.focus();
  };
  const begin = (place: At, text: string) => {
    if (columns[place.column]!.parse) setEditing({ ...place, text });
  };
  const keep = (edit: Editing, next: At) => {
    const problem = onEdit({ row: shown[edit.row]!.original, column: columns[edit.column]!, text: edit.text });
    if (problem === undefined) focus(next);
    else setEditing({ ...edit, problem });
  };
  const onCellKey = (event: KeyboardEvent, place: At) => {
    const step = MOVES[event.key];
    if ((event.ctrlKey || event.metaKey) && event.key === 'z') {
      event.preventDefault();
      onUndo();
      return;
    }
    if (step) {
      event.preventDefault();
      focus({ row: place.row + step.row, column: place.column + step.column });
      return;
    }
    const current = columns[place.column]!.read(shown[place.row]!.original);
    if (event.key === 'Enter' || event.key === 'F2') {
      event.preventDefault();
      begin(place, current);
      return;
    }
    if (event.key === 'Delete' || event.key === 'Backspace') {
      event.preventDefault();
      begin(place, '');
      return;
    }
    if (event.key.length === 1 && !event.ctrlKey && !event.metaKey && !event.altKey) {
      event.preventDefault();
      begin(place, event.key);
    }
  };

  return (
    <div className="max-h-[calc(100vh-220px)] overflow-auto rounded-sheet border border-line bg-sheet">
      <table
        role="grid"
        aria-label={label}
        aria-rowcount={shown.length + 1}
        className="border-collapse text-[0.93rem]"
        style={{ width: table.getTotalSize() }}
      >
        <thead className="sticky top-0 z-10 bg-sunk">
          {table.getHeaderGroups().map((group) => (
            <tr key={group.id}>
              {group.headers.map((header) => {
                const sorted = header.column.getIsSorted();
                return (
                  <th
                    key={header.id}
                    scope="col"
                    aria-sort={sorted === 'asc' ? 'ascending' : sorted === 'desc' ? 'descending' : 'none'}
                    style={{ width: header.getSize() }}
                    className={`border-b border-line px-2 py-1 text-sm text-soft ${columns[Number(header.id)]!.right ? 'text-right' : 'text-left'}`}
                  >
                    <button
                      type="button"
                      onClick={header.column.getToggleSortingHandler()}
                      className="font-semibold"
                      aria-label={`Sort by ${columns[Number(header.id)]!.head || 'picture'}`}
                    >
                      {flexRender(header.column.columnDef.header, header.getContext())}
                      {sorted === 'asc' ? ' ↑' : sorted === 'desc' ? ' ↓' : ''}
                    </button>
                  </th>
                );
              })}
            </tr>
          ))}
        </thead>
        <tbody ref={body}>
          {shown.map((row, rowIndex) => (
            <tr key={row.original.pointer} className="border-b border-line/50">
              {columns.map((column, columnIndex) => {
                const place = { row: rowIndex, column: columnIndex };
                const isEditing = editing?.row === rowIndex && editing.column === columnIndex;
                const text = column.read(row.original);
                const found = cellFindings(findings, row.original, column, columnIndex);
                return (
                  <td
                    key={columnIndex}
                    role="gridcell"
                    data-at={`${rowIndex}-${columnIndex}`}
                    tabIndex={at.row === rowIndex && at.column === columnIndex ? 0 : -1}
                    aria-readonly={column.parse === undefined}
                    aria-label={`${row.original.id}, ${column.head || 'picture'}: ${text || 'empty'}`}
                    onFocus={() => setAt(place)}
                    onDoubleClick={() => begin(place, text)}
                    onKeyDown={(event) => {
                      if (!isEditing) onCellKey(event, place);
                    }}
                    className={`relative h-8 max-w-96 px-2 ${isEditing ? 'overflow-visible' : 'truncate'} ${column.right ? 'text-right' : ''} ${column.parse ? '' : 'text-soft'} ${found.length > 0 ? 'bg-tint-brick' : ''} focus:outline-2 focus:-outline-offset-2 focus:outline-copper`}
                  >
                    {isEditing ? (
                      <CellInput
                        editing={editing}
                        onChange={(value) => setEditing({ ...place, text: value })}
                        onDrop={() => focus(place)}
                        onKeep={(step) =>
                          keep(editing, { row: rowIndex + step.row, column: columnIndex + step.column })
                        }
                      />
                    ) : (
                      <>
                        {found.length > 0 && <FindingMark findings={found} />}
                        {text}
                      </>
                    )}
                  </td>
                );
              })}
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}

const MOVES: Record<string, At> = {
  ArrowUp: { row: -1, column: 0 },
  ArrowDown: { row: 1, column: 0 },
  ArrowLeft: { row: 0, column: -1 },
  ArrowRight: { row: 0, column: 1 },
};

function CellInput({
  editing,
  onChange,
  onDrop,
  onKeep,
}: {
  editing: Editing;
  onChange: (text: string) => void;
  onDrop: () => void;
  onKeep: (step: At) => void;
}) {
  // Moving on takes the focus away, and leaving the cell keeps its text too: it must be kept once only.
  const left = useRef(false);
  const leave = (how: () => void) => {
    left.current = true;
    how();
  };
  const onKey = (event: KeyboardEvent) => {
    event.stopPropagation();
    if (event.key === 'Escape') leave(onDrop);
    if (event.key === 'Enter') leave(() => onKeep({ row: 1, column: 0 }));
    if (event.key === 'Tab') {
      event.preventDefault();
      leave(() => onKeep({ row: 0, column: event.shiftKey ? -1 : 1 }));
    }
  };
  return (
    <>
      <input
        autoFocus
        aria-label="Cell"
        aria-invalid={editing.problem !== undefined}
        value={editing.text}
        onChange={(event) => {
          left.current = false;
          onChange(event.target.value);
        }}
        onKeyDown={onKey}
        onBlur={() => {
          if (!left.current && editing.problem === undefined) onKeep({ row: 0, column: 0 });
        }}
        className="absolute inset-0 z-20 w-full min-w-44 bg-paper px-2 outline-2 outline-copper"
      />
      {editing.problem !== undefined && (
        <span
          role="alert"
          className="absolute top-8 left-0 z-30 w-72 rounded-tag bg-brick px-2 py-1 text-left text-sm whitespace-normal text-paper"
        >
          {editing.problem}
        </span>
      )}
    </>
  );
}

/** Findings about this very cell; those about the row as a whole stand at its first cell. */
function cellFindings(findings: readonly Finding[], row: GridRow, column: GridColumn, index: number): Finding[] {
  return findings.filter(({ pointer }) => {
    if (pointer !== row.pointer && !pointer.startsWith(`${row.pointer}/`)) return false;
    const field = pointer.slice(row.pointer.length + 1).split('/')[0] ?? '';
    return field === '' ? index === 0 : field === column.field;
  });
}

function FindingMark({ findings }: { findings: readonly Finding[] }) {
  return (
    <Hint
      text={findings.map(({ code, message, fix }) => (
        <p key={code}>
          {message}. {fix}
        </p>
      ))}
    >
      <button
        type="button"
        tabIndex={-1}
        className="mr-1"
        aria-label={findings.map(({ message }) => message).join('; ')}
      >
        <Badge tone={SEVERITY_TONE[findings[0]!.severity]}>!</Badge>
      </button>
    </Hint>
  );
}
