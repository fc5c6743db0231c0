/** One cell: its value with what was found, the input while it is edited, or what kept it from being changed. */
import { useEffect } from 'react';
import type { KeyboardEvent, PointerEvent } from 'react';
import type { Finding } from '../../core/audit/index.js';
import { useEdits } from '../parts/edits.js';
import { Bubble } from './Bubble.js';
import type { BubbleProps } from './Bubble.js';
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
  /** What stands here was refused and is not saved. */
  refusal: { words: string; told: boolean } | undefined;
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

export function GridCell({
  row,
  column,
  place,
  isAt,
  inRange,
  findings,
  values,
  editing,
  problem,
  refusal,
  on,
}: Props) {
  const text = column.read(row);
  const shown = column.show?.(row) ?? text;
  const overflow = editing || problem !== null || refusal?.told ? 'overflow-visible' : 'truncate';
  return (
    <td
      role="gridcell"
      data-at={`${place.row}-${place.column}`}
      tabIndex={isAt ? 0 : -1}
      aria-invalid={refusal !== undefined}
      title={refusal?.words ?? column.tells?.(row)}
      aria-readonly={column.parse === undefined}
      aria-selected={inRange || isAt}
      aria-label={[`${row.id}, ${column.head}: ${shown || 'empty'}`, refusal?.words].filter(Boolean).join('. ')}
      onPointerDown={(event) => on.press(event, place)}
      onPointerEnter={(event) => on.enter(event, place)}
      onDoubleClick={() => on.open(place, text)}
      onKeyDown={(event) => {
        if (!editing) on.key(event, place);
      }}
      className={`relative h-8 px-2 ${overflow} ${column.right ? 'text-right' : ''} ${column.parse ? '' : 'text-soft'} ${shade(inRange, findings.length > 0 || refusal !== undefined)} focus:outline-2 focus:-outline-offset-2 focus:outline-copper`}
    >
      {editing ? (
        <CellInput
          editing={editing}
          onChange={(value) => on.type(place, value)}
          onDrop={() => on.drop(place)}
          completes={column.completes}
          says={column.says?.(editing.text, row)}
          untouched={editing.text === text}
          onKeep={(step, picked) => on.keep({ ...editing, text: picked ?? editing.text }, step)}
        />
      ) : (
        <>
          {findings.length > 0 && <FindingMark findings={findings} />}
          <Value text={shown} column={column} row={row} values={values} />
          {problem !== null && <Bubble words={problem} right={column.right} />}
          {refusal?.told && <RefusalBubble words={refusal.words} right={column.right} />}
        </>
      )}
    </td>
  );
}

/** Told here, and so nowhere else. */
function RefusalBubble(bubble: BubbleProps) {
  const { tell } = useEdits();
  useEffect(() => tell(), [tell]);
  return <Bubble {...bubble} />;
}
