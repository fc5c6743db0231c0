/** Setting one value by its pointer, groups on the way included; without a value it is taken away. */
import { documentValidate, valueAt } from '../document/index.js';
import { economyCompile, issueBlocksSaving } from '../economy/index.js';
import type { EconomyDocument } from '../document/index.js';
import { pointerSegments } from '../issue/index.js';
import type { Edited } from './outcome.js';
import { nothingAt, refuse } from './outcome.js';

export interface SetEdit {
  kind: 'set';
  pointer: string;
  value?: unknown;
}

export function setValue(document: EconomyDocument, { pointer, value }: SetEdit): Edited {
  const segments = pointerSegments(pointer);
  if (segments.length === 0) return refuse('', 'the whole economy cannot be set', 'Name a part, such as /items/wax.');
  // A pointer leads through what is written, never into what objects and lists are made of.
  if (segments.includes('__proto__')) return nothingAt(pointer);
  if (value === undefined && valueAt(document, segments) === undefined) return nothingAt(pointer);
  let parent = document as unknown as Record<string, unknown>;
  for (const segment of segments.slice(0, -1)) {
    if (Array.isArray(parent) && !Object.hasOwn(parent, segment)) return nothingAt(pointer);
    const next = Object.hasOwn(parent, segment) ? parent[segment] : (parent[segment] = {});
    if (typeof next !== 'object' || next === null) return nothingAt(pointer);
    parent = next as Record<string, unknown>;
  }
  const last = segments.at(-1)!;
  if (Array.isArray(parent) && !(/^\d{1,6}$/.test(last) && Number(last) <= parent.length)) return nothingAt(pointer);
  if (value !== undefined) parent[last] = value;
  else if (Array.isArray(parent)) parent.splice(Number(last), 1);
  else Reflect.deleteProperty(parent, last);
  const checked = documentValidate(document);
  const issues = checked.ok ? economyCompile(document).issues.filter(issueBlocksSaving) : checked.issues;
  return issues.length > 0 ? { ok: false, issues } : { ok: true, document, notes: [], made: pointer };
}
