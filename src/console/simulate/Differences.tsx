/** Which figures of two runs differ by more than chance. */
import { useQuery } from '@tanstack/react-query';
import { client } from '../api.js';
import { DataTable, Empty, Problem, Sheet, Waiting } from '../parts/ui.js';

const METRIC = { balance: 'wallet at the end', owned: 'share who own', 'days-to-own': 'days to own' } as const;
const figure = (metric: keyof typeof METRIC, value: number): string =>
  metric === 'owned' ? `${(100 * value).toFixed(1)} %` : Math.abs(value) < 1 ? value.toFixed(2) : value.toFixed(1);
const difference = (metric: keyof typeof METRIC, value: number): string =>
  figure(metric, value).replace(' %', ' points');

export function Differences({ before, after }: { before: string; after: string }) {
  const comparison = useQuery({
    queryKey: ['comparison', before, after],
    queryFn: () => client.compareRuns(Number(before), Number(after)),
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
            { head: 'figure', cell: ({ metric, subject }) => `${subject}: ${METRIC[metric]}` },
            { head: 'before', right: true, cell: ({ metric, before: value }) => figure(metric, value) },
            { head: 'this run', right: true, cell: ({ metric, after: value }) => figure(metric, value) },
            {
              head: 'difference',
              right: true,
              cell: ({ metric, difference: mean }) => (
                <strong>
                  {mean > 0 ? '+' : ''}
                  {difference(metric, mean)}
                </strong>
              ),
            },
            {
              head: '95% interval',
              right: true,
              cell: ({ metric, low, high }) => `${difference(metric, low)} to ${difference(metric, high)}`,
            },
            { head: 'pairs', right: true, cell: ({ pairs }) => pairs },
          ]}
        />
      )}
    </Sheet>
  );
}
