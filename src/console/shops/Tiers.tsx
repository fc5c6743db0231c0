/** Volume tiers in one gesture, with what a unit costs in each before they are made. */
import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import type { Edit } from '../../core/catalog/index.js';
import { Preview } from '../catalog/Preview.js';
import { client } from '../api.js';
import { useEdits } from '../parts/edits.js';
import { Button, Field, Input, Problem, Window } from '../parts/ui.js';

/** `3:5 5:10` as counts and discounts; undefined where it is none. */
function read(text: string): { count: number; discount: number }[] | undefined {
  const tiers = text
    .trim()
    .split(/[\s,;]+/)
    .map((one) => /^(\d+):(\d+(?:\.\d+)?)%?$/.exec(one));
  return tiers.every((one) => one !== null)
    ? tiers.map((one) => ({ count: Number(one![1]), discount: Number(one![2]) }))
    : undefined;
}

export function Tiers({ pointer }: { pointer: string }) {
  const { run, saving } = useEdits();
  const [open, setOpen] = useState(false);
  const [text, setText] = useState('3:5 5:10');
  const [error, setError] = useState<unknown>(null);
  const tiers = read(text);
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
        <Field label="Count and discount in percent of each tier">
          {(id) => (
            <Input id={id} value={text} placeholder="3:5 5:10" onChange={(event) => setText(event.target.value)} />
          )}
        </Field>
        <p className="mt-1 text-sm text-soft">
          <code>3:5 5:10</code> adds a pack of 3 at 5 % less and a pack of 5 at 10 % less, behind this offer.
        </p>
        {tiers === undefined ? (
          <p role="alert">Write counts and discounts such as 3:5 5:10.</p>
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
