import fc from 'fast-check';
import { arbitraryOf } from '../../../tests/support/arbitrary.js';
import { demoDocument } from '../../../tests/support/economy.js';
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

// Of a sheet that has only some rows, the others have more than it can say.
test.each(SHEET_NAMES.filter((name) => !SHEETS[name].only))('%s: every field of a row has a column', (name) => {
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

test('cases of one purchase come by row: who holds what, which offer, what is expected; others are left alone', () => {
  const document = demoDocument();
  const [head, ...rows] = csvWrite(document, 'cases').trimEnd().split('\r\n');
  expect(head).toBe('id,name,at,attributes,holds,offer,times,pay,expected,seed,description');
  expect(rows).toEqual([
    'charm_full,Whoever holds five Calm Charms has no room,2027-03-01T10:00,,200 shells; 5 calm_charm,calm_charm,,,refused for carry-full,,',
  ]);
  const read = csvRead(
    document,
    'cases',
    [
      'id,name,at,attributes,holds,offer,times,expected',
      'gull_short,One short,2027-03-01T10:00,"level=2, pilot=true",449 shells,gull_frame,,short-of',
      'charm_full,No room,2027-03-01T10:00,,5 calm_charm,calm_charm,2,"carry-full, short-of"',
    ].join('\n'),
  );
  if (!read.ok) throw new Error(JSON.stringify(read.problems));
  const { gull_short: made, charm_full: changed, ...others } = read.document.cases!;
  expect(made).toEqual({
    name: 'One short',
    at: '2027-03-01T10:00',
    player: { attributes: { level: 2, pilot: true }, holds: { shells: 449 } },
    steps: [{ buy: 'gull_frame', expect: { verdict: ['short-of'] } }],
  });
  expect(changed).toEqual({
    name: 'No room',
    at: '2027-03-01T10:00',
    player: { holds: { calm_charm: 5 } },
    steps: [{ buy: 'calm_charm', times: 2, expect: { verdict: ['carry-full', 'short-of'] } }],
  });
  const { charm_full: _, ...before } = document.cases!;
  expect(others).toEqual(before);
  const refused = csvRead(document, 'cases', 'id,offer,expected\nkit_once,first_flight_kit,allowed\nnew,wax_1,maybe\n');
  expect(
    refused.ok ? [] : refused.problems.map(({ line, column, message }) => [line, column, message.slice(0, 40)]),
  ).toEqual([[2, 'id', '"kit_once" has more than a row can say (']]);
});
