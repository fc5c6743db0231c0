/** Which offers were taken, by how many, and what was wanted and refused. */
import type { EconomyDocument } from '../../core/document/index.js';
import { dayShown, offerSums } from '../../core/simulation/report.js';
import type { OfferSum } from '../../core/simulation/index.js';
import type { Drawn } from '../charts/benchFrame.js';
import { DataTable, Sheet } from '../parts/ui.js';

/** Of all players, so that runs in which other personas want it can be held against each other. */
const percent = ({ players }: OfferSum, of: number): string => `${((100 * players) / of).toFixed(1)} %`;
const reasons = (refused: Readonly<Record<string, number>>): string =>
  Object.entries(refused)
    .sort(([, a], [, b]) => b - a)
    .map(([code, times]) => `${code.replaceAll('-', ' ')} ${times.toLocaleString('en')}`)
    .join(', ');

/** Those that were bought most come first. */
export function Uptake({ document, drawn }: { document: EconomyDocument; drawn: readonly Drawn[] }) {
  const [hand, ...others] = drawn.map(({ name, result }) => ({
    name,
    sums: offerSums(result),
    players: result.players.persona.length,
  }));
  const rows = [...hand!.sums].sort((a, b) => b.times - a.times);
  const inRun = (sums: readonly OfferSum[], { id }: OfferSum): OfferSum | undefined =>
    sums.find((one) => one.id === id);
  const shopOf = shopsOfOffers(document);
  return (
    <Sheet title="Offers: who bought, and what was refused">
      <div className="max-h-72 overflow-auto" tabIndex={0} role="region" aria-label="Offers, as a list">
        <DataTable<OfferSum>
          label="Offers"
          rows={rows}
          rowKey={({ id }) => id}
          columns={[
            { head: 'offer', cell: ({ name }) => name },
            { head: 'at', cell: ({ id }) => shopOf.get(id) ?? 'no shop of the draft' },
            { head: 'id', cell: ({ id }) => <code className="text-sm">{id}</code> },
            { head: 'times', right: true, cell: ({ times }) => times.toLocaleString('en') },
            { head: `bought by, ${hand!.name}`, right: true, cell: (row) => percent(row, hand!.players) },
            ...others.map(({ name, sums, players }) => ({
              head: `bought by, ${name}`,
              right: true,
              cell: (row: OfferSum) => {
                const other = inRun(sums, row);
                return other ? percent(other, players) : '0.0 %';
              },
            })),
            {
              head: 'first day',
              right: true,
              cell: ({ firstDay }) => (firstDay === null ? 'never' : dayShown(firstDay)),
            },
            { head: 'refused (player-days)', cell: ({ refused }) => reasons(refused) },
          ]}
        />
      </div>
    </Sheet>
  );
}

/** Names of shops, by the offers on their shelves. */
const shopsOfOffers = ({ shops = {} }: EconomyDocument): Map<string, string> =>
  new Map(
    Object.values(shops).flatMap(({ name, shelves }) =>
      Object.values(shelves).flatMap(({ offers }) => Object.keys(offers).map((id) => [id, name] as const)),
    ),
  );
