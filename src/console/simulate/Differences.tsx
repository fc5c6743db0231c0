/** Which figures of runs differ from those of the first by more than chance. */
import { useQuery } from '@tanstack/react-query';
import { client } from '../api.js';
import { Empty, Problem, Sheet, Waiting } from '../parts/ui.js';
import { DifferenceTable } from './DifferenceTable.js';

export function Differences({ before, after }: { before: string; after: readonly string[] }) {
  const comparison = useQuery({
    queryKey: ['comparison', before, after],
    queryFn: () => client.call('GET /comparisons', { query: { before: Number(before), after: after.join(',') } }),
    staleTime: Infinity,
  });
  if (comparison.error) return <Problem error={comparison.error} />;
  if (!comparison.data) return <Waiting />;
  if (!comparison.data.comparable)
    return <Empty>These runs are drawn together but cannot be compared player by player: {comparison.data.why}.</Empty>;
  const told = comparison.data.differences.filter(({ distinguishable }) => distinguishable);
  return (
    <Sheet title={`What differs from run ${before} by more than chance`}>
      {told.length === 0 ? (
        <Empty>No difference can be told from chance.</Empty>
      ) : (
        <DifferenceTable
          differences={told}
          before={`run ${before}`}
          {...(after.length > 1
            ? { after: 'there', variants: after.map((id) => `run ${id}`) }
            : { after: `run ${after[0]}` })}
        />
      )}
    </Sheet>
  );
}
