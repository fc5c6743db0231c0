/** What an offer gives: one thing, or several with their amounts. */
import type { EconomyDocument } from '../../core/document/index.js';
import { Button, Field } from '../parts/ui.js';
import { Picker } from './Picker.js';
import { Rows } from './Rows.js';
import { basketRows } from './Price.js';
import { nameables } from './nameable.js';

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
  if (typeof value === 'object' && value !== null)
    return (
      <Rows
        label={label}
        help={help}
        options={options}
        word="currency or item"
        value={value as Record<string, unknown>}
        {...basketRows('basket')}
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
            onMake={(name) => onMake(name, onKeep)}
          />
          {one !== undefined && (
            <Button className="py-0.5 text-sm" onClick={() => onKeep({ [one]: 1 })}>
              Several things
            </Button>
          )}
        </span>
      )}
    </Field>
  );
}
