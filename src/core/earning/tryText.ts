/** Events to be tried as one line each: `race_finished place=3 difficulty=2 x20`. In addresses and on the command line. */

/** As it is written: fields are texts until an economy says what they are. */
export interface TryLine {
  name: string;
  fields: Readonly<Record<string, string>>;
  times: number;
}

const TIMES = /^x(\d{1,6})$/;
/** Between two lines that stand in one. */
const NEXT = ';';

export function tryLineRead(text: string): TryLine {
  const [name = '', ...words] = text.trim().split(/\s+/);
  const times = words.map((word) => TIMES.exec(word)?.[1]).findLast((one) => one !== undefined);
  const fields = words.flatMap((word): [string, string][] => {
    const at = word.indexOf('=');
    return at < 1 ? [] : [[word.slice(0, at), decoded(word.slice(at + 1))]];
  });
  return { name, fields: Object.fromEntries(fields), times: Math.max(1, Number(times ?? 1)) };
}

/** What was mistyped stands as it is. */
function decoded(text: string): string {
  try {
    return decodeURIComponent(text);
  } catch {
    return text;
  }
}

export const tryLinesRead = (text: string): TryLine[] =>
  text
    .split(NEXT)
    .filter((one) => one.trim() !== '')
    .map(tryLineRead);

/** A text of several words stands encoded, so that it stays one word. */
export const tryLinesWrite = (lines: readonly TryLine[]): string =>
  lines
    .map(({ name, fields, times }) =>
      [
        name,
        ...Object.entries(fields).map(([field, value]) => `${field}=${encodeURIComponent(value)}`),
        ...(times === 1 ? [] : [`x${times}`]),
      ].join(' '),
    )
    .join(NEXT);
