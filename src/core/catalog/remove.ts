/** Removing a thing, with what refers to it. */
import {
  danglingReferences,
  documentTexts,
  documentValidate,
  placeWords,
  useOf,
  valueAt,
  walkAlong,
} from '../document/index.js';
import type { Dangling, EconomyDocument } from '../document/index.js';
import { economyCompile, issueBlocksSaving } from '../economy/index.js';
import { pointerOf, pointerSegments } from '../issue/index.js';
import type { Edited } from './outcome.js';
import { nothingAt } from './outcome.js';

/** `mend`: what refers to it goes too. Without it, references refuse the removal and are listed. */
export interface RemoveEdit {
  kind: 'remove';
  pointer: string;
  mend?: boolean;
}

export function remove(document: EconomyDocument, { pointer, mend = false }: RemoveEdit): Edited {
  if (pointer === '' || valueAt(document, pointerSegments(pointer)) === undefined) return nothingAt(pointer);
  const notes: string[] = [];
  const texts = textKeys(document);
  // What named nothing before has nothing to do with this removal.
  const before = new Set(danglingReferences(document).map(nameOf));
  const danglingNow = () => danglingReferences(document).filter((dangling) => !before.has(nameOf(dangling)));
  const whole = structuredClone(document);
  cutAt(document, pointerSegments(pointer));
  // What goes may itself be named elsewhere, so this is looked at until nothing new dangles.
  for (let dangling = danglingNow(); dangling.length > 0; dangling = danglingNow()) {
    const asked = dangling.filter(({ aside }) => !aside);
    const byHand = asked.filter(({ cut }) => cut === null);
    if (mend ? byHand.length > 0 : asked.length > 0) return refused(whole, mend ? byHand : asked);
    const cuts = new Map(dangling.map((one) => [pointerOf(one.cut!), one]));
    // The last first, so that places in lists stay right.
    for (const [at, { cut, path, aside }] of [...cuts].sort(([a], [b]) => byPlace(b, a))) {
      if (valueAt(document, cut!) === undefined) continue;
      if (!aside) notes.push(`removed with it: ${placeWords(whole, path)}`);
      cutAt(document, pointerSegments(at));
    }
  }
  textsCut(document, texts, textKeys(document));
  const checked = documentValidate(document);
  const issues = checked.ok ? economyCompile(document).issues.filter(issueBlocksSaving) : checked.issues;
  return issues.length > 0 ? { ok: false, issues } : { ok: true, document, notes };
}

const nameOf = ({ kind, id }: Dangling): string => `${kind} ${id}`;

function refused(document: EconomyDocument, dangling: readonly Dangling[]): Edited {
  const uses = dangling.map((one) => useOf(document, one));
  return {
    ok: false,
    uses,
    issues: uses.map(({ pointer, words, cut }) => ({
      code: 'dangling-reference',
      pointer,
      message: `${words} would refer to nothing`,
      fix:
        cut === null
          ? 'It stands in a formula: mend that by hand first.'
          : 'Remove it together with what refers to it, or change that first.',
    })),
  };
}

const textKeys = (document: EconomyDocument): Set<string> =>
  new Set(document.texts === undefined ? [] : documentTexts(document).map(({ key }) => key));

/** What players would read of something that is gone goes with it, in every language. */
function textsCut(document: EconomyDocument, before: ReadonlySet<string>, after: ReadonlySet<string>): void {
  for (const texts of Object.values(document.texts ?? {}))
    for (const key of Object.keys(texts)) if (before.has(key) && !after.has(key)) Reflect.deleteProperty(texts, key);
}

/** Places of a list by number: the tenth stands behind the second. */
const byPlace = new Intl.Collator('en', { numeric: true }).compare;

/**
 * Takes out what stands there. A list that is left empty goes too; what cannot do without it goes along: an offer
 * without its prices would fall back to the worth, and a sale without its shops would hold everywhere.
 */
function cutAt(document: EconomyDocument, path: readonly string[]): void {
  const parent = valueAt(document, path.slice(0, -1)) as Record<string, unknown> | unknown[];
  if (!Array.isArray(parent)) {
    Reflect.deleteProperty(parent, path.at(-1)!);
    return;
  }
  parent.splice(Number(path.at(-1)), 1);
  if (parent.length > 0) return;
  const list = path.slice(0, -1);
  cutAt(document, walkAlong(document, list).at(-1)?.wholeAround ?? list);
}
