/** Lines on stdout and stderr. */
import picocolors from 'picocolors';

/** Colours for a terminal only: in a build pipeline, as in any pipe, text stays plain. NO_COLOR turns them off. */
export const colors = picocolors.createColors(process.stdout.isTTY === true && !process.env['NO_COLOR']);

// A reader that has seen enough (head, less) ends the command quietly.
process.stdout.on('error', (error: NodeJS.ErrnoException) => {
  if (error.code !== 'EPIPE') throw error;
  process.exit();
});

export const print = (line = ''): void => {
  process.stdout.write(`${line}\n`);
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
  print(JSON.stringify(value, null, 2));
};
export const complain = (line: string): void => {
  process.stderr.write(`${line}\n`);
};
