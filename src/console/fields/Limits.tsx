/** How often something may be done: so many times in each period. */
import { CELLS } from '../../core/catalog/cell.js';
import { Rows } from './Rows.js';
import type { Nameable } from './nameable.js';

const PERIODS: readonly Nameable[] = [
  { id: 'lifetime', label: 'ever', hint: '' },
  { id: 'day', label: 'a day', hint: '' },
  { id: 'week', label: 'a week', hint: '' },
  { id: 'month', label: 'a month', hint: '' },
  { id: 'rotation', label: 'in a rotation', hint: 'of its shelf' },
];

export function Limits({
  label,
  help,
  value,
  onKeep,
}: {
  label: string;
  help?: string | undefined;
  value: unknown;
  onKeep: (value: unknown) => void;
}) {
  const limits = (value ?? {}) as Record<string, number>;
  const others = Object.keys(limits).filter((id) => PERIODS.every((period) => period.id !== id));
  return (
    <Rows
      label={label}
      help={help}
      options={[...PERIODS, ...others.map((id) => ({ id, label: `in ${CELLS.duration.write(id)}`, hint: '' }))]}
      word="period, such as 3 days"
      value={limits}
      write={(_, most) => CELLS.number.write(most)}
      read={(_, text) => CELLS.number.read(text)}
      first={1}
      onKeep={onKeep}
      onMake={(typed, keep) => {
        const read = CELLS.duration.read(typed);
        if (read.ok && read.value !== undefined) keep(read.value as string);
      }}
    />
  );
}
