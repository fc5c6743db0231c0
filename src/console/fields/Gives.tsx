/** What an offer gives: one thing, or several with their amounts. */
import type { EconomyDocument } from '../../core/document/index.js';
import { useState } from 'react';
import { Button, Field, Why } from '../parts/ui.js';
import { Picker, amountsRead } from './Picker.js';
import type { AmountOf } from './Picker.js';
import { Rows } from './Rows.js';
import { basketRows } from './Price.js';
import { nameables } from './nameable.js';

const AMOUNTS = basketRows('basket');

export function Gives({
  label,
  help,
  document,
  value,
  onKeep,
  onMake,
}: {
  label: string;
  help?: string | undefined;
  document: EconomyDocument;
  value: unknown;
  onKeep: (value: unknown) => void;
  onMake: (name: string, keep: (id: string) => void) => void;
}) {
  const options = nameables(document, 'asset', []);
  const [problem, setProblem] = useState<string>();
  const keepAmounts = (entries: readonly AmountOf[]): void => {
    const typed = amountsRead(entries, AMOUNTS.read);
    setProblem(typed.ok ? undefined : typed.problem);
    if (typed.ok) onKeep(typed.values);
  };
  if (typeof value === 'object' && value !== null)
    return (
      <Rows
        label={label}
        help={help}
        options={options}
        word="currency or item"
        value={value as Record<string, unknown>}
        {...AMOUNTS}
        formula={{ document }}
        needed
        onKeep={onKeep}
        onMake={onMake}
      />
    );
  const one = value as string | undefined;
  return (
    <Field label={label} help={help}>
      {(id) => (
        <span className="flex items-center gap-2">
          <Picker
            id={id}
            className="min-w-0 flex-1"
            options={options}
            word="currency or item"
            value={one}
            needed
            onPick={onKeep}
            onMake={(name, amount) =>
              onMake(name, (made) => (amount === undefined ? onKeep(made) : keepAmounts([{ id: made, amount }])))
            }
            onAmounts={keepAmounts}
          />
          {one !== undefined && (
            <Button className="py-0.5 text-sm" onClick={() => onKeep({ [one]: 1 })}>
              Several things
            </Button>
          )}
          <Why problem={problem} />
        </span>
      )}
    </Field>
  );
}
