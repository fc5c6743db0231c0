/** Ways of playing ranked by what they pay a minute, with the levers where they are. */
import type { SimulationResult } from '../../core/simulation/index.js';
import { DataTable, Empty, Problem, Sheet, Waiting } from '../parts/ui.js';
import { shown } from '../parts/shown.js';
import type { PlayAsked } from './desk/orders.js';
import { useDeskAnswer } from './useDesk.js';
import type { DeskFor } from './useDesk.js';

export function Ways({
  at,
  asked,
  currencies,
}: {
  at: DeskFor;
  asked: PlayAsked;
  currencies: SimulationResult['currencies'];
}) {
  const ways = useDeskAnswer(at, 'ways', asked, ({ desk, document }) => desk.now(document, 'ways', asked));
  if (ways.error) return <Problem error={ways.error} />;
  if (!ways.data) return <Waiting />;
  const amount = (asset: string, units: number): string => {
    const { name, decimals } = currencies.find(({ id }) => id === asset)!;
    return `${shown(Number((units / 10 ** decimals).toPrecision(3)))} ${name}`;
  };
  return (
    <Sheet title="Ways of playing, by what a minute pays a new player">
      {ways.data.length === 0 ? (
        <Empty>No activity pays any money.</Empty>
      ) : (
        <div className="max-h-72 overflow-auto" tabIndex={0} role="region" aria-label="Ways of playing, as a list">
          <DataTable
            label="Ways of playing"
            rows={ways.data}
            rowKey={({ activity, way, asset }) => `${activity} ${way} ${asset}`}
            columns={[
              { head: 'activity', cell: ({ activity }) => activity },
              { head: 'way', cell: ({ way }) => way },
              { head: 'again and again', right: true, cell: ({ asset, mean }) => amount(asset, mean) },
              { head: 'while limits last', right: true, cell: ({ asset, first }) => amount(asset, first) },
              {
                head: 'against its best way',
                right: true,
                cell: ({ behind }) => (behind === 1 ? '' : `1 of ${behind.toFixed(1)}`),
              },
            ]}
          />
        </div>
      )}
    </Sheet>
  );
}
