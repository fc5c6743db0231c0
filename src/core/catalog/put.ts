/** Whole things put into their sections as one edit; those of the same id are replaced. What a fit of a log found, say. */
import { SECTIONS, documentValidate } from '../document/index.js';
import type { EconomyDocument } from '../document/index.js';
import { economyCompile, issueBlocksSaving } from '../economy/index.js';
import { pointerOf } from '../issue/index.js';
import type { Edited } from './outcome.js';
import { refuse } from './outcome.js';

export interface PutEdit {
  kind: 'put';
  /** Things by section and id. */
  things: Record<string, Record<string, unknown>>;
}

export function put(document: EconomyDocument, { things }: PutEdit): Edited {
  const sections = document as unknown as Record<string, Record<string, unknown>>;
  const notes: string[] = [];
  for (const [section, own] of Object.entries(things)) {
    if (!(SECTIONS as readonly string[]).includes(section))
      return refuse(pointerOf([section]), `there is no section "${section}"`, `Sections: ${SECTIONS.join(', ')}.`);
    for (const id of Object.keys(own))
      if (Object.hasOwn(sections[section] ?? {}, id)) notes.push(`${section}/${id} was there and is replaced.`);
    sections[section] = { ...sections[section], ...own };
  }
  const checked = documentValidate(document);
  const issues = checked.ok ? economyCompile(document).issues.filter(issueBlocksSaving) : checked.issues;
  return issues.length > 0 ? { ok: false, issues } : { ok: true, document, notes };
}
