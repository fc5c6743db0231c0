/** What recorded purchases come to on the draft's prices. */
import type { EconomyDocument } from '../../core/document/index.js';
import type { GroupReplayed, OfferReplayed } from '../../core/replay/index.js';
import { amountText, documentLabels } from '../../core/texts/amounts.js';
import { saveFile } from '../charts/ChartFrame.js';
import { Button, DataTable, Sheet } from '../parts/ui.js';
import type { Column } from '../parts/ui.js';
import type { ReplayRead } from './desk/orders.js';

export function ReplayReport({
  answer: { result, examples, csv, skipped },
  document,
}: {
  answer: ReplayRead;
  document: EconomyDocument;
}) {
  const { purchases, players, refused, offers, groups } = result;
  const labels = documentLabels(document);
  const amounts = (basket: Readonly<Record<string, number>>): string =>
    Object.entries(basket)
      .map(([asset, units]) => amountText(labels, asset, units))
      .join(', ');
  const columns: Column<Omit<OfferReplayed, 'offer' | 'name'>>[] = [
    { head: 'recorded', right: true, cell: ({ recorded }) => recorded.toLocaleString('en') },
    {
      head: 'refused now',
      right: true,
      cell: (one) =>
        Object.entries(one.refused)
          .map(([code, times]) => `${times.toLocaleString('en')} ${code}`)
          .join(', '),
    },
    { head: 'was paid', right: true, cell: ({ paid }) => amounts(paid) },
    { head: 'would cost', right: true, cell: ({ cost }) => amounts(cost) },
    { head: 'dearer', right: true, cell: ({ dearer }) => dearer || '' },
    { head: 'cheaper', right: true, cell: ({ cheaper }) => cheaper || '' },
    { head: 'same', right: true, cell: ({ same }) => same || '' },
  ];
  return (
    <section aria-label="What it comes to" className="flex flex-col gap-3">
      <div className="flex items-center gap-3">
        <p>
          <strong>
            {purchases.toLocaleString('en')} {purchases === 1 ? 'purchase' : 'purchases'}
          </strong>{' '}
          by {players.toLocaleString('en')} {players === 1 ? 'player' : 'players'}:{' '}
          {(purchases - refused).toLocaleString('en')} would go through,{' '}
          <strong>{refused.toLocaleString('en')} would be refused</strong>
          {skipped > 0 && `; ${skipped.toLocaleString('en')} lines left out`}.
        </p>
        <Button onClick={() => saveFile('replay.csv', new Blob([csv], { type: 'text/csv' }))}>Save each as CSV</Button>
      </div>
      {examples.length > 0 && (
        <Sheet title="For example">
          <ul className="list-disc pl-5">
            {examples.map((one) => (
              <li key={one}>{one}</li>
            ))}
          </ul>
        </Sheet>
      )}
      {groups.length > 0 && (
        <Sheet title="By players">
          <DataTable<GroupReplayed>
            label="By players"
            rows={groups}
            rowKey={({ group }) => group}
            columns={[
              { head: 'players', cell: ({ group }) => group },
              { head: 'how many', right: true, cell: (one) => one.players.toLocaleString('en') },
              ...columns,
            ]}
          />
        </Sheet>
      )}
      <Sheet title="By offer">
        <DataTable<OfferReplayed>
          label="By offer"
          rows={offers}
          rowKey={({ offer }) => offer}
          columns={[{ head: 'offer', cell: ({ name }) => name }, ...columns]}
        />
      </Sheet>
    </section>
  );
}
