/** Many prices at once: which, by how much, rounded how; shown before it is done. */
import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import type { EconomyDocument } from '../../core/document/index.js';
import type { Edit } from '../../core/catalog/index.js';
import { client } from '../api.js';
import type { GridRow } from '../grid/columns.js';
import { useEdits } from '../parts/edits.js';
import { Button, Choice, Field, Input, Problem, Window } from '../parts/ui.js';
import { Preview } from './Preview.js';

const ANY = '(any)';

export function Reprice({
  document,
  selected,
  onClose,
}: {
  document: EconomyDocument;
  selected: readonly GridRow[];
  onClose: () => void;
}) {
  const { run, saving } = useEdits();
  const [group, setGroup] = useState(ANY);
  const [shop, setShop] = useState(ANY);
  const [asset, setAsset] = useState(ANY);
  const [onlySelected, setOnlySelected] = useState(selected.length > 1 ? 'yes' : 'no');
  const [percent, setPercent] = useState('10');
  const [to, setTo] = useState('5');
  const [way, setWay] = useState<'up' | 'down' | 'nearest'>('up');
  const [error, setError] = useState<unknown>(null);
  const numbers = percent.trim() !== '' && !Number.isNaN(Number(percent)) && !Number.isNaN(Number(to));
  const edit: Edit = {
    kind: 'reprice',
    where: {
      ...(onlySelected === 'yes' ? { ids: selected.map(({ id }) => id) } : {}),
      ...(group === ANY ? {} : { group }),
      ...(shop === ANY ? {} : { shop }),
    },
    ...(asset === ANY ? {} : { asset }),
    percent: Number(percent),
    round: { to: Number(to), way },
  };
  const preview = useQuery({
    queryKey: ['edit', edit],
    queryFn: () => client.call('POST /draft/edits', { body: edit, query: { preview: true } }),
    enabled: numbers,
    retry: false,
  });
  const named = (entries: Record<string, { name: string }> | undefined) => [
    { value: ANY, label: 'any' },
    ...Object.entries(entries ?? {}).map(([value, { name }]) => ({ value, label: name })),
  ];
  return (
    <Window title="Reprice" open wide onClose={onClose}>
      <div className="flex flex-wrap items-end gap-3">
        {selected.length > 1 && (
          <Field label="Rows">
            {(id) => (
              <Choice
                id={id}
                value={onlySelected}
                options={[
                  { value: 'yes', label: `the ${selected.length} selected` },
                  { value: 'no', label: 'all' },
                ]}
                onChange={setOnlySelected}
              />
            )}
          </Field>
        )}
        <Field label="Group">
          {(id) => <Choice id={id} value={group} options={named(document.groups)} onChange={setGroup} />}
        </Field>
        <Field label="Shop">
          {(id) => <Choice id={id} value={shop} options={named(document.shops)} onChange={setShop} />}
        </Field>
        <Field label="Currency">
          {(id) => <Choice id={id} value={asset} options={named(document.currencies)} onChange={setAsset} />}
        </Field>
        <Field label="Percent">
          {(id) => (
            <Input id={id} className="w-20" value={percent} onChange={(event) => setPercent(event.target.value)} />
          )}
        </Field>
        <Field label="Round to">
          {(id) => <Input id={id} className="w-20" value={to} onChange={(event) => setTo(event.target.value)} />}
        </Field>
        <Field label="Rounding">
          {(id) => (
            <Choice
              id={id}
              value={way}
              options={(['up', 'down', 'nearest'] as const).map((value) => ({ value, label: value }))}
              onChange={(value) => setWay(value as typeof way)}
            />
          )}
        </Field>
      </div>
      <p className="mt-2 text-sm text-soft">
        Changes the worth of items, and the own prices of offers that give them. Formulas stay as they are.
      </p>
      {numbers && <Preview answer={preview} />}
      <Problem error={error} />
      <div className="mt-3 flex justify-end gap-2">
        <Button onClick={onClose}>Cancel</Button>
        <Button
          look="primary"
          disabled={!numbers || saving || (preview.data?.changes.length ?? 0) === 0}
          onClick={() => {
            run(edit).then(onClose, setError);
          }}
        >
          Change {preview.data?.changes.length ?? 0} prices
        </Button>
      </div>
    </Window>
  );
}
