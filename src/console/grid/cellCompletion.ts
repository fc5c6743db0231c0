/** What could be typed next in a cell, by what its column holds. */
import { cellNameOf } from '../../core/catalog/schemaCell.js';
import type { JsonNode } from '../../core/catalog/index.js';
import type { EconomyDocument } from '../../core/document/index.js';
import { completionsOf } from '../fields/completing.js';
import type { Completion } from '../fields/completing.js';
import { formulaCompletion } from '../fields/formulaCompletion.js';
import { nameables } from '../fields/nameable.js';
import type { Nameable, NameKind } from '../fields/nameable.js';

export interface CellCompletes {
  /** What is picked is the whole cell. */
  whole: boolean;
  at(text: string, caret: number): Completion;
}

/** What a column's cells can name one of; nothing where they hold something else. */
export function choicesOf(document: EconomyDocument, node: JsonNode | undefined): readonly Nameable[] | undefined {
  if (node?.enum) return node.enum.map((id) => ({ id, label: id, hint: node['x-options']?.[id] ?? '' }));
  if (node?.type === 'boolean') return ['yes', 'no'].map((id) => ({ id, label: id, hint: '' }));
  const kind = node?.['x-names'];
  const cell = cellNameOf(node);
  return kind !== undefined && cell === 'text' ? nameables(document, kind as NameKind, []) : undefined;
}

export function cellCompletes(document: EconomyDocument, node: JsonNode | undefined): CellCompletes | undefined {
  const choices = choicesOf(document, node);
  if (choices)
    return {
      whole: true,
      // An emptied cell stays empty.
      at: (text, caret) => ({ from: 0, options: text === '' ? [] : completionsOf(choices, text.slice(0, caret)) }),
    };
  const cell = cellNameOf(node);
  if (cell === 'list')
    return { whole: false, at: (text, caret) => lastOf(nameables(document, 'tag', []), text, caret, /[^,]*$/) };
  if (cell === 'amount' || node?.['x-form'] === 'condition')
    return { whole: false, at: (text, caret) => formulaCompletion(document, undefined, text, caret) };
  if (!['basket', 'price', 'gives', 'loot', 'key'].includes(cell)) return undefined;
  const assets = nameables(document, 'asset', []);
  return {
    whole: false,
    at: (text, caret) => {
      const part = /[^;|]*$/.exec(text.slice(0, caret))![0];
      const completion = lastOf(assets, text, caret, /[a-z_]\w*$/i);
      if (!part.trimStart().startsWith('=')) return completion;
      const formula = formulaCompletion(document, undefined, text, caret);
      return { from: formula.from, options: [...formula.options, ...completion.options].slice(0, 8) };
    },
  };
}

/** Completes the last word before the caret. */
function lastOf(all: readonly Nameable[], text: string, caret: number, word: RegExp): Completion {
  const [found = ''] = word.exec(text.slice(0, caret)) ?? [];
  const sought = found.trimStart();
  return { from: caret - sought.length, options: sought === '' ? [] : completionsOf(all, sought) };
}
