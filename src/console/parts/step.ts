/** Changes of the draft with the way back, and the ids that names make. */
import type { Operation } from 'fast-json-patch';
import { pointerOf } from '../../core/issue/index.js';

/** A change and the way back. */
export interface Step {
  operations: Operation[];
  undo: Operation[];
  why: string;
}

/** The operation that gives a field a value (none: takes it away), and the one that undoes it; nothing where it is so already. */
export function fieldStep(
  pointer: string,
  field: string,
  before: unknown,
  value: unknown,
): Pick<Step, 'operations' | 'undo'> | undefined {
  if (JSON.stringify(before) === JSON.stringify(value)) return undefined;
  const path = `${pointer}${pointerOf([field])}`;
  return {
    operations: [
      value === undefined ? { op: 'remove', path } : { op: before === undefined ? 'add' : 'replace', path, value },
    ],
    undo: [
      before === undefined
        ? { op: 'remove', path }
        : { op: value === undefined ? 'add' : 'replace', path, value: before },
    ],
  };
}

/** The usual way to name a thing by an id: made of its name. */
export const idOf = (name: string): string =>
  name
    .trim()
    .toLowerCase()
    .normalize('NFKD')
    .replace(/[^a-z0-9]+/g, '_')
    .replace(/^[^a-z]+|_+$/g, '')
    .slice(0, 60);
