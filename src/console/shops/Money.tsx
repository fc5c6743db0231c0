/** A real-money price as players pay it and as it arrives, store by store. */
import { useQuery } from '@tanstack/react-query';
import { moneyDecimals, unitsFormat } from '../../core/amount/index.js';
import { client } from '../api.js';
import { DataTable } from '../parts/ui.js';

export function Money({ offer }: { offer: string }) {
  const rows = useQuery({
    queryKey: ['money'],
    queryFn: () => client.call('GET /money', { query: { source: 'draft' } }),
  }).data?.items;
  const own = (rows ?? []).filter((row) => row.offer === offer);
  if (own.length === 0) return null;
  return (
    <section>
      <h3 className="text-sm font-semibold text-soft">Gross and net</h3>
      <DataTable
        label="Gross and net"
        rows={own}
        rowKey={({ store, code }) => `${store} ${code}`}
        columns={[
          { head: 'store', cell: ({ store, code }) => `${store ?? 'no store'}, ${code}` },
          { head: 'gross', right: true, cell: ({ code, gross }) => unitsFormat(gross, moneyDecimals(code)) },
          { head: 'tax', right: true, cell: ({ code, tax }) => unitsFormat(tax, moneyDecimals(code)) },
          { head: 'keeps', right: true, cell: ({ code, fee }) => unitsFormat(fee, moneyDecimals(code)) },
          { head: 'net', right: true, cell: ({ code, net }) => unitsFormat(net, moneyDecimals(code)) },
        ]}
      />
    </section>
  );
}
