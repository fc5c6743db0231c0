/** Which figures of two runs differ by more than chance. */
import { useQuery } from '@tanstack/react-query';
import { METRIC_WORDS, distanceText, figureText } from '../../core/simulation/report.js';
import { client } from '../api.js';
import { DataTable, Empty, Problem, Sheet, Waiting } from '../parts/ui.js';

export function Differences({ before, after }: { before: string; after: string }) {
  const comparison = useQuery({
    queryKey: ['comparison', before, after],
    queryFn: () => client.call('GET /comparisons', { query: { before: Number(before), after } }),
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
        <DataTable
          label="Differences"
          rows={told}
          rowKey={({ metric, persona, subject }) => `${metric} ${persona} ${subject}`}
          columns={[
            { head: 'persona', cell: ({ persona }) => persona },
            { head: 'figure', cell: ({ metric, subject }) => `${subject}: ${METRIC_WORDS[metric]}` },
            { head: 'before', right: true, cell: (one) => figureText(one, one.before) },
            { head: 'this run', right: true, cell: (one) => figureText(one, one.after) },
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
              head: '95% interval',
              right: true,
              cell: (one) => `${distanceText(one, one.low)} to ${distanceText(one, one.high)}`,
            },
            { head: 'pairs', right: true, cell: ({ pairs }) => pairs },
          ]}
        />
      )}
    </Sheet>
  );
}
