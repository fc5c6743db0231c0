/** Sheets to and from a spreadsheet: a file, or rows that are pasted; shown before anything changes. */
import { useQuery } from '@tanstack/react-query';
import { useMemo, useState } from 'react';
import { SHEETS } from '../../core/catalog/sheet.js';
import type { JsonNode, SheetName } from '../../core/catalog/index.js';
import { hasDecimalComma, matchesGuess, tableRead, tableToSheet } from '../../core/catalog/table.js';
import type { Match, Table, TableBrought } from '../../core/catalog/table.js';
import type { EconomyDocument } from '../../core/document/index.js';
import { client, useDraft, useSchema } from '../api.js';
import { GRIDS } from '../grid/columns.js';
import { idFor, isId } from '../../core/schema/ids.js';
import { useEdits } from '../parts/edits.js';
import { addOperations } from '../parts/step.js';
import { Button, Field, Problem, Window } from '../parts/ui.js';
import { MatchColumns, NOTHING_BY_HAND, headOf, labelOf } from './MatchColumns.js';
import type { ByHand } from './MatchColumns.js';
import { Preview } from './Preview.js';

export default function SheetExchange({ sheet, onClose }: { sheet: SheetName; onClose: () => void }) {
  const { importSheet, saving, saved } = useEdits();
  const [typed, setTyped] = useState('');
  const [byHand, setByHand] = useState<ByHand | null>(null);
  const draft = useDraft().data!.document;
  const schema = useSchema().data!;
  const { table, matching, text, brought } = useMemo(
    () => csvOf(sheet, draft, schema, typed, byHand),
    [sheet, draft, schema, typed, byHand],
  );
  const lacks = brought?.lacks ?? [];
  // A name that nobody has made a group of is no id, and every row of it would be refused.
  const waits =
    lacks.length > 0 || (brought?.unknown ?? []).some(({ kind, text: name }) => kind === 'group' && !isId(name));
  const [error, setError] = useState<unknown>(null);
  // Asked of the draft as it will be: what was typed a moment ago is saved first.
  const preview = useQuery({
    queryKey: ['sheet', sheet, saved, text],
    queryFn: () =>
      client.call('POST /draft/sheets/{sheet}', {
        params: { sheet },
        type: 'text/csv',
        body: text,
        query: { preview: true },
      }),
    // Before it is known what the columns are, nothing in them is wrong.
    enabled: text.trim() !== '' && !waits && !saving,
    retry: false,
  });
  const download = async () => {
    const link = document.createElement('a');
    link.href = URL.createObjectURL(
      new Blob([await client.call('GET /draft/sheets/{sheet}', { params: { sheet } })], { type: 'text/csv' }),
    );
    link.download = `${sheet}.csv`;
    link.click();
    URL.revokeObjectURL(link.href);
  };
  const { keys, columns } = SHEETS[sheet];
  return (
    <Window title={`${GRIDS[sheet].name}: CSV and paste`} open wide onClose={onClose}>
      <div className="flex flex-wrap items-center gap-2">
        <Button
          onClick={() => {
            download().catch(setError);
          }}
        >
          Save {sheet}.csv
        </Button>
        <label className="flex items-center gap-2">
          <span>or bring in a file:</span>
          <input
            type="file"
            accept=".csv,.tsv,text/csv"
            aria-label="CSV file"
            onChange={(event) => {
              void event.target.files?.[0]?.text().then(setTyped);
            }}
          />
        </label>
      </div>
      <Field label="or paste rows, the first of them with the names of the columns">
        {(id) => (
          <textarea
            id={id}
            rows={matching ? 4 : 7}
            value={typed}
            spellCheck={false}
            onChange={(event) => setTyped(event.target.value)}
            className="mt-1 rounded-tag border border-line bg-paper px-2 py-1 font-mono text-sm"
          />
        )}
      </Field>
      {!matching && (
        <p className="mt-1 text-sm text-soft">
          Columns: <code>{[...keys, ...columns.map(({ field }) => field)].join(', ')}</code>. {keys.join(' and ')}{' '}
          {keys.length > 1 ? 'say' : 'says'} which row is meant; rows that are new are added; an empty cell takes the
          value away; what is not mentioned stays. Commas, semicolons and tabs are understood. Columns of other names
          are matched below.
        </p>
      )}
      {table && matching && (
        <MatchColumns
          {...{ schema, document: draft, table, byHand: byHand ?? NOTHING_BY_HAND, ...matching }}
          sheet={SHEETS[sheet]}
          onChange={setByHand}
        />
      )}
      {table && !matching && (
        <Button className="self-start py-0 text-sm" onClick={() => setByHand(NOTHING_BY_HAND)}>
          Match the columns by hand
        </Button>
      )}
      {brought && <NumbersRead read={brought.read} />}
      {brought && <UnknownGroups unknown={brought.unknown} document={draft} />}
      {lacks.length > 0 && (
        <p role="status" className="mt-2 text-sm">
          Say above which column is the{' '}
          {lacks.map((field) => labelOf(schema, SHEETS[sheet], field)).join(', and which the ')} of new rows, or what
          all of them have.
        </p>
      )}
      {!waits && text.trim() !== '' && <Preview answer={preview} />}
      <Problem error={error} />
      <div className="mt-3 flex justify-end gap-2">
        <Button onClick={onClose}>Cancel</Button>
        <Button
          look="primary"
          disabled={saving || waits || (preview.data?.changes.length ?? 0) === 0}
          onClick={() => {
            importSheet(sheet, text).then(onClose, setError);
          }}
        >
          Bring in {preview.data?.changes.length ?? 0} {preview.data?.changes.length === 1 ? 'change' : 'changes'}
        </Button>
      </div>
    </Window>
  );
}

interface Brought {
  table?: Table;
  /** How its columns are matched; nothing where they have the names of the sheet's. */
  matching?: { matches: Match[]; decimalComma: boolean };
  /** As the service reads it. */
  text: string;
  brought?: TableBrought;
}

const MOST_TOLD = 6;

/** `1,200 as 1200`: what is read otherwise than it is written. */
function NumbersRead({ read }: { read: TableBrought['read'] }) {
  if (read.length === 0) return null;
  const more = read.length - MOST_TOLD;
  const told = read.slice(0, MOST_TOLD).map(({ text, as }) => `${text} as ${as}`);
  return (
    <p className="mt-2 text-sm">
      Read: {told.join('; ')}
      {more > 0 && `; and ${more} more`}.
    </p>
  );
}

/** Groups that rows name and that are not there, made on the spot. */
function UnknownGroups({ unknown, document }: { unknown: TableBrought['unknown']; document: EconomyDocument }) {
  const { apply } = useEdits();
  const names = unknown.filter(({ kind }) => kind === 'group').map(({ text }) => text);
  if (names.length === 0) return null;
  const make = (): void => {
    let after = document;
    const operations = names.flatMap((name) => {
      const id = idFor(name, 'group', (one) => after.groups?.[one] !== undefined);
      const added = addOperations(after, 'groups', id, { name });
      after = { ...after, groups: { ...after.groups, [id]: { name } } };
      return added;
    });
    apply({ operations });
  };
  return (
    <div className="mt-2 flex flex-wrap items-center gap-2 text-sm">
      <span>
        There {names.length === 1 ? 'is no group' : 'are no groups'} called {names.join(', ')}.
      </span>
      <Button onClick={make}>
        {names.length === 1 ? `Make the group ${names[0]}` : `Make these ${names.length} groups`}
      </Button>
    </div>
  );
}

/** What was typed or pasted as the sheet's CSV: as it stands where its columns are the sheet's, else by how they match. */
function csvOf(
  name: SheetName,
  document: EconomyDocument,
  schema: JsonNode,
  typed: string,
  byHand: ByHand | null,
): Brought {
  const read = tableRead(typed);
  // What is no table is told by the service, with its line.
  if (!read.ok || read.table.head.length === 0 || typed.trim() === '') return { text: typed };
  const { table } = read;
  const sheet = SHEETS[name];
  const known = [...sheet.keys, ...sheet.columns.map(({ field }) => field)];
  const isPlain = table.head.every((one) => known.includes(one)) && sheet.keys.every((key) => table.head.includes(key));
  const { matches: chosen, decimalComma = hasDecimalComma(table), otherwise } = byHand ?? NOTHING_BY_HAND;
  const matches = matchesGuess(schema, sheet, document, table.head).map(
    (guess, index) => chosen[headOf(table, index)] ?? guess,
  );
  const brought = tableToSheet({ sheet, schema, document, table, matches, decimalComma, otherwise });
  if (isPlain && !byHand && !brought.named) return { table, text: typed, brought: { ...brought, read: [], lacks: [] } };
  return { table, matching: { matches, decimalComma }, text: brought.csv, brought };
}
