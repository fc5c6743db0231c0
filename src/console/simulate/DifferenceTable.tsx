/** Figures that differ by more than chance, each with what it was, what it is, and the interval of its difference. */
import { METRIC_WORDS, distanceText, figureText } from '../../core/simulation/report.js';
import type { Difference } from '../../core/simulation/index.js';
import { DataTable } from '../parts/ui.js';

export function DifferenceTable({
  differences,
  before,
  after,
  variants,
}: {
  differences: readonly Difference[];
  /** What the two columns of figures are called. */
  before: string;
  after: string;
  /** Names of what is held against the first, where there are several. */
  variants?: readonly string[];
}) {
  return (
    <DataTable
      label="Differences"
      rows={differences}
      rowKey={({ variant, metric, persona, subject }) => `${variant} ${metric} ${persona} ${subject}`}
      columns={[
        ...(variants ? [{ head: 'in', cell: ({ variant }: Difference) => variants[variant] }] : []),
        { head: 'persona', cell: ({ persona }) => persona },
        { head: 'figure', cell: ({ metric, subject }) => `${subject}: ${METRIC_WORDS[metric]}` },
        { head: before, right: true, cell: (one) => figureText(one, one.before) },
        { head: after, right: true, cell: (one) => figureText(one, one.after) },
        {
          head: 'difference',
          right: true,
          cell: (one) => (
            <strong>
              {one.difference > 0 ? '+' : ''}
              {distanceText(one, one.difference)}
            </strong>
          ),
        },
        {
          head: 'interval',
          right: true,
          cell: (one) => `${distanceText(one, one.low)} to ${distanceText(one, one.high)}`,
        },
        { head: 'pairs', right: true, cell: ({ pairs }) => pairs },
      ]}
    />
  );
}
