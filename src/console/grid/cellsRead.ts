/** Edits of cells as operations, or what is wrong with the first that cannot be kept: then none is. */
import type { Operation } from 'fast-json-patch';
import { fieldOperation } from '../parts/step.js';
import type { CellEdit } from './Grid.js';

type CellsRead = { ok: true; operations: Operation[] } | { ok: false; problem: string };

export function cellsRead(cells: readonly CellEdit[]): CellsRead {
  const operations: Operation[] = [];
  for (const { row, column, text } of cells) {
    const read = column.parse!(text);
    const where = cells.length > 1 ? `${row.id}: ` : '';
    if (!read.ok) return { ok: false, problem: `${where}${read.problem}` };
    if (read.value === undefined && column.needed)
      return { ok: false, problem: `${where}${column.head} cannot be empty` };
    const operation = fieldOperation(row.pointer, column.field, row.value[column.field], read.value);
    if (operation) operations.push(operation);
  }
  return { ok: true, operations };
}
