/** Volume tiers in one gesture, with what a unit costs in each before they are made. */
import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import type { Edit } from '../../core/catalog/index.js';
import { Preview } from '../catalog/Preview.js';
import { client } from '../api.js';
import { useEdits } from '../parts/edits.js';
import { Button, Input, Problem, Window } from '../parts/ui.js';

interface Row {
  id: number;
  count: string;
  discount: string;
}

/** Two packs, as most have them. */
const FIRST: readonly Row[] = [
  { id: 0, count: '3', discount: '5' },
  { id: 1, count: '5', discount: '10' },
];

const numberIn = (text: string): number | undefined =>
  /^\d+(\.\d+)?$/.test(text.trim()) ? Number(text.trim()) : undefined;

/** What the rows say; undefined while one of them says no numbers. */
function tiersOf(rows: readonly Row[]): { count: number; discount: number }[] | undefined {
  const tiers = rows.flatMap((row) => {
    const [count, discount] = [numberIn(row.count), numberIn(row.discount)];
    return count === undefined || discount === undefined ? [] : [{ count, discount }];
  });
  return tiers.length === rows.length && tiers.length > 0 ? tiers : undefined;
}

export function Tiers({ pointer }: { pointer: string }) {
  const { run, saving } = useEdits();
  const [open, setOpen] = useState(false);
  const [rows, setRows] = useState(FIRST);
  const [error, setError] = useState<unknown>(null);
  const put = (id: number, part: Partial<Row>): void =>
    setRows(rows.map((row) => (row.id === id ? { ...row, ...part } : row)));
  const tiers = tiersOf(rows);
  const edit: Edit = { kind: 'tiers', pointer, tiers: tiers ?? [] };
  const preview = useQuery({
    queryKey: ['edit', edit],
    queryFn: () => client.call('POST /draft/edits', { body: edit, query: { preview: true } }),
    enabled: open && tiers !== undefined,
    retry: false,
  });
  return (
    <>
      <Button className="self-start" onClick={() => setOpen(true)}>
        Volume tiers ...
      </Button>
      <Window title="Volume tiers" open={open} onClose={() => setOpen(false)}>
        <div className="flex flex-col gap-1" role="group" aria-label="Tiers">
          {rows.map(({ id, count, discount }, index) => (
            <div key={id} className="flex items-center gap-2">
              <span>a pack of</span>
              <Input
                aria-label={`Tier ${index + 1}: count`}
                className="w-20 text-right"
                inputMode="numeric"
                value={count}
                onChange={({ target }) => put(id, { count: target.value })}
              />
              <span>at</span>
              <Input
                aria-label={`Tier ${index + 1}: percent less`}
                className="w-20 text-right"
                inputMode="decimal"
                value={discount}
                onChange={({ target }) => put(id, { discount: target.value })}
              />
              <span>% less</span>
              {rows.length > 1 && (
                <Button
                  className="px-1.5 py-0"
                  aria-label={`Without tier ${index + 1}`}
                  onClick={() => setRows(rows.filter((row) => row.id !== id))}
                >
                  ×
                </Button>
              )}
            </div>
          ))}
          <Button
            className="self-start py-0 text-sm"
            onClick={() =>
              setRows([...rows, { id: Math.max(...rows.map(({ id }) => id)) + 1, count: '', discount: '' }])
            }
          >
            Another tier
          </Button>
        </div>
        <p className="mt-1 text-sm text-soft">Each is an offer of its own, behind this one.</p>
        {tiers === undefined ? (
          <p role="alert">Write how many each pack holds, and how much less it costs.</p>
        ) : (
          <Preview answer={preview} />
        )}
        <Problem error={error} />
        <div className="mt-3 flex justify-end gap-2">
          <Button onClick={() => setOpen(false)}>Cancel</Button>
          <Button
            look="primary"
            disabled={tiers === undefined || saving || !preview.data}
            onClick={() => {
              run(edit).then(() => setOpen(false), setError);
            }}
          >
            Make {tiers?.length ?? 0} tiers
          </Button>
        </div>
      </Window>
    </>
  );
}
