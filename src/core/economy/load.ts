/** From texts or a raw value to a checked document with its compiled economy, and every issue with its place. */
import type { Issue, Place } from '../issue/index.js';
import { economyCompile } from './compile.js';
import { folderRead } from '../files/index.js';
import type { SourceFile } from '../files/index.js';
import type { EconomyDocument } from '../document/index.js';
import type { Economy } from './types.js';
import { documentValidate } from '../document/index.js';

export interface EconomyLoaded {
  /** Missing where the text or the shape cannot be read at all. */
  document?: EconomyDocument;
  economy?: Economy;
  issues: Issue[];
  placeOf(pointer: string): Place | undefined;
}

/** Reads an economy folder's files: syntax, then shape, then references; each stage reports all it finds. */
export function economyLoad(files: readonly SourceFile[]): EconomyLoaded {
  const { raw, issues, placeOf } = folderRead(files);
  if (issues.length > 0) return { issues, placeOf };
  const checked = documentValidate(raw);
  const withPlace = (issue: Issue): Issue => ({ ...issue, place: placeOf(issue.pointer) });
  if (!checked.ok) return { issues: checked.issues.map(withPlace), placeOf };
  const { economy, issues: compileIssues } = economyCompile(checked.value);
  return { document: checked.value, economy, issues: compileIssues.map(withPlace), placeOf };
}
