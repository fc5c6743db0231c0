/** Money as a whole, and what play pays. */
import { moneyRows, payRows } from '../../core/simulation/report.js';
import type { SimulationResult } from '../../core/simulation/index.js';
import { DataTable, Sheet } from '../parts/ui.js';

export function Money({ result }: { result: SimulationResult }) {
  const shown = (units: number, decimals: number) => (units / 10 ** decimals).toLocaleString('en');
  return (
    <div className="grid items-start gap-3 lg:grid-cols-2">
      <Sheet title="Money that all hold together">
        <DataTable
          label="Money that all hold together"
          rows={moneyRows(result)}
          rowKey={({ currency }) => currency}
          columns={[
            { head: 'currency', cell: ({ currency }) => currency },
            { head: 'day 1', right: true, cell: ({ first, decimals }) => shown(first, decimals) },
            { head: `day ${result.days}`, right: true, cell: ({ last, decimals }) => shown(last, decimals) },
            { head: 'unevenness (Gini)', right: true, cell: ({ gini }) => gini },
            { head: 'prices', right: true, cell: ({ prices }) => prices },
            { head: 'dropped at caps', right: true, cell: ({ dropped, decimals }) => shown(dropped, decimals) },
          ]}
        />
      </Sheet>
      <Sheet title="Pay by minute of play">
        <div className="max-h-72 overflow-auto" tabIndex={0} role="region" aria-label="Pay by minute, as a list">
          <DataTable
            label="Pay by minute of play"
            rows={payRows(result)}
            rowKey={({ activity, persona, currency }) => `${activity} ${persona} ${currency}`}
            columns={[
              { head: 'activity', cell: ({ activity }) => activity },
              { head: 'persona', cell: ({ persona }) => persona },
              { head: 'currency', cell: ({ currency }) => currency },
              { head: 'plays', right: true, cell: ({ plays }) => plays.toLocaleString('en') },
              { head: 'a minute (95% interval)', right: true, cell: ({ perMinute }) => perMinute },
            ]}
          />
        </div>
      </Sheet>
    </div>
  );
}
