/** Changes of the draft and the way back from them. */
import fastJsonPatch from 'fast-json-patch';
import type { Operation } from 'fast-json-patch';
import { Immer, enablePatches } from 'immer';
import { pointerOf } from '../../core/issue/index.js';
import type { EconomyDocument } from '../../core/document/index.js';

export interface Step {
  operations: Operation[];
  /** Where there is more to say than what it changes: the service puts that into words. */
  why?: string | undefined;
}

enablePatches();
// Nothing is frozen: a catalog of thousands would be walked for it at every edit.
const immer = new Immer({ autoFreeze: false });

/**
 * The document after the operations, and those that lead back. Only what they touch is copied: a catalog of thousands
 * would otherwise be copied and drawn anew for every cell.
 */
export function operationsApply(
  document: EconomyDocument,
  operations: readonly Operation[],
): { document: EconomyDocument; back: Operation[] } {
  const [after, , back] = immer.produceWithPatches(document as object, (draft) => {
    fastJsonPatch.applyPatch(draft, structuredClone(operations) as Operation[]);
  });
  return {
    document: after as EconomyDocument,
    back: back.map(({ op, path, value }): Operation => {
      const pointer = pointerOf(path);
      return op === 'remove' ? { op, path: pointer } : { op, path: pointer, value: value as unknown };
    }),
  };
}

/** The operation that gives a field a value (none: takes it away); undefined where it is so already. */
export function fieldOperation(pointer: string, field: string, before: unknown, value: unknown): Operation | undefined {
  if (JSON.stringify(before) === JSON.stringify(value)) return undefined;
  const path = `${pointer}${pointerOf([field])}`;
  if (value === undefined) return { op: 'remove', path };
  return { op: before === undefined ? 'add' : 'replace', path, value };
}

/** The same for a field with parts of its own: only those that differ are changed. */
export function fieldOperations(pointer: string, field: string, before: unknown, value: unknown): Operation[] {
  const isGroup = (one: unknown): one is object => typeof one === 'object' && one !== null && !Array.isArray(one);
  if (!isGroup(before) || !isGroup(value)) {
    const change = fieldOperation(pointer, field, before, value);
    return change ? [change] : [];
  }
  const path = `${pointer}${pointerOf([field])}`;
  return fastJsonPatch.compare(before, value).map((change) => ({ ...change, path: `${path}${change.path}` }));
}

/** Adds a thing to a section of the document, and the section where there is none yet. */
export function addOperations(
  document: EconomyDocument,
  section: keyof EconomyDocument,
  id: string,
  value: unknown,
): Operation[] {
  const path = pointerOf([section]);
  return [
    ...(document[section] === undefined ? [{ op: 'add' as const, path, value: {} }] : []),
    { op: 'add', path: `${path}${pointerOf([id])}`, value },
  ];
}
