/** Cells as spreadsheets exchange them: rows in lines, cells parted by tabs, quoted where they hold either. */
import { parse } from 'csv-parse/browser/esm/sync';
import { guard, unguard } from '../../core/csv/guard.js';
import { rangeRows } from './place.js';
import type { At, Range } from './place.js';

export interface PlacedText {
  place: At;
  text: string;
}

/** `isCell`: whether a column has cells of the sheet; others are passed over. */
export const rangeToText = (
  range: Range,
  textAt: (place: At) => string,
  isCell: (column: number) => boolean = () => true,
): string =>
  rangeRows(range)
    .map((row) =>
      row
        .filter(({ column }) => isCell(column))
        .map((place) => quoted(guard(textAt(place))))
        .join('\t'),
    )
    .join('\n');

const quoted = (text: string): string => (/["\t\n\r]/.test(text) ? `"${text.replace(/"/g, '""')}"` : text);

/** What a pasted text puts where. One value alone fills the whole range; more values `cover` a range of their own. */
export function textToCells(
  pasted: string,
  range: Range,
  isCell: (column: number) => boolean = () => true,
): { cells: PlacedText[]; covers?: Range } {
  const text = pasted.replace(/\r?\n$/, '');
  const block = parse(text, { delimiter: '\t', relax_column_count: true, relax_quotes: true }) as string[][];
  if (block.length === 1 && block[0]!.length === 1) {
    const one = unguard(block[0]![0]!);
    return {
      cells: rangeRows(range)
        .flat()
        .filter(({ column }) => isCell(column))
        .map((place) => ({ place, text: one })),
    };
  }
  const { from } = range;
  const width = Math.max(...block.map(({ length }) => length));
  const columns: number[] = [];
  for (let column = from.column; columns.length < width; column++) if (isCell(column)) columns.push(column);
  const cells = block.flatMap((line, r) =>
    line.map((cell, c) => ({ place: { row: from.row + r, column: columns[c]! }, text: unguard(cell) })),
  );
  const to = { row: from.row + block.length - 1, column: columns.at(-1)! };
  return { cells, covers: { from, to } };
}
