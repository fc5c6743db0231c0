/** A text, a number, or what has a notation of one line. */
import { useId } from 'react';
import type { CellKind } from '../../core/catalog/index.js';
import { Field, Input, Why } from '../parts/ui.js';
import { focusOnce, ifShown } from './leaving.js';
import { useTyped } from './useTyped.js';

export function TextField({
  label,
  help,
  such = '',
  cell,
  value,
  onKeep,
  long,
  focused,
}: {
  label: string;
  help: string | undefined;
  /** How to write it, where that is not plain. */
  such: string | undefined;
  cell: CellKind;
  value: unknown;
  onKeep: (value: unknown) => void;
  /** It has room for some lines. */
  long: boolean;
  /** It has the focus when it appears. */
  focused: boolean;
}) {
  const helpId = useId();
  const field = useTyped(cell.write(value), (typed) => {
    const read = cell.read(typed);
    if (!read.ok) return read.problem;
    onKeep(read.value);
    return undefined;
  });
  const asked = { value: field.shown, 'aria-describedby': helpId, 'aria-invalid': field.problem !== undefined };
  return (
    <Field label={label} help={help} helpId={helpId}>
      {(id) => (
        <>
          {long ? (
            <textarea
              id={id}
              rows={2}
              {...asked}
              onChange={(event) => field.type(event.target.value)}
              onBlur={ifShown(field.keep)}
              onKeyDown={field.onKeyDown}
              className="rounded-tag border border-line bg-paper px-2 py-1"
            />
          ) : (
            <Input
              id={id}
              placeholder={such}
              {...asked}
              onChange={(event) => field.type(event.target.value)}
              onBlur={ifShown(field.keep)}
              ref={focused ? focusOnce : undefined}
              onKeyDown={field.onKeyDown}
            />
          )}
          <Why problem={field.problem} />
        </>
      )}
    </Field>
  );
}
