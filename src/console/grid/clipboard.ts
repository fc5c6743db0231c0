/** Cells as spreadsheets exchange them: rows in lines, cells parted by tabs, quoted where they hold either. */
import { parse } from 'csv-parse/browser/esm/sync';
import { guard, unguard } from '../../core/csv/guard.js';
import { rangeRows } from './place.js';
import type { At, Range } from './place.js';

export interface PlacedText {
  place: At;
  text: string;
}

export const rangeToText = (range: Range, textAt: (place: At) => string): string =>
  rangeRows(range)
    .map((row) => row.map((place) => quoted(guard(textAt(place)))).join('\t'))
    .join('\n');

const quoted = (text: string): string => (/["\t\n\r]/.test(text) ? `"${text.replace(/"/g, '""')}"` : text);

/** What a pasted text puts where. One value alone fills the whole range; more values `cover` a range of their own. */
export function textToCells(pasted: string, range: Range): { cells: PlacedText[]; covers?: Range } {
  const text = pasted.replace(/\r?\n$/, '');
  const block = parse(text, { delimiter: '\t', relax_column_count: true, relax_quotes: true }) as string[][];
  if (block.length === 1 && block[0]!.length === 1) {
    const one = unguard(block[0]![0]!);
    return {
      cells: rangeRows(range)
        .flat()
        .map((place) => ({ place, text: one })),
    };
  }
  const { from } = range;
  const cells = block.flatMap((line, r) =>
    line.map((cell, c) => ({ place: { row: from.row + r, column: from.column + c }, text: unguard(cell) })),
  );
  const to = { row: from.row + block.length - 1, column: from.column + (block[0]?.length ?? 1) - 1 };
  return { cells, covers: { from, to } };
}
