/**
 * A grid that edits like a spreadsheet: arrows move, Shift extends, typing edits, Enter and Tab keep, Escape drops;
 * ranges are copied, pasted, filled down and cleared. Only the rows in sight are drawn.
 */
import { getCoreRowModel, getFilteredRowModel, getSortedRowModel, useReactTable } from '@tanstack/react-table';
import type { ColumnDef, SortingState } from '@tanstack/react-table';
import { useVirtualizer } from '@tanstack/react-virtual';
import { parse } from 'csv-parse/browser/esm/sync';
import { useEffect, useMemo, useRef, useState } from 'react';
import type { ClipboardEvent, KeyboardEvent, PointerEvent } from 'react';
import type { Finding } from '../../core/audit/index.js';
import { guard, unguard } from '../../core/catalog/cell.js';
import { CellInput, MOVES } from './CellInput.js';
import type { At, Editing } from './CellInput.js';
import { FindingMark, Value, useFindingsByRow } from './marks.js';
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
  sorting: SortingState;
  onSorting(sorting: SortingState): void;
  /** What formulas come to for a player, by pointer. */
  values?: ReadonlyMap<string, string> | undefined;
  /** Gives a problem to show beside the cell, or nothing when the edits are on their way, as one step. */
  onEdit(edits: CellEdit[]): string | undefined;
  /** The rows that the selection touches. */
  onSelect?(rows: GridRow[]): void;
  /** Delete on a row's id: takes the rows away. */
  onRemove?(rows: GridRow[]): void;
  /** What is typed and not yet kept. */
  onTyping?(edit: CellEdit | null): void;
  /** The pointer of the row that is open beside the grid: it is brought into sight and marked. */
  open?: string;
  /** Where the grid ends. */
  height?: string;
}

const ROW_HEIGHT = 32;
interface Range {
  from: At;
  to: At;
}

export function Grid(props: Props) {
  const { label, columns, rows, filter, findings, sorting, onSorting, onEdit, onSelect, onTyping, values } = props;
  const [at, setAt] = useState<At>({ row: 0, column: 0 });
  const [anchor, setAnchor] = useState<At>({ row: 0, column: 0 });
  const [editing, setEditing] = useState<Editing | null>(null);
  const [problem, setProblem] = useState<{ at: At; text: string } | null>(null);
  const scroller = useRef<HTMLDivElement>(null);
  const wantsFocus = useRef(false);
  const dragging = useRef(false);
  const definitions = useMemo<ColumnDef<GridRow>[]>(
    () =>
      columns.map((column, index) => ({
        id: String(index),
        header: column.head,
        accessorFn: (row) => column.read(row),
        sortingFn: column.numeric ? 'alphanumeric' : 'auto',
      })),
    [columns],
  );
  // The table's functions change with its state on purpose; nothing here memoises them.
  // eslint-disable-next-line react-hooks/incompatible-library
  const table = useReactTable({
    data: rows,
    columns: definitions,
    state: { sorting, globalFilter: filter },
    onSortingChange: (change) => onSorting(typeof change === 'function' ? change(sorting) : change),
    globalFilterFn: 'includesString',
    getCoreRowModel: getCoreRowModel(),
    getSortedRowModel: getSortedRowModel(),
    getFilteredRowModel: getFilteredRowModel(),
  });
  const shown = table.getRowModel().rows;
  const virtual = useVirtualizer({
    count: shown.length,
    getScrollElement: () => scroller.current,
    estimateSize: () => ROW_HEIGHT,
    overscan: 8,
    scrollPaddingStart: ROW_HEIGHT,
  });
  const byRow = useFindingsByRow(findings, rows);
  const range: Range = {
    from: { row: Math.min(at.row, anchor.row), column: Math.min(at.column, anchor.column) },
    to: { row: Math.max(at.row, anchor.row), column: Math.max(at.column, anchor.column) },
  };
  const single = range.from.row === range.to.row && range.from.column === range.to.column;

  // The cell may have to be scrolled into sight before it can have the focus.
  useEffect(() => {
    if (!wantsFocus.current || editing) return;
    const focus = (): boolean => {
      const cell = scroller.current?.querySelector<HTMLElement>(`[data-at="${at.row}-${at.column}"]`);
      cell?.focus();
      return cell !== null && cell !== undefined;
    };
    if (focus()) wantsFocus.current = false;
    else {
      virtual.scrollToIndex(at.row);
      const frame = requestAnimationFrame(() => {
        if (focus()) wantsFocus.current = false;
      });
      return () => cancelAnimationFrame(frame);
    }
    return undefined;
  });

  const openIndex = props.open ? shown.findIndex(({ original }) => original.pointer === props.open) : -1;
  useEffect(() => {
    if (openIndex >= 0) virtual.scrollToIndex(openIndex);
    // Only when another row is opened, not whenever rows change.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [props.open, openIndex >= 0]);

  const select = (next: At, extend = false) => {
    const place = {
      row: Math.max(0, Math.min(shown.length - 1, next.row)),
      column: Math.max(0, Math.min(columns.length - 1, next.column)),
    };
    setAt(place);
    if (!extend) setAnchor(place);
    setEditing(null);
    setProblem(null);
    wantsFocus.current = true;
    if (onSelect) {
      const start = extend ? anchor.row : place.row;
      const [low, high] = [Math.min(start, place.row), Math.max(start, place.row)];
      onSelect(shown.slice(low, high + 1).map(({ original }) => original));
    }
    virtual.scrollToIndex(place.row);
  };
  const begin = (place: At, text: string) => {
    const column = columns[place.column]!;
    if (!column.parse) return;
    setEditing({ ...place, text });
    onTyping?.({ row: shown[place.row]!.original, column, text });
  };
  const keep = (edit: Editing, step: At) => {
    const row = shown[edit.row]!.original;
    const column = columns[edit.column]!;
    // What was only looked at is not an edit: a name that comes from elsewhere must not become the row's own.
    const wrong = edit.text === column.read(row) ? undefined : onEdit([{ row, column, text: edit.text }]);
    if (wrong !== undefined) setEditing({ ...edit, problem: wrong });
    else {
      onTyping?.(null);
      select({ row: edit.row + step.row, column: edit.column + step.column });
    }
  };
  /** Several cells as one step; a slip anywhere keeps all of them as they were. */
  const change = (cells: { place: At; text: string }[]) => {
    const edits = cells
      .filter(({ place }) => place.row < shown.length && place.column < columns.length)
      .map(({ place, text }) => ({ row: shown[place.row]!.original, column: columns[place.column]!, text }));
    const fixed = edits.find(({ column }) => !column.parse);
    const wrong = fixed ? `${fixed.column.head} cannot be changed here` : edits.length > 0 ? onEdit(edits) : undefined;
    setProblem(wrong === undefined ? null : { at, text: wrong });
  };
  const cellsOf = ({ from, to }: Range): At[] =>
    Array.from({ length: to.row - from.row + 1 }, (_, r) =>
      Array.from({ length: to.column - from.column + 1 }, (_none, c) => ({
        row: from.row + r,
        column: from.column + c,
      })),
    ).flat();
  const textAt = (place: At) => columns[place.column]!.read(shown[place.row]!.original);

  const onCopy = (event: ClipboardEvent) => {
    if (editing || shown.length === 0) return;
    event.preventDefault();
    const lines = Array.from({ length: range.to.row - range.from.row + 1 }, (_, r) =>
      Array.from({ length: range.to.column - range.from.column + 1 }, (_none, c) =>
        quoted(guard(textAt({ row: range.from.row + r, column: range.from.column + c }))),
      ).join('\t'),
    );
    event.clipboardData.setData('text/plain', lines.join('\n'));
  };
  const onPaste = (event: ClipboardEvent) => {
    if (editing) return;
    event.preventDefault();
    const text = event.clipboardData.getData('text/plain').replace(/\r?\n$/, '');
    const block = parse(text, { delimiter: '\t', relax_column_count: true, relax_quotes: true }) as string[][];
    const one = block.length === 1 && block[0]!.length === 1 ? block[0]![0]! : undefined;
    // One value fills the whole range, as in a spreadsheet.
    const cells =
      one !== undefined
        ? cellsOf(range).map((place) => ({ place, text: unguard(one) }))
        : block.flatMap((line, r) =>
            line.map((cell, c) => ({
              place: { row: range.from.row + r, column: range.from.column + c },
              text: unguard(cell),
            })),
          );
    change(cells);
    if (one === undefined)
      setAt({ row: range.from.row + block.length - 1, column: range.from.column + (block[0]?.length ?? 1) - 1 });
  };
  const fillDown = () =>
    change(
      cellsOf({ ...range, from: { ...range.from, row: range.from.row + 1 } }).map((place) => ({
        place,
        text: textAt({ row: range.from.row, column: place.column }),
      })),
    );

  const onCellKey = (event: KeyboardEvent, place: At) => {
    const command = event.ctrlKey || event.metaKey;
    const page = Math.max(1, Math.floor((scroller.current?.clientHeight ?? 400) / ROW_HEIGHT) - 2);
    const jumps: Record<string, At> = {
      ...MOVES,
      PageDown: { row: page, column: 0 },
      PageUp: { row: -page, column: 0 },
      Home: { row: command ? -Infinity : 0, column: -Infinity },
      End: { row: command ? Infinity : 0, column: Infinity },
    };
    const step = jumps[event.key];
    const stop = () => event.preventDefault();
    if (step) {
      stop();
      const far = command && event.key.startsWith('Arrow') ? Infinity : 1;
      const by = (one: number) => (one === 0 ? 0 : one * far);
      select({ row: place.row + by(step.row), column: place.column + by(step.column) }, event.shiftKey);
    } else if (command && event.key.toLowerCase() === 'd') {
      stop();
      fillDown();
    } else if (command && event.key.toLowerCase() === 'a') {
      stop();
      setAnchor({ row: 0, column: 0 });
      setAt({ row: shown.length - 1, column: columns.length - 1 });
      onSelect?.(shown.map(({ original }) => original));
    } else if (event.key === 'Enter' || event.key === 'F2') {
      stop();
      begin(place, textAt(place));
    } else if (event.key === 'Delete' || event.key === 'Backspace') {
      stop();
      if (place.column === 0 && props.onRemove)
        props.onRemove(shown.slice(range.from.row, range.to.row + 1).map(({ original }) => original));
      else if (single) begin(place, '');
      else
        change(
          cellsOf(range)
            .filter(({ column }) => columns[column]!.parse)
            .map((one) => ({ place: one, text: '' })),
        );
    } else if (event.key.length === 1 && !command && !event.altKey) {
      stop();
      begin(place, event.key);
    }
  };
  const onPointer = (event: PointerEvent, place: At) => {
    if (event.button !== 0 || (editing?.row === place.row && editing.column === place.column)) return;
    dragging.current = true;
    select(place, event.shiftKey);
  };

  const visible = virtual.getVirtualItems();
  const above = visible[0]?.start ?? 0;
  const below = virtual.getTotalSize() - (visible.at(-1)?.end ?? 0);
  const width = columns.reduce((sum, column) => sum + column.width, 0);
  return (
    <div
      ref={scroller}
      onCopy={onCopy}
      onPaste={onPaste}
      onPointerUp={() => {
        dragging.current = false;
      }}
      className="overflow-auto rounded-sheet border border-line bg-sheet"
      style={{ maxHeight: props.height ?? 'calc(100vh - 232px)' }}
    >
      <table
        role="grid"
        aria-label={label}
        aria-multiselectable
        aria-rowcount={shown.length + 1}
        aria-colcount={columns.length}
        className="table-fixed border-collapse text-[0.93rem]"
        style={{ width }}
      >
        <colgroup>
          {columns.map((column) => (
            <col key={column.field || column.head} style={{ width: column.width }} />
          ))}
        </colgroup>
        <thead className="sticky top-0 z-10 bg-sunk">
          <tr aria-rowindex={1}>
            {table.getFlatHeaders().map((header) => {
              const column = columns[Number(header.id)]!;
              const sorted = header.column.getIsSorted();
              return (
                <th
                  key={header.id}
                  scope="col"
                  aria-sort={sorted === 'asc' ? 'ascending' : sorted === 'desc' ? 'descending' : 'none'}
                  className={`truncate border-b border-line px-2 py-1 text-sm text-soft ${column.right ? 'text-right' : 'text-left'}`}
                >
                  <button
                    type="button"
                    onClick={header.column.getToggleSortingHandler()}
                    className="font-semibold"
                    aria-label={`Sort by ${column.head}`}
                  >
                    {column.head}
                    {sorted === 'asc' ? ' ↑' : sorted === 'desc' ? ' ↓' : ''}
                  </button>
                </th>
              );
            })}
          </tr>
        </thead>
        <tbody>
          {above > 0 && (
            <tr aria-hidden>
              <td style={{ height: above }} />
            </tr>
          )}
          {visible.map(({ index: rowIndex }) => {
            const row = shown[rowIndex]!;
            const marks = byRow.get(row.original.pointer);
            return (
              <tr
                key={row.original.pointer}
                aria-rowindex={rowIndex + 2}
                className={`border-b border-line/50 ${rowIndex === openIndex ? 'bg-tint-brass' : ''}`}
              >
                {columns.map((column, columnIndex) => {
                  const place = { row: rowIndex, column: columnIndex };
                  const isAt = at.row === rowIndex && at.column === columnIndex;
                  const isEditing = editing?.row === rowIndex && editing.column === columnIndex;
                  const text = column.read(row.original);
                  const found = marks?.get(columnIndex === 0 ? '' : column.field) ?? [];
                  const inRange =
                    !single &&
                    rowIndex >= range.from.row &&
                    rowIndex <= range.to.row &&
                    columnIndex >= range.from.column &&
                    columnIndex <= range.to.column;
                  return (
                    <td
                      key={columnIndex}
                      role="gridcell"
                      data-at={`${rowIndex}-${columnIndex}`}
                      tabIndex={isAt ? 0 : -1}
                      aria-readonly={column.parse === undefined}
                      aria-selected={inRange || isAt}
                      aria-label={`${row.original.id}, ${column.head}: ${text || 'empty'}`}
                      onPointerDown={(event) => onPointer(event, place)}
                      onPointerEnter={(event) => {
                        // The button may have been let go of outside the grid.
                        if (dragging.current && event.buttons === 1) select(place, true);
                      }}
                      onDoubleClick={() => begin(place, text)}
                      onKeyDown={(event) => {
                        if (!isEditing) onCellKey(event, place);
                      }}
                      className={`relative h-8 px-2 ${isEditing || (problem && isAt) ? 'overflow-visible' : 'truncate'} ${column.right ? 'text-right' : ''} ${column.parse ? '' : 'text-soft'} ${inRange ? 'bg-tint-copper' : found.length > 0 ? 'bg-tint-brick' : ''} focus:outline-2 focus:-outline-offset-2 focus:outline-copper`}
                    >
                      {isEditing ? (
                        <CellInput
                          editing={editing}
                          onChange={(value) => {
                            setEditing({ ...place, text: value });
                            onTyping?.({ row: row.original, column, text: value });
                          }}
                          onDrop={() => {
                            onTyping?.(null);
                            select(place);
                          }}
                          onKeep={(step) => keep(editing, step)}
                        />
                      ) : (
                        <>
                          {found.length > 0 && <FindingMark findings={found} />}
                          <Value text={text} column={column} row={row.original} values={values} />
                          {problem && isAt && (
                            <span
                              role="alert"
                              className="absolute top-8 left-0 z-30 w-72 rounded-tag bg-brick px-2 py-1 text-left text-sm whitespace-normal text-paper"
                            >
                              {problem.text}. Nothing was changed.
                            </span>
                          )}
                        </>
                      )}
                    </td>
                  );
                })}
              </tr>
            );
          })}
          {below > 0 && (
            <tr aria-hidden>
              <td style={{ height: below }} />
            </tr>
          )}
        </tbody>
      </table>
    </div>
  );
}

/** A cell for the clipboard: quoted where it holds what would part it. */
const quoted = (text: string): string => (/["\t\n\r]/.test(text) ? `"${text.replace(/"/g, '""')}"` : text);
