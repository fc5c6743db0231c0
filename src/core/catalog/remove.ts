/** Removing a thing, with what refers to it. */
import { documentTexts, documentValidate, thingsAt, usesOf, valueAt } from '../document/index.js';
import { economyCompile, issueBlocksSaving } from '../economy/index.js';
import type { EconomyDocument, Use } from '../document/index.js';
import { pointerSegments } from '../issue/index.js';
import type { Edited } from './outcome.js';
import { nothingAt } from './outcome.js';

/** `mend`: what refers to it goes too. Without it, references refuse the removal and are listed. */
export interface RemoveEdit {
  kind: 'remove';
  pointer: string;
  mend?: boolean;
}

export function remove(document: EconomyDocument, { pointer, mend }: RemoveEdit): Edited {
  if (pointer === '' || valueAt(document, pointerSegments(pointer)) === undefined) return nothingAt(pointer);
  const notes: string[] = [];
  const texts = textKeys(document);
  const refused = removeAt(document, pointer, mend === true, notes);
  if (refused) return refused;
  textsCut(document, texts, textKeys(document));
  const checked = documentValidate(document);
  const issues = checked.ok ? economyCompile(document).issues.filter(issueBlocksSaving) : checked.issues;
  return issues.length > 0 ? { ok: false, issues } : { ok: true, document, notes };
}

const textKeys = (document: EconomyDocument): Set<string> =>
  new Set(document.texts === undefined ? [] : documentTexts(document).map(({ key }) => key));

/** What players would read of something that is gone goes with it, in every language. */
function textsCut(document: EconomyDocument, before: ReadonlySet<string>, after: ReadonlySet<string>): void {
  for (const texts of Object.values(document.texts ?? {}))
    for (const key of Object.keys(texts)) if (before.has(key) && !after.has(key)) Reflect.deleteProperty(texts, key);
}

function removeAt(document: EconomyDocument, pointer: string, mend: boolean, notes: string[]): Edited | undefined {
  const inside = (use: Use) => use.pointer === pointer || use.pointer.startsWith(`${pointer}/`);
  const uses = thingsAt(document, pointer)
    .flatMap((thing) => usesOf(document, thing))
    .filter((use) => !inside(use));
  const byHand = uses.filter(({ cut }) => cut === null);
  if (uses.length > 0 && (!mend || byHand.length > 0))
    return {
      ok: false,
      uses,
      issues: (mend ? byHand : uses).map((use) => ({
        code: 'dangling-reference',
        pointer: use.pointer,
        message: `${use.words} would refer to nothing`,
        fix:
          use.cut === null
            ? 'It stands in a formula: mend that by hand first.'
            : 'Remove it together with what refers to it, or change that first.',
      })),
    };
  cutAt(document, pointer);
  // The last first, so that places in lists stay right.
  const cuts = [...new Set(uses.map(({ cut }) => cut!))].sort(byPlace).reverse();
  for (const cut of cuts) {
    if (valueAt(document, pointerSegments(cut)) === undefined) continue;
    notes.push(`removed with it: ${uses.find((use) => use.cut === cut)!.words}`);
    const refused = removeAt(document, cut, mend, notes);
    if (refused) return refused;
  }
  return undefined;
}

/** Places of a list by number: the tenth stands behind the second. */
const byPlace = new Intl.Collator('en', { numeric: true }).compare;

/** Takes out what stands there; a list of prices that is left empty takes its offer along. */
function cutAt(document: EconomyDocument, pointer: string): void {
  const segments = pointerSegments(pointer);
  const parent = valueAt(document, segments.slice(0, -1)) as Record<string, unknown> | unknown[];
  if (!Array.isArray(parent)) {
    Reflect.deleteProperty(parent, segments.at(-1)!);
    return;
  }
  parent.splice(Number(segments.at(-1)), 1);
  const holder = valueAt(document, segments.slice(0, -2)) as Record<string, unknown>;
  const field = segments.at(-2)!;
  if (parent.length > 0) return;
  if (field === 'price') {
    const shelf = valueAt(document, segments.slice(0, -3)) as Record<string, unknown>;
    Reflect.deleteProperty(shelf, segments.at(-3)!);
  } else Reflect.deleteProperty(holder, field);
}
