/** What came of a run, and of the one before it: wallets, money in and out, days until owned. */
import type { SimulationResult } from '../../core/simulation/index.js';
import { BalanceChart, FlowChart, Legend, OwnedChart } from '../charts/charts.js';
import type { Runs } from '../charts/charts.js';
import { ownedRows } from '../../core/simulation/figures.js';
import { GoalsReached } from './GoalsReached.js';
import { Money } from './Money.js';
import { useParam } from '../parts/search.js';
import { Choice, DataTable, Empty, Field, Sheet } from '../parts/ui.js';

export function Result({ runs }: { runs: Runs }) {
  const { now, before } = runs;
  const [currency, setCurrency] = useParam('currency', now.currencies[0]?.id ?? '');
  const index = Math.max(
    0,
    now.currencies.findIndex(({ id }) => id === currency),
  );
  const { totals } = now;
  return (
    <>
      <div className="flex flex-wrap items-end gap-5">
        <Field label="Currency">
          {(id) => (
            <Choice
              id={id}
              value={now.currencies[index]!.id}
              options={now.currencies.map((one) => ({ value: one.id, label: one.name }))}
              onChange={setCurrency}
            />
          )}
        </Field>
        <p className="text-soft">
          {totals.playerDays.toLocaleString('en')} player-days, {totals.events.toLocaleString('en')} events,{' '}
          {totals.purchases.toLocaleString('en')} purchases; seed {now.seed}
        </p>
        <Legend compared={before !== undefined} />
      </div>
      <div className="grid gap-3 lg:grid-cols-3">
        {now.personas.map(({ id }, persona) => (
          <BalanceChart key={id} runs={runs} persona={persona} currency={index} />
        ))}
      </div>
      <div className="grid items-start gap-3 lg:grid-cols-2">
        <FlowChart runs={runs} currency={index} direction="in" />
        <FlowChart runs={runs} currency={index} direction="out" />
      </div>
      <Money result={now} />
      <Owned now={now} before={before} />
      <GoalsReached
        drawn={[
          { name: 'this run', result: now, preliminary: false },
          ...(before ? [{ name: 'run before', result: before, preliminary: false }] : []),
        ]}
      />
    </>
  );
}

const days = (median: number | null, low: number | null, high: number | null): string =>
  median === null ? 'not within the run' : `day ${median} (${low ?? '?'} to ${high ?? 'later'})`;

function Owned({ now, before }: { now: SimulationResult; before: SimulationResult | undefined }) {
  const rows = ownedRows(now);
  const earlier = before ? ownedRows(before) : [];
  const items = [...new Map(rows.map(({ item, name }) => [item, name]))];
  const [item, setItem] = useParam('item', items[0]?.[0] ?? '');
  const chosen = items.some(([id]) => id === item) ? item : (items[0]?.[0] ?? '');
  if (items.length === 0) return <Empty>No player came to own anything in this run.</Empty>;
  const ofItem = (list: typeof rows) => list.filter((row) => row.item === chosen);
  return (
    <Sheet
      title="Days until owned"
      actions={
        <Choice
          label="Item"
          value={chosen}
          options={items.map(([value, label]) => ({ value, label }))}
          onChange={setItem}
        />
      }
    >
      <div className="grid items-start gap-3 lg:grid-cols-2">
        <OwnedChart name={items.find(([id]) => id === chosen)![1]} rows={ofItem(rows)} before={ofItem(earlier)} />
        <div className="max-h-72 overflow-auto" tabIndex={0} role="region" aria-label="Days until owned, as a list">
          <DataTable
            label="Days until owned"
            rows={rows.filter(({ owners }) => owners > 0)}
            rowKey={(row) => row.item + row.persona}
            columns={[
              { head: 'item', cell: ({ name }) => name },
              { head: 'persona', cell: ({ persona }) => persona },
              { head: 'owners', right: true, cell: ({ owners, n }) => `${owners} of ${n}` },
              { head: 'half own it by (95% interval)', cell: ({ median, low, high }) => days(median, low, high) },
              ...(before
                ? [
                    {
                      head: 'run before',
                      cell: (row: (typeof rows)[number]) => {
                        const same = earlier.find((one) => one.item === row.item && one.persona === row.persona);
                        return same ? days(same.median, same.low, same.high) : 'nobody';
                      },
                    },
                  ]
                : []),
            ]}
          />
        </div>
      </div>
    </Sheet>
  );
}
