/** Texts that a spreadsheet would run as formulas. */

/** What a spreadsheet would run (OWASP, "CSV injection"), apostrophes that stand before it included. */
const RUNS = /^'*[=+\-@\t\r]/;
/** A text for a spreadsheet: what it would run gets an apostrophe in front. */
export const guard = (text: string): string => (RUNS.test(text) ? `'${text}` : text);
/** And back. */
export const unguard = (text: string): string => (text.startsWith("'") && RUNS.test(text) ? text.slice(1) : text);
