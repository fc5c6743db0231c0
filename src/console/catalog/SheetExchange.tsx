/** Sheets to and from a spreadsheet: a file, or rows that are pasted; shown before anything changes. */
import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { SHEETS } from '../../core/catalog/sheet.js';
import type { SheetName } from '../../core/catalog/index.js';
import { client } from '../api.js';
import { GRIDS } from '../grid/columns.js';
import { useEdits } from '../parts/edits.js';
import { Button, Field, Problem, Window } from '../parts/ui.js';
import { Preview } from './Preview.js';

export function SheetExchange({ sheet, onClose }: { sheet: SheetName; onClose: () => void }) {
  const { importSheet, saving } = useEdits();
  const [text, setText] = useState('');
  const [error, setError] = useState<unknown>(null);
  const preview = useQuery({
    queryKey: ['sheet', sheet, text],
    queryFn: () =>
      client.call('POST /draft/sheets/{sheet}', {
        params: { sheet },
        type: 'text/csv',
        body: text,
        query: { preview: true },
      }),
    enabled: text.trim() !== '',
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
              void event.target.files?.[0]?.text().then(setText);
            }}
          />
        </label>
      </div>
      <Field label="or paste rows, the first of them with the names of the columns">
        {(id) => (
          <textarea
            id={id}
            rows={7}
            value={text}
            spellCheck={false}
            onChange={(event) => setText(event.target.value)}
            className="mt-1 rounded-tag border border-line bg-paper px-2 py-1 font-mono text-sm"
          />
        )}
      </Field>
      <p className="mt-1 text-sm text-soft">
        Columns: <code>{[...keys, ...columns.map(({ field }) => field)].join(', ')}</code>. {keys.join(' and ')}{' '}
        {keys.length > 1 ? 'say' : 'says'} which row is meant; rows that are new are added; an empty cell takes the
        value away; what is not mentioned stays. Commas, semicolons and tabs are understood.
      </p>
      {text.trim() !== '' && <Preview answer={preview} />}
      <Problem error={error} />
      <div className="mt-3 flex justify-end gap-2">
        <Button onClick={onClose}>Cancel</Button>
        <Button
          look="primary"
          disabled={saving || (preview.data?.changes.length ?? 0) === 0}
          onClick={() => {
            importSheet(sheet, text).then(onClose, setError);
          }}
        >
          Bring in {preview.data?.changes.length ?? 0} changes
        </Button>
      </div>
    </Window>
  );
}
