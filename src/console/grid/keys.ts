/** What a key means on a cell that is not being edited. */
import { MOVES } from './CellInput.js';
import type { At } from './place.js';

export type Command =
  | { kind: 'move'; by: At; extend: boolean }
  | { kind: 'fill-down' }
  | { kind: 'select-all' }
  /** With the text to begin with; with the cell's own where it is undefined. */
  | { kind: 'edit'; text: string | undefined }
  | { kind: 'clear' };

interface Pressed {
  key: string;
  ctrlKey: boolean;
  metaKey: boolean;
  altKey: boolean;
  shiftKey: boolean;
}

/** `pageRows`: how many rows Page Up and Page Down go. Undefined where the key is not the grid's. */
export function commandOf({ key, ctrlKey, metaKey, altKey, shiftKey }: Pressed, pageRows: number): Command | undefined {
  const command = ctrlKey || metaKey;
  const jumps: Record<string, At> = {
    ...MOVES,
    PageDown: { row: pageRows, column: 0 },
    PageUp: { row: -pageRows, column: 0 },
    Home: { row: command ? -Infinity : 0, column: -Infinity },
    End: { row: command ? Infinity : 0, column: Infinity },
  };
  const step = jumps[key];
  if (step) {
    const far = command && key.startsWith('Arrow') ? Infinity : 1;
    const by = (one: number) => (one === 0 ? 0 : one * far);
    return { kind: 'move', by: { row: by(step.row), column: by(step.column) }, extend: shiftKey };
  }
  if (command && key.toLowerCase() === 'd') return { kind: 'fill-down' };
  if (command && key.toLowerCase() === 'a') return { kind: 'select-all' };
  if (key === 'Enter' || key === 'F2') return { kind: 'edit', text: undefined };
  if (key === 'Delete' || key === 'Backspace') return { kind: 'clear' };
  return key.length === 1 && !command && !altKey ? { kind: 'edit', text: key } : undefined;
}
