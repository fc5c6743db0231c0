/**
 * A grid that edits like a spreadsheet: arrows move, Shift extends, typing edits, Enter and Tab keep, Escape drops;
 * ranges are copied, pasted, filled down and cleared. Only the rows in sight are drawn. Each idea has a file of its
 * own: places, keys, the clipboard, the selection, what is being typed, the rows in sight.
 */
import type { SortingState } from '@tanstack/react-table';
import { useEffect, useRef } from 'react';
import type { ClipboardEvent, KeyboardEvent } from 'react';
import type { Finding } from '../../core/audit/index.js';
import type { Refused } from '../parts/refused.js';
import { GridCell } from './GridCell.js';
import { GridHead } from './GridHead.js';
import { rangeToText, textToCells } from './clipboard.js';
import type { GridColumn, GridRow } from './columns.js';
import { commandOf } from './keys.js';
import { cellRefusal } from './refusal.js';
import type { CellRefusal } from './refusal.js';
import { useFindingsByRow } from './marks.js';
import { rangeHolds, rangeIsSingle, rangeRows } from './place.js';
import type { At } from './place.js';
import { useEditing } from './useEditing.js';
import type { CellEdit } from './useEditing.js';
import { ROW_HEIGHT, useRows } from './useRows.js';
import { useSelection } from './useSelection.js';

export type { CellEdit } from './useEditing.js';

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
  /** What was refused of these rows, and is not saved. */
  refused?: readonly Refused[];
  /** What was refused at a pointer is taken back. */
  onTakeBack?(pointer: string): void;
  /** The rows that the selection touches. */
  onSelect?(rows: GridRow[]): void;
  /** Delete on a row's id: takes the rows away. */
  onRemove?(rows: GridRow[]): void;
  /** Opens a row's panel. */
  onOpen?(pointer: string): void;
  /** What is typed and not yet kept. */
  onTyping?(edit: CellEdit | null): void;
  /** The pointer of the row that is open beside the grid: it is brought into sight and marked. */
  open?: string;
  /** Where the grid ends. */
  height?: string;
}

export function Grid(props: Props) {
  const { label, columns, findings, onSelect, onRemove, values, refused } = props;
  const scroller = useRef<HTMLDivElement>(null);
  const { headers, shown, visible, above, below, scrollTo } = useRows({ ...props, scroller });
  const { editing, problem, begin, type, drop, keep, change } = useEditing({ ...props, shown });
  const { at, range, select, selectAll, cover, drag } = useSelection({
    shown,
    columns: columns.length,
    scroller,
    scrollTo,
    editing: editing !== null,
    onSelect,
  });
  const byRow = useFindingsByRow(findings, props.rows);
  const openIndex = props.open ? shown.findIndex(({ pointer }) => pointer === props.open) : -1;
  useEffect(() => {
    if (openIndex >= 0) scrollTo(openIndex);
    // Only when another row is opened, not whenever rows change.
    // oxlint-disable-next-line react/exhaustive-deps
  }, [props.open, openIndex >= 0]);

  const refusalIn = (row: GridRow, { field }: GridColumn): CellRefusal | undefined =>
    field === '' || !refused || refused.length === 0 ? undefined : cellRefusal(refused, row, field);
  const readCell = (row: GridRow, column: GridColumn): string => column.read(refusalIn(row, column)?.row ?? row);
  /** What has fields of its own is edited in the row's panel. */
  const edit = (place: At, text: string) => {
    if (columns[place.column]!.form) props.onOpen?.(shown[place.row]!.pointer);
    else begin(place, text);
  };
  const isCell = (column: number): boolean => columns[column]?.told !== true;
  const textAt = (place: At) => readCell(shown[place.row]!, columns[place.column]!);
  /** Moves on; what is being typed elsewhere is dropped. */
  const go = (place: At, extend = false) => {
    drop();
    select(place, extend);
  };

  const onCopy = (event: ClipboardEvent) => {
    if (editing || shown.length === 0) return;
    event.preventDefault();
    event.clipboardData.setData('text/plain', rangeToText(range, textAt, isCell));
  };
  const onPaste = (event: ClipboardEvent) => {
    if (editing) return;
    event.preventDefault();
    const { cells, covers } = textToCells(event.clipboardData.getData('text/plain'), range, isCell);
    change(cells);
    if (covers) cover(covers);
  };
  const fillDown = () =>
    change(
      rangeRows(range)
        .slice(1)
        .flat()
        .filter(({ column }) => isCell(column))
        .map((place) => ({ place, text: textAt({ row: range.from.row, column: place.column }) })),
    );
  const clear = (place: At) => {
    if (place.column === 0 && onRemove) onRemove(shown.slice(range.from.row, range.to.row + 1));
    else if (rangeIsSingle(range) && !columns[place.column]!.form) begin(place, '');
    else
      change(
        rangeRows(range)
          .flat()
          .filter(({ column }) => columns[column]!.parse)
          .map((one) => ({ place: one, text: '' })),
      );
  };
  /** So many columns on, past those that are none of the sheet. */
  const columnFrom = (column: number, by: number): number => {
    let to = column + by;
    while (by !== 0 && columns[to] && !isCell(to)) to += Math.sign(by);
    return to;
  };
  const onKey = (event: KeyboardEvent, place: At) => {
    const pageRows = Math.max(1, Math.floor((scroller.current?.clientHeight ?? 400) / ROW_HEIGHT) - 2);
    const command = commandOf(event, pageRows);
    if (!command) return;
    event.preventDefault();
    switch (command.kind) {
      case 'move':
        go({ row: place.row + command.by.row, column: columnFrom(place.column, command.by.column) }, command.extend);
        break;
      case 'fill-down':
        fillDown();
        break;
      case 'select-all':
        selectAll();
        break;
      case 'edit':
        edit(place, command.text ?? textAt(place));
        break;
      case 'clear':
        clear(place);
    }
  };
  const on: Parameters<typeof GridCell>[0]['on'] = {
    key: onKey,
    press: (event, place) => {
      if (event.button !== 0 || (editing?.row === place.row && editing.column === place.column)) return;
      drop();
      drag.begin(place, event.shiftKey);
    },
    enter: (event, place) => drag.over(place, event.buttons === 1),
    open: edit,
    type,
    drop: go,
    keep: (edit, step) => {
      const { pointer } = shown[edit.row]!;
      props.onTakeBack?.(`${pointer}/${columns[edit.column]!.field}`);
      if (keep(edit)) go({ row: edit.row + step.row, column: columnFrom(edit.column, step.column) });
    },
  };

  const single = rangeIsSingle(range);
  return (
    <div
      ref={scroller}
      onCopy={onCopy}
      onPaste={onPaste}
      onPointerUp={drag.end}
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
        style={{ width: columns.reduce((sum, column) => sum + column.width, 0) }}
      >
        <colgroup>
          {columns.map((column) => (
            <col key={column.field || column.head} style={{ width: column.width }} />
          ))}
        </colgroup>
        <GridHead headers={headers} columns={columns} />
        <tbody>
          <Space height={above} />
          {visible.map((rowIndex) => {
            const row = shown[rowIndex]!;
            const marks = byRow.get(row.pointer);
            return (
              <tr
                key={row.pointer}
                aria-rowindex={rowIndex + 2}
                className={`border-b border-line/50 ${rowIndex === openIndex ? 'bg-tint-brass' : ''}`}
              >
                {columns.map((column, columnIndex) => {
                  const place = { row: rowIndex, column: columnIndex };
                  const isAt = at.row === rowIndex && at.column === columnIndex;
                  const isEditing = editing?.row === rowIndex && editing.column === columnIndex;
                  const refusal = refusalIn(row, column);
                  return (
                    <GridCell
                      key={columnIndex}
                      row={refusal?.row ?? row}
                      column={column}
                      place={place}
                      isAt={isAt}
                      inRange={!single && rangeHolds(range, place)}
                      findings={marks?.get(columnIndex === 0 ? '' : column.field) ?? []}
                      values={values}
                      editing={isEditing ? editing : null}
                      problem={isAt ? problem : null}
                      refusal={
                        refusal && { ...refusal, told: isAt || (refused?.length === 1 && rowIndex !== openIndex) }
                      }
                      on={on}
                    />
                  );
                })}
              </tr>
            );
          })}
          <Space height={below} />
        </tbody>
      </table>
    </div>
  );
}

/** Stands for the rows that are not drawn. */
function Space({ height }: { height: number }) {
  return height > 0 ? (
    <tr aria-hidden>
      <td style={{ height }} />
    </tr>
  ) : null;
}
