/** A cell whose text was refused: it goes on showing what was typed, and says why. */
import { reasonsAt } from '../parts/refused.js';
import type { Refused } from '../parts/refused.js';
import type { GridRow } from './columns.js';

export interface CellRefusal {
  /** The row as it would be. */
  row: GridRow;
  words: string;
}

export function cellRefusal(refused: readonly Refused[], row: GridRow, field: string): CellRefusal | undefined {
  const pointer = `${row.pointer}/${field}`;
  const found = refused.findLast(({ operation }) => operation.path === pointer)?.operation;
  if (!found) return undefined;
  const value = found.op === 'add' || found.op === 'replace' ? (found.value as unknown) : undefined;
  return {
    row: { ...row, value: { ...row.value, [field]: value } },
    words: `Not saved: ${reasonsAt(refused, pointer, true).join(' ')}`,
  };
}
