/** Other values at several places that there are, as one edit: what a search for prices found, say. */
import { overridesApply } from '../document/index.js';
import type { EconomyDocument } from '../document/index.js';
import { economyCompile, issueBlocksSaving } from '../economy/index.js';
import type { Edited } from './outcome.js';

export interface AdjustEdit {
  kind: 'adjust';
  /** Values by JSON pointer. */
  set: Record<string, unknown>;
}

export function adjust(document: EconomyDocument, { set }: AdjustEdit): Edited {
  const changed = overridesApply(document, set);
  if (!changed.ok) return changed;
  const issues = economyCompile(changed.value).issues.filter(issueBlocksSaving);
  return issues.length > 0 ? { ok: false, issues } : { ok: true, document: changed.value, notes: [] };
}
