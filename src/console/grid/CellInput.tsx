/** The input that a cell turns into while it is edited. */
import { useRef } from 'react';
import type { KeyboardEvent } from 'react';
import type { At } from './place.js';

export interface Editing extends At {
  text: string;
  problem?: string;
}

export const MOVES: Record<string, At> = {
  ArrowUp: { row: -1, column: 0 },
  ArrowDown: { row: 1, column: 0 },
  ArrowLeft: { row: 0, column: -1 },
  ArrowRight: { row: 0, column: 1 },
};

export function CellInput({
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
        onCopy={(event) => event.stopPropagation()}
        onPaste={(event) => event.stopPropagation()}
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
