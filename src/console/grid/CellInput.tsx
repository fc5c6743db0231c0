/** The input that a cell turns into while it is edited. */
import { useRef } from 'react';
import type { KeyboardEvent } from 'react';
import { Completing, useCompleting } from '../fields/completing.js';
import { Bubble } from './Bubble.js';
import type { CellCompletes } from './cellCompletion.js';
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
  completes,
  says,
  untouched,
  onChange,
  onDrop,
  onKeep,
}: {
  editing: Editing;
  completes: CellCompletes | undefined;
  /** What is said of what is typed. */
  says: string | undefined;
  /** Nothing was typed yet. */
  untouched: boolean;
  onChange: (text: string) => void;
  onDrop: () => void;
  /** `picked` is what the cell becomes, where it is not what was typed. */
  onKeep: (step: At, picked?: string) => void;
}) {
  // Moving on takes the focus away, and leaving the cell keeps its text too: it must be kept once only.
  const left = useRef(false);
  const leave = (how: () => void) => {
    left.current = true;
    how();
  };
  const completing = useCompleting({
    text: editing.text,
    onType: (text) => {
      left.current = false;
      onChange(text);
    },
    find: (text, caret) => completes?.at(text, caret) ?? { from: 0, options: [] },
    closedFirst: untouched,
  });
  const onKey = (event: KeyboardEvent) => {
    event.stopPropagation();
    const picked = completes?.whole && completing.open ? completing.options[completing.at]!.id : undefined;
    if (picked === undefined && completing.onKeyDown(event)) return;
    if (event.key === 'Escape') leave(onDrop);
    else if (event.key === 'Enter') leave(() => onKeep({ row: 1, column: 0 }, picked));
    else if (event.key === 'Tab') {
      event.preventDefault();
      leave(() => onKeep({ row: 0, column: event.shiftKey ? -1 : 1 }, picked));
    } else completing.onKeyDown(event);
  };
  return (
    <>
      <Completing of={completing}>
        <input
          {...completing.props}
          autoFocus
          aria-label="Cell"
          aria-invalid={editing.problem !== undefined}
          onKeyDown={onKey}
          onCopy={(event) => event.stopPropagation()}
          onPaste={(event) => event.stopPropagation()}
          onBlur={() => {
            if (!left.current && editing.problem === undefined) onKeep({ row: 0, column: 0 });
          }}
          className="absolute inset-0 z-20 w-full min-w-44 bg-paper px-2 outline-2 -outline-offset-2 outline-copper"
        />
      </Completing>
      {editing.problem !== undefined && <Bubble words={editing.problem} />}
      {says !== undefined && (
        <span
          role="status"
          className="absolute right-0 bottom-8 z-30 rounded-tag border border-line bg-sheet px-2 text-left text-sm whitespace-nowrap text-ink shadow-sheet"
        >
          {says}
        </span>
      )}
    </>
  );
}
