/** The one way in which CSV (RFC 4180) leaves: lines end in CR LF, and a spreadsheet runs no text of it as a formula. */
import { stringify } from 'csv-stringify/sync';
import { guard } from './guard.js';

/** Rows with their head; texts are guarded, numbers stand as they are, and null is an empty cell. */
export const csvText = (rows: readonly (readonly (string | number | null)[])[], delimiter: ',' | ';' = ','): string =>
  stringify(
    rows.map((row) => row.map((cell) => (typeof cell === 'string' ? guard(cell) : cell))),
    { delimiter, record_delimiter: 'windows' },
  );
