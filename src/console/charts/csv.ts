/** Tables as CSV. */

/** RFC 4180; a text that a spreadsheet would run as a formula is led by an apostrophe. */
export function toCsv(head: readonly string[], rows: readonly (readonly (string | number | null)[])[]): string {
  const cell = (value: string | number | null): string => {
    if (value === null) return '';
    const text = typeof value === 'string' && /^[=+\-@\t\r]/.test(value) ? `'${value}` : String(value);
    return /[",\r\n]/.test(text) ? `"${text.replace(/"/g, '""')}"` : text;
  };
  return [head, ...rows].map((row) => row.map(cell).join(',')).join('\r\n') + '\r\n';
}
