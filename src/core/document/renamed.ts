/** Documents from before a field had the name that it has now. */
import { pointerOf, pointerSegments } from '../issue/index.js';
import type { Issue } from '../issue/index.js';
import { economySchema } from './schema.js';
import type { EconomyDocument } from './schema.js';
import { schemaIssues } from '../schema/index.js';
import { valueAt } from './pointers.js';
import { referencesFollow } from './references.js';

/** One field that stands under an old name. */
export interface Renaming {
  pointer: string;
  name: string;
}

const renamingsIn = (issues: readonly Issue[]): Renaming[] =>
  issues.flatMap(({ pointer, renamed }) => (renamed === undefined ? [] : [{ pointer, name: renamed }]));

/**
 * The document with the names of today, each field in its place, and what was renamed. Undefined where it cannot be
 * read for other reasons: what names a place in it could not be followed then.
 */
export function documentRenamed(raw: unknown): { document: EconomyDocument; renamings: Renaming[] } | undefined {
  const renamings = renamingsIn(schemaIssues(economySchema, raw));
  if (renamings.length === 0) return { document: raw as EconomyDocument, renamings };
  const document = structuredClone(raw) as EconomyDocument;
  const moves = renamings.map(({ pointer, name }) => {
    const path = pointerSegments(pointer);
    fieldRename(valueAt(document, path.slice(0, -1)) as Record<string, unknown>, path.at(-1)!, name);
    return { from: pointer, to: pointerOf([...path.slice(0, -1), name]) };
  });
  if (schemaIssues(economySchema, document).length > 0) return undefined;
  for (const { from, to } of moves) referencesFollow(document, from, to);
  return { document, renamings };
}

function fieldRename(group: Record<string, unknown>, from: string, to: string): void {
  const entries = Object.entries(group);
  for (const key of Object.keys(group)) delete group[key];
  for (const [key, value] of entries) group[key === from ? to : key] = value;
}
