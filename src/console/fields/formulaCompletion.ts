/** What could be typed next in a formula: names, functions, and things below those that look them up. */
import type { EconomyDocument } from '../../core/document/index.js';
import { FUNCTION_NAMES, LOOKUPS } from '../../core/formula/functions.js';
import type { LookupName } from '../../core/formula/index.js';
import { completionsOf } from './completing.js';
import type { Completion } from './completing.js';
import { nameables } from './nameable.js';
import type { Nameable, NameKind } from './nameable.js';

const LOOKS_UP: Readonly<Record<LookupName, NameKind>> = { owned: 'item', balance: 'currency', bought: 'offer' };
/** What could stand where the caret is: things below `owned(` and the like, names and functions elsewhere. */
export function formulaCompletion(
  document: EconomyDocument,
  event: string | undefined,
  text: string,
  caret: number,
): Completion {
  const before = text.slice(0, caret);
  const [word = ''] = /[a-z_]\w*$/i.exec(before) ?? [];
  const from = caret - word.length;
  const lookup = new RegExp(`(${LOOKUPS.join('|')})\\(\\s*$`).exec(before.slice(0, from))?.[1] as
    | LookupName
    | undefined;
  const all = lookup ? nameables(document, LOOKS_UP[lookup], []) : namesFor(document, event);
  if (word === '' && !lookup) return { from, options: [] };
  return { from, options: completionsOf(all, word) };
}

function namesFor(document: EconomyDocument, event: string | undefined): Nameable[] {
  const fields = event === undefined ? {} : (document.events?.[event]?.fields ?? {});
  return [
    ...Object.entries(fields).map(([id, type]) => ({ id, label: id, hint: `${type} of the event` })),
    ...nameables(document, 'attribute', []).map((one) => ({ ...one, label: one.id, hint: one.label })),
    { id: 'day', label: 'day', hint: "days since the player's first" },
    ...FUNCTION_NAMES.map((name) => ({
      id: `${name}(`,
      label: `${name}( )`,
      hint: name in LOOKS_UP ? 'of the player' : 'function',
    })),
  ];
}
