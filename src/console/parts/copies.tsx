/** What was duplicated in this visit, and what of the copy is still as it was copied: slips that everybody makes. */
import { valueAt } from '../../core/document/pointers.js';
import { jsonNodeAt } from '../../core/catalog/schemaCell.js';
import { pointerSegments } from '../../core/issue/index.js';
import { useDraft, useSchema } from '../api.js';

/** The original of each copy, by pointer. */
const originals = new Map<string, string>();

export const copyNoted = (copy: string, original: string): void => void originals.set(copy, original);

/** Fields that are the same in every copy that is meant. */
const ALIKE = new Set(['kind', 'group', 'gives', 'emits', 'shelves', 'offers']);

/** Names the fields that are still as in the original; nothing where each was touched, or the thing is no copy. */
export function StillAsCopied({ pointer }: { pointer: string }) {
  const document = useDraft().data?.document;
  const schema = useSchema().data;
  const from = originals.get(pointer);
  if (from === undefined || !document || !schema) return null;
  const [copy, original] = [pointer, from].map(
    (at) => valueAt(document, pointerSegments(at)) as Record<string, unknown> | undefined,
  );
  if (!copy || !original) return null;
  const same = Object.keys(copy).filter(
    (field) => !ALIKE.has(field) && JSON.stringify(copy[field]) === JSON.stringify(original[field]),
  );
  if (same.length === 0) return null;
  const titleOf = (field: string): string => jsonNodeAt(schema, [...pointerSegments(pointer), field])?.title ?? field;
  return (
    <p role="note" className="rounded-sheet border border-line bg-sunk px-3 py-1 text-sm">
      Still as in {String(original['name'] ?? pointerSegments(from).at(-1))}: {same.map(titleOf).join(', ')}.
    </p>
  );
}
