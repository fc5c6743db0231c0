/** What is being typed into a cell, and cells that change together as one step. */
import { useState } from 'react';
import type { Editing } from './CellInput.js';
import type { PlacedText } from './clipboard.js';
import type { GridColumn, GridRow } from './columns.js';
import type { At } from './place.js';

export interface CellEdit {
  row: GridRow;
  column: GridColumn;
  text: string;
}

interface Asked {
  shown: readonly GridRow[];
  columns: readonly GridColumn[];
  /** Gives a problem to show beside the cell, or nothing when the edits are on their way, as one step. */
  onEdit(edits: CellEdit[]): string | undefined;
  /** What is typed and not yet kept. */
  onTyping?: ((edit: CellEdit | null) => void) | undefined;
}

export function useEditing({ shown, columns, onEdit, onTyping }: Asked) {
  const [editing, setEditing] = useState<Editing | null>(null);
  const [problem, setProblem] = useState<string | null>(null);
  const editOf = ({ row, column }: At, text: string): CellEdit => ({
    row: shown[row]!,
    column: columns[column]!,
    text,
  });
  const type = (place: At, text: string) => {
    setEditing({ ...place, text });
    onTyping?.(editOf(place, text));
  };
  return {
    editing,
    problem,
    begin: (place: At, text: string) => {
      if (columns[place.column]!.parse) type(place, text);
    },
    type,
    /** Ends what is being typed without keeping it. */
    drop: () => {
      if (editing) onTyping?.(null);
      setEditing(null);
      setProblem(null);
    },
    /** True when it was kept; otherwise the cell stays open with what is wrong. */
    keep: (edit: Editing): boolean => {
      const one = editOf(edit, edit.text);
      // What was only looked at is not an edit: a name that comes from elsewhere must not become the row's own.
      const wrong = edit.text === one.column.read(one.row) ? undefined : onEdit([one]);
      if (wrong === undefined) return true;
      setEditing({ ...edit, problem: wrong });
      return false;
    },
    /** Several cells as one step; a slip anywhere keeps all of them as they were. */
    change: (cells: readonly PlacedText[]) => {
      const edits = cells
        .filter(({ place }) => place.row < shown.length && place.column < columns.length)
        .map(({ place, text }) => editOf(place, text));
      const fixed = edits.find(({ column }) => !column.parse);
      const wrong = fixed
        ? `${fixed.column.head} cannot be changed here`
        : edits.length > 0
          ? onEdit(edits)
          : undefined;
      setProblem(wrong === undefined ? null : `${wrong}. Nothing was changed.`);
    },
  };
}
