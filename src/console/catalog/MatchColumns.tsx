/** A table with columns of its own: each is matched with what it holds, by guess first and by hand where that is wrong. */
import { columnPath } from '../../core/catalog/sheet.js';
import { cellNameOf, jsonNodeAt } from '../../core/catalog/schemaCell.js';
import type { JsonNode, Sheet } from '../../core/catalog/index.js';
import { amountFields } from '../../core/catalog/table.js';
import type { Match, Table } from '../../core/catalog/table.js';
import type { EconomyDocument } from '../../core/document/index.js';
import { Choice, DataTable, Field } from '../parts/ui.js';

/** What was chosen by hand; what was not is guessed. */
export interface ByHand {
  /** By the name of the column, so that the next table of the same columns has them. */
  matches: Readonly<Record<string, Match>>;
  decimalComma?: boolean;
  otherwise: Readonly<Record<string, string>>;
}
export const NOTHING_BY_HAND: ByHand = { matches: {}, otherwise: {} };

const SAMPLES = 3;
/** What a column is called, also where it has no name. */
export const headOf = (table: Table, index: number): string => table.head[index] || `column ${index + 1}`;

const valueOf = (match: Match): string => JSON.stringify(match);

interface Asked {
  sheet: Sheet;
  schema: JsonNode;
  document: EconomyDocument;
  table: Table;
  matches: readonly Match[];
  decimalComma: boolean;
  byHand: ByHand;
  onChange: (byHand: ByHand) => void;
}

export function MatchColumns({ sheet, schema, document, table, matches, decimalComma, byHand, onChange }: Asked) {
  const options = matchOptions(sheet, schema, document);
  const put = (part: Partial<ByHand>): void => onChange({ ...byHand, ...part });
  const rows = table.head.map((_, index) => ({ head: headOf(table, index), index }));
  const missing = missingColumns(sheet, schema, document, matches);
  return (
    <div className="mt-3 flex flex-col gap-3" role="region" aria-label="Columns">
      <DataTable
        label="Columns of the table"
        rows={rows}
        rowKey={({ index }) => String(index)}
        columns={[
          { head: 'In your table', cell: ({ head }) => <span className="font-semibold">{head}</span> },
          {
            head: 'such as',
            cell: ({ index }) => (
              <span className="text-sm text-soft">
                {table.rows
                  .slice(0, SAMPLES)
                  .map(({ record }) => record[index]?.trim() ?? '')
                  .filter(Boolean)
                  .join(' · ')}
              </span>
            ),
          },
          {
            head: 'is',
            cell: ({ head, index }) => (
              <Choice
                label={`${head} is`}
                value={valueOf(matches[index]!)}
                options={options}
                onChange={(next) => put({ matches: { ...byHand.matches, [head]: JSON.parse(next) as Match } })}
              />
            ),
          },
        ]}
      />
      <div className="flex flex-wrap gap-4">
        <Field label="Two and a half is written">
          {(id) => (
            <Choice
              id={id}
              value={decimalComma ? 'comma' : 'point'}
              options={[
                { value: 'point', label: '2.5' },
                { value: 'comma', label: '2,5' },
              ]}
              onChange={(sign) => put({ decimalComma: sign === 'comma' })}
            />
          )}
        </Field>
        {missing.map(({ field, label, choices }) => (
          <Field key={field} label={`${label} of all new rows`}>
            {(id) => (
              <Choice
                id={id}
                value={byHand.otherwise[field] ?? ''}
                options={choices}
                onChange={(value) => put({ otherwise: { ...byHand.otherwise, [field]: value } })}
              />
            )}
          </Field>
        ))}
      </div>
      {!matches.some((match) => match.kind === 'column' && match.field === sheet.keys.at(-1)) && (
        <p className="text-sm text-soft">
          No column holds ids: each row gets one from its name, and a row whose id is there already changes what it
          names.
        </p>
      )}
    </div>
  );
}

export const labelOf = (schema: JsonNode, sheet: Sheet, field: string): string =>
  jsonNodeAt(schema, columnPath(sheet, field))?.title ?? field;

function matchOptions(sheet: Sheet, schema: JsonNode, document: EconomyDocument): { value: string; label: string }[] {
  const amounts = amountFields(schema, sheet).flatMap((field) =>
    Object.entries(document.currencies ?? {}).map(([asset, { name }]) => ({
      value: valueOf({ kind: 'amount', field, asset }),
      label: `${labelOf(schema, sheet, field)}, in ${name}`,
    })),
  );
  return [
    { value: valueOf({ kind: 'none' }), label: '(leave it out)' },
    ...sheet.keys.map((field) => ({ value: valueOf({ kind: 'column', field }), label: field })),
    ...sheet.columns.map(({ field }) => ({
      value: valueOf({ kind: 'column', field }),
      label: labelOf(schema, sheet, field),
    })),
    ...amounts,
  ];
}

/** What a row must have and the table does not: chosen once for all that are new. */
function missingColumns(
  sheet: Sheet,
  schema: JsonNode,
  document: EconomyDocument,
  matches: readonly Match[],
): { field: string; label: string; choices: { value: string; label: string }[] }[] {
  const has = (field: string) => matches.some((match) => match.kind !== 'none' && match.field === field);
  const keys = sheet.keys.slice(0, -1).filter((key) => !has(key));
  const needed = sheet.columns
    .filter(({ field, needed: must }) => must && !has(field))
    .map(({ field }) => ({ field, node: jsonNodeAt(schema, columnPath(sheet, field)) }))
    .filter(({ node }) => node?.enum && cellNameOf(node) === 'text');
  return [
    ...keys.map((field) => ({ field, label: field, choices: keyChoices(field, document) })),
    ...needed.map(({ field, node }) => ({
      field,
      label: node?.title ?? field,
      choices: node!.enum!.map((one) => ({ value: one, label: node!['x-options']?.[one] ?? one })),
    })),
  ];
}

function keyChoices(key: string, document: EconomyDocument): { value: string; label: string }[] {
  const named = (things: Record<string, { name?: string }> = {}) =>
    Object.entries(things).map(([value, { name }]) => ({ value, label: name ?? value }));
  if (key === 'shop') return named(document.shops);
  if (key === 'loot') return named(document.loot);
  const shelves = Object.values(document.shops ?? {}).flatMap((shop) => named(shop.shelves));
  return [...new Map(shelves.map((one) => [one.value, one])).values()];
}
