/** What must hold after a step of a case: each line can be changed, loosened to a range, or taken out. */
import { useId } from 'react';
import type { EconomyDocument } from '../../core/document/index.js';
import { Picker } from '../fields/Picker.js';
import { ifShown } from '../fields/leaving.js';
import { useTyped } from '../fields/useTyped.js';
import { Button, Input, Why } from '../parts/ui.js';
import { expectChoices, expectLines, expectPut, expectWith } from './expectation.js';
import type { Expect, Line } from './expectation.js';

export function Expectations({
  label,
  expect,
  document,
  isAfterStep,
  onPut,
}: {
  label: string;
  expect: Expect;
  document: EconomyDocument;
  isAfterStep: boolean;
  onPut: (expect: Expect) => void;
}) {
  return (
    <div role="group" aria-label={label} className="flex flex-col gap-1 pl-7">
      {expectLines(document, expect).map((line) => (
        <LineRow
          key={`${line.field} ${line.of}`}
          line={line}
          label={label}
          onPut={(value) => onPut(expectPut(expect, line, value))}
        />
      ))}
      <Picker
        label={`${label}: add what must hold`}
        options={expectChoices(document, expect, isAfterStep)}
        value={undefined}
        word={isAfterStep ? 'line: verdict, price, holds ...' : 'line: holds, level, on show ...'}
        adding
        className="w-full py-0 text-sm"
        onPick={(choice) => choice !== undefined && onPut(expectWith(document, expect, choice))}
      />
    </div>
  );
}

/** A line that only says that something is there has nothing to be written. */
function LineRow({ line, label, onPut }: { line: Line; label: string; onPut: (value: unknown) => void }) {
  const { words, cell, value } = line;
  const id = useId();
  const field = useTyped(cell.write(value), (typed) => {
    const read = cell.read(typed);
    if (!read.ok) return read.problem;
    onPut(read.value);
    return undefined;
  });
  return (
    <div className="flex flex-wrap items-center gap-2 text-sm">
      <label htmlFor={id} className="min-w-0 flex-1 truncate" title={words}>
        {words}
      </label>
      {value !== undefined && (
        <Input
          id={id}
          aria-label={`${label}: ${words}`}
          className={`${line.field === 'verdict' || line.field === 'says' ? 'w-72' : 'w-24 text-right'} py-0`}
          value={field.shown}
          aria-invalid={field.problem !== undefined}
          onChange={({ target }) => field.type(target.value)}
          onBlur={ifShown(field.keep)}
          onKeyDown={field.onKeyDown}
        />
      )}
      <Button className="px-1.5 py-0" aria-label={`${label}: take out ${words}`} onClick={() => onPut(undefined)}>
        ×
      </Button>
      <Why problem={field.problem} />
    </div>
  );
}
