/** Following pointers through documents. */

/** The value a pointer's segments lead to, or undefined. */
export function valueAt(document: unknown, segments: readonly string[]): unknown {
  let value = document;
  for (const segment of segments) {
    if (typeof value !== 'object' || value === null || !Object.hasOwn(value, segment)) return undefined;
    value = (value as Record<string, unknown>)[segment];
  }
  return value;
}
