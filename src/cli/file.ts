/** Files that are named on the command line. */
import { readFileSync } from 'node:fs';
import { UsageProblem } from './context.js';

/** Throws what the operating system says, always with the path. */
export function fileText(path: string): string {
  try {
    return readFileSync(path, 'utf8');
  } catch (error) {
    throw Object.assign(error as Error, { path });
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
