/** Other values at places of a document. */
import { pointerSegments } from '../issue/index.js';
import type { Issue, Result } from '../issue/index.js';
import { valueAt } from './pointers.js';
import type { EconomyDocument } from './schema.js';
import { documentValidate } from './validate.js';

/** The document with values put at pointers that already lead somewhere; the original is left alone. */
export function overridesApply(
  document: EconomyDocument,
  set: Readonly<Record<string, unknown>>,
): Result<EconomyDocument> {
  const copy = structuredClone(document);
  const issues: Issue[] = [];
  for (const [pointer, value] of Object.entries(set)) {
    const segments = pointerSegments(pointer);
    const parent = valueAt(copy, segments.slice(0, -1));
    if (typeof parent !== 'object' || parent === null || !Object.hasOwn(parent, segments.at(-1) ?? '')) {
      issues.push({
        code: 'dangling-reference',
        pointer,
        message: `the override ${pointer} leads to nothing`,
        fix: 'Write a pointer to a value that the economy has.',
      });
    } else (parent as Record<string, unknown>)[segments.at(-1)!] = value;
  }
  if (issues.length > 0) return { ok: false, issues };
  return documentValidate(copy);
}
