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
  let issues = schemaIssues(economySchema, raw);
  if (renamingsIn(issues).length === 0) return { document: raw as EconomyDocument, renamings: [] };
  const document = structuredClone(raw) as EconomyDocument;
  const renamings: Renaming[] = [];
  // Not all may be told at once.
  for (let found = renamingsIn(issues); found.length > 0; found = renamingsIn(issues)) {
    for (const { pointer, name } of found) fieldRename({ document }, ['document', ...pointerSegments(pointer)], name);
    renamings.push(...found);
    issues = schemaIssues(economySchema, document);
  }
  if (issues.length > 0) return undefined;
  for (const { pointer, name } of renamings)
    referencesFollow(document, pointer, pointerOf([...pointerSegments(pointer).slice(0, -1), name]));
  return { document, renamings };
}

/** In its place among the others. */
function fieldRename(root: { document: unknown }, path: readonly string[], name: string): void {
  const holder = valueAt(root, path.slice(0, -2)) as Record<string, object>;
  const [group, field] = path.slice(-2) as [string, string];
  holder[group] = Object.fromEntries(
    Object.entries(holder[group]!).map(([key, value]) => [key === field ? name : key, value]),
  );
}
