/** One cell: its value with what was found, the input while it is edited, or what kept it from being changed. */
import type { KeyboardEvent, PointerEvent } from 'react';
import type { Finding } from '../../core/audit/index.js';
import { CellInput } from './CellInput.js';
import type { Editing } from './CellInput.js';
import type { GridColumn, GridRow } from './columns.js';
import { FindingMark, Value } from './marks.js';
import type { At } from './place.js';

interface Props {
  row: GridRow;
  column: GridColumn;
  place: At;
  isAt: boolean;
  inRange: boolean;
  findings: readonly Finding[];
  values: ReadonlyMap<string, string> | undefined;
  /** What is being typed here. */
  editing: Editing | null;
  /** Why a change that began here was refused. */
  problem: string | null;
  on: {
    key(event: KeyboardEvent, place: At): void;
    press(event: PointerEvent, place: At): void;
    enter(event: PointerEvent, place: At): void;
    open(place: At, text: string): void;
    type(place: At, text: string): void;
    drop(place: At): void;
    keep(editing: Editing, step: At): void;
  };
}

const shade = (inRange: boolean, found: boolean): string => (inRange ? 'bg-tint-copper' : found ? 'bg-tint-brick' : '');

export function GridCell({ row, column, place, isAt, inRange, findings, values, editing, problem, on }: Props) {
  const text = column.read(row);
  const overflow = editing || problem !== null ? 'overflow-visible' : 'truncate';
  return (
    <td
      role="gridcell"
      data-at={`${place.row}-${place.column}`}
      tabIndex={isAt ? 0 : -1}
      aria-readonly={column.parse === undefined}
      aria-selected={inRange || isAt}
      aria-label={`${row.id}, ${column.head}: ${text || 'empty'}`}
      onPointerDown={(event) => on.press(event, place)}
      onPointerEnter={(event) => on.enter(event, place)}
      onDoubleClick={() => on.open(place, text)}
      onKeyDown={(event) => {
        if (!editing) on.key(event, place);
      }}
      className={`relative h-8 px-2 ${overflow} ${column.right ? 'text-right' : ''} ${column.parse ? '' : 'text-soft'} ${shade(inRange, findings.length > 0)} focus:outline-2 focus:-outline-offset-2 focus:outline-copper`}
    >
      {editing ? (
        <CellInput
          editing={editing}
          onChange={(value) => on.type(place, value)}
          onDrop={() => on.drop(place)}
          onKeep={(step) => on.keep(editing, step)}
        />
      ) : (
        <>
          {findings.length > 0 && <FindingMark findings={findings} />}
          <Value text={text} column={column} row={row} values={values} />
          {problem !== null && (
            <span
              role="alert"
              className="absolute top-8 left-0 z-30 w-72 rounded-tag bg-brick px-2 py-1 text-left text-sm whitespace-normal text-paper"
            >
              {problem}. Nothing was changed.
            </span>
          )}
        </>
      )}
    </td>
  );
}
