import fc from 'fast-check';
import { arbitraryOf } from '../../../tests/support/arbitrary.js';
import { economySchema, valueAt } from '../document/index.js';
import type { EconomyDocument } from '../document/index.js';
import { blockOf, fieldsOf } from '../schema/index.js';
import type { AnySchema } from '../schema/index.js';
import { SHEETS, SHEET_NAMES, csvRead, csvWrite } from './index.js';
import type { SheetName } from './index.js';

/** The fields that a row may have, as the schema says. */
function fieldsOfRow(name: SheetName): string[] {
  let schema: AnySchema = economySchema;
  for (const segment of SHEETS[name].path(SHEETS[name].keys)) {
    const block = blockOf(schema);
    schema = block.kind === 'map' ? block.inner : fieldsOf(schema)[segment]!;
  }
  return Object.keys(fieldsOf(schema));
}

test.each(SHEET_NAMES)('%s: every field of a row has a column', (name) => {
  expect(SHEETS[name].columns.map(({ field }) => field).sort()).toEqual(fieldsOfRow(name).sort());
});

test('any document goes out as CSV and comes back whole', () => {
  let rows = 0;
  fc.assert(
    fc.property(arbitraryOf(economySchema), (any) => {
      const document = any as EconomyDocument;
      for (const name of SHEET_NAMES) {
        const csv = csvWrite(document, name);
        const bare = structuredClone(document);
        const sheet = SHEETS[name];
        for (const { keys } of sheet.rows(document)) {
          const path = sheet.path(keys);
          (valueAt(bare, path.slice(0, -1)) as Record<string, unknown>)[path.at(-1)!] = {};
          rows++;
        }
        const read = csvRead(bare, name, csv);
        if (!read.ok) throw new Error(`${name}: ${JSON.stringify(read.problems)}\n${csv}`);
        expect(sheet.rows(read.document)).toEqual(sheet.rows(document));
      }
    }),
    { numRuns: 300, endOnFailure: true },
  );
  expect(rows).toBeGreaterThan(500);
});
