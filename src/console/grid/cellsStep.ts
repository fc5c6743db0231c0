/** Edits of cells as one step, or what is wrong with the first that cannot be kept: then none is. */
import { fieldStep } from '../parts/step.js';
import type { Step } from '../parts/step.js';
import type { CellEdit } from './Grid.js';

type CellsStep = { ok: true; step: Pick<Step, 'operations' | 'undo'> | undefined } | { ok: false; problem: string };

export function cellsStep(cells: readonly CellEdit[]): CellsStep {
  const steps = [];
  for (const { row, column, text } of cells) {
    const read = column.parse!(text);
    const where = cells.length > 1 ? `${row.id}: ` : '';
    if (!read.ok) return { ok: false, problem: `${where}${read.problem}` };
    if (read.value === undefined && column.needed)
      return { ok: false, problem: `${where}${column.head} cannot be empty` };
    const step = fieldStep(row.pointer, column.field, row.value[column.field], read.value);
    if (step) steps.push(step);
  }
  if (steps.length === 0) return { ok: true, step: undefined };
  return {
    ok: true,
    step: {
      operations: steps.flatMap(({ operations }) => operations),
      undo: [...steps].reverse().flatMap(({ undo }) => undo),
    },
  };
}
