/** Files that are named on the command line. */
import { isUtf8 } from 'node:buffer';
import { readFileSync } from 'node:fs';
import { UsageProblem } from './context.js';

/** Throws what the operating system says, always with the path, and where the text is not UTF-8. */
export function fileText(path: string): string {
  let bytes: Buffer;
  try {
    bytes = readFileSync(path);
  } catch (error) {
    throw Object.assign(error as Error, { path });
  }
  if (!isUtf8(bytes))
    throw new UsageProblem(`"${path}" is not UTF-8 in line ${notUtf8Line(bytes)}. Save it as UTF-8, and try again.`);
  return bytes.toString('utf8');
}

/** No letter of UTF-8 but the end of a line holds its byte. */
function notUtf8Line(bytes: Buffer): number {
  let line = 1;
  for (let from = 0; ; line++) {
    const end = bytes.indexOf('\n', from);
    if (end < 0 || !isUtf8(bytes.subarray(from, end))) return line;
    from = end + 1;
  }
}

/** What stands in a JSON file. Throws a usage problem where it is none. */
export function fileJson(path: string): unknown {
  const text = fileText(path);
  try {
    return JSON.parse(text);
  } catch (error) {
    throw new UsageProblem(`"${path}" is no JSON: ${(error as Error).message}.`);
  }
}
