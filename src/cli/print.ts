/** Lines on stdout and stderr. */
import picocolors from 'picocolors';

/** Colours for a terminal only: in a build pipeline, as in any pipe, text stays plain. NO_COLOR turns them off. */
export const colors = picocolors.createColors(process.stdout.isTTY === true && !process.env['NO_COLOR']);

// A reader that has seen enough (head, less) ends the command quietly.
process.stdout.on('error', (error: NodeJS.ErrnoException) => {
  if (error.code !== 'EPIPE') throw error;
  process.exit();
});

/** What is printed, for a report that keeps it: undefined where none is asked for. */
export type Printed =
  | { kind: 'line'; text: string }
  | { kind: 'heading'; text: string; more?: string | undefined }
  | { kind: 'table'; head: readonly string[]; rows: readonly (readonly (string | number)[])[] };
let kept: Printed[] | undefined;
export const keepPrinted = (): void => {
  kept = [];
};
/** What was printed since; nothing is kept any more. */
export const printedKept = (): Printed[] | undefined => {
  const all = kept;
  kept = undefined;
  return all;
};

/** The colours of `colors` and ends of lines stay. */
// oxlint-disable-next-line no-control-regex
const CONTROLS = /\x1b\[(?:1|2|22|3\d)m|\r\n|[\x00-\x08\x0b-\x1f\x7f-\x9f]/g;

/** Names and texts come from others: what would move the cursor, clear the screen or hide words is shown as a mark. */
export const shownSafely = (text: string): string =>
  text.replace(CONTROLS, (found) => (found.length > 1 ? found : '\ufffd'));

/** `as`: how a report keeps it, where that is something else than a line. */
export const print = (line = '', as?: Printed): void => {
  kept?.push(as ?? { kind: 'line', text: line });
  process.stdout.write(`${shownSafely(line)}\n`);
};
/** Whether the command has answered in JSON: it does so once. */
let answered = false;
export const hasAnswered = (): boolean => answered;
/** For the next command. */
export const answersAnew = (): void => {
  answered = false;
};
export const printJson = (value: unknown): void => {
  answered = true;
  // JSON itself escapes the lower controls only.
  print(JSON.stringify(value, null, 2).replace(/[\x7f-\x9f]/g, (one) => `\\u00${one.charCodeAt(0).toString(16)}`));
};
export const complain = (line: string): void => {
  process.stderr.write(`${shownSafely(line)}\n`);
};
