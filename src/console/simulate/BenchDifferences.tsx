/** The run in hand against the draft's and the kept variants', player by player. */
import { dayShown } from '../../core/simulation/report.js';
import { Empty, Problem, Sheet, Waiting } from '../parts/ui.js';
import type { Drawn } from '../charts/benchFrame.js';
import { DifferenceTable } from './DifferenceTable.js';
import { useDeskAnswer } from './useDesk.js';
import type { DeskFor } from './useDesk.js';

/** All that can be told from chance, and nothing that cannot. `drawn`: the first is what the others are held against. */
export function BenchDifferences({ at, drawn, asked }: { at: DeskFor; drawn: readonly Drawn[]; asked: unknown }) {
  const comparison = useDeskAnswer(at, 'compare', asked, ({ desk, document }) =>
    desk.now(
      document,
      'compare',
      drawn.map(({ result }) => result),
    ),
  );
  if (comparison.error) return <Problem error={comparison.error} />;
  if (!comparison.data) return <Waiting />;
  if (!comparison.data.comparable)
    return <Empty>These cannot be compared player by player: {comparison.data.why}.</Empty>;
  const [first, ...others] = drawn;
  const { differences, differsFrom } = comparison.data;
  const told = differences.filter(({ distinguishable }) => distinguishable);
  const begins = differsFrom.flatMap((day, variant) =>
    day === null ? [] : [`${others[variant]!.name} from day ${dayShown(day)}`],
  );
  return (
    <Sheet title={`What differs from ${first!.name} by more than chance`}>
      <p className="text-sm text-soft">
        {told.length} of {differences.length} figures, of the same players; the intervals hold together in 95 of 100
        comparisons. {begins.length > 0 ? `They differ at all: ${begins.join(', ')}.` : ''}
      </p>
      {told.length > 0 && (
        <div className="max-h-80 overflow-auto" tabIndex={0} role="region" aria-label="Differences, as a list">
          <DifferenceTable
            differences={told}
            before={first!.name}
            after="there"
            variants={others.map(({ name }) => name)}
          />
        </div>
      )}
    </Sheet>
  );
}
