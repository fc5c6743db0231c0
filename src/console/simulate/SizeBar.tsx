/** Which scenario is on the bench, and how large; and how far its run is. */
import { useState } from 'react';
import type { ReactNode } from 'react';
import type { EconomyDocument } from '../../core/document/index.js';
import { EditBar } from '../parts/EditBar.js';
import { useParam, useSetParams } from '../parts/search.js';
import { Choice, Field, Input } from '../parts/ui.js';
import { wholeOf } from './bench.js';

export function SizeBar({
  document,
  scenario,
  usual,
  status,
}: {
  document: EconomyDocument;
  scenario: string;
  usual: { players: number; days: number; seed: number } | undefined;
  status: ReactNode;
}) {
  const setParams = useSetParams();
  return (
    <div className="flex flex-wrap items-end gap-3">
      <h1 className="mr-1 text-2xl">Simulate</h1>
      <Choice
        label="Scenario, on the draft"
        value={scenario}
        options={Object.entries(document.scenarios ?? {}).map(([value, { name }]) => ({ value, label: name }))}
        onChange={(next) => setParams({ scenario: next, mix: '', days: '', players: '', seed: '' })}
      />
      <SizeField name="players" label="players" usual={usual?.players} most={100_000} width="w-24" />
      <SizeField name="days" label="days" usual={usual?.days} most={3650} width="w-16" />
      <SizeField name="seed" label="seed" usual={usual?.seed} most={4_294_967_295} width="w-20" />
      <span role="status" className="text-sm text-soft">
        {status}
      </span>
      <span className="ml-auto flex items-center gap-2">
        <EditBar />
      </span>
    </div>
  );
}

function SizeField({
  name,
  label,
  usual,
  most,
  width,
}: {
  name: string;
  label: string;
  usual: number | undefined;
  most: number;
  width: string;
}) {
  const [value, setValue] = useParam(name, '');
  const [typed, setTyped] = useState<string>();
  const keep = (): void => {
    if (typed !== undefined) setValue(wholeOf(typed.trim(), 1, most) === undefined ? '' : typed.trim());
    setTyped(undefined);
  };
  return (
    <Field label={label}>
      {(id) => (
        <Input
          id={id}
          inputMode="numeric"
          className={`${width} py-0.5 tabular-nums`}
          placeholder={usual === undefined ? '' : String(usual)}
          value={typed ?? value}
          onChange={(event) => setTyped(event.target.value)}
          onBlur={keep}
          onKeyDown={(event) => {
            if (event.key === 'Enter') keep();
          }}
        />
      )}
    </Field>
  );
}
