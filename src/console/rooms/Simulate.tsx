/** Simulate: choose a scenario, change a price for the run, watch it, and see two runs together. */
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useEffect, useState } from 'react';
import type { SimulationResult } from '../../core/simulation/index.js';
import type { EconomyDocument } from '../../core/economy/index.js';
import { pointerOf } from '../../core/issue/index.js';
import type { RunView } from '../../core/wire/index.js';
import { client, useDraft, useRuns, useSave } from '../api.js';
import { BalanceChart, FlowChart, Legend, OwnedChart } from '../charts/charts.js';
import type { Runs } from '../charts/charts.js';
import { ownedRows } from '../charts/figures.js';
import { useParam } from '../parts/search.js';
import { Badge, Button, Choice, DataTable, Empty, Field, Input, Problem, Sheet, Waiting } from '../parts/ui.js';

/** The choice that stands for "compare with no other run". */
const ALONE = '(none)';

export default function Simulate() {
  const [runId, setRunId] = useParam('run', '');
  const [beforeId, setBeforeId] = useParam('before', '');
  const runs = useRuns().data?.items ?? [];
  const now = useResult(runId);
  const before = useResult(beforeId);
  const finished = runs.filter(({ status }) => status === 'done');
  const choose = (id: string) => {
    setRunId(id);
  };
  return (
    <div className="flex flex-col gap-3">
      <h1 className="text-2xl">Simulate</h1>
      <SetUp
        onDone={(run) => {
          if (runId !== '') setBeforeId(runId);
          setRunId(String(run.id));
        }}
      />
      {finished.length === 0 ? (
        <Empty>No run is done yet. Choose a scenario above and press Run.</Empty>
      ) : (
        <div className="flex flex-wrap items-end gap-3">
          <Field label="Show run">
            {(id) => <Choice id={id} value={runId} options={finished.map(runOption)} onChange={choose} />}
          </Field>
          <Field label="together with">
            {(id) => (
              <Choice
                id={id}
                value={beforeId || ALONE}
                options={[
                  { value: ALONE, label: 'no other run' },
                  ...finished.filter((run) => String(run.id) !== runId).map(runOption),
                ]}
                onChange={(value) => setBeforeId(value === ALONE ? '' : value)}
              />
            )}
          </Field>
        </div>
      )}
      <Problem error={now.error ?? before.error} />
      {runId !== '' && now.isPending && <Waiting />}
      {now.data && <Result runs={{ now: now.data, before: beforeId === '' ? undefined : before.data }} />}
      {runId !== '' && beforeId !== '' && now.data && before.data && <Differences before={beforeId} after={runId} />}
    </div>
  );
}

/** Results never change, so they are kept. */
const useResult = (id: string) =>
  useQuery({
    queryKey: ['result', id],
    queryFn: () => client.runResult(Number(id)),
    enabled: id !== '',
    staleTime: Infinity,
  });

const overridesText = (set: Record<string, unknown> | undefined): string =>
  Object.entries(set ?? {})
    .map(
      ([pointer, value]) =>
        `${pointer
          .split('/')
          .filter((part) => !['shops', 'shelves', 'offers', 'items'].includes(part))
          .slice(-3)
          .join(' ')} = ${JSON.stringify(value)}`,
    )
    .join(', ');

function runOption({ id, name, setup }: RunView) {
  const changed = overridesText(setup.options.set);
  return { value: String(id), label: `${id}: ${name}${changed ? `, ${changed}` : ''}` };
}

interface PriceSpot {
  pointer: string;
  label: string;
  value: number | string;
}

/** Every price that is written: of offers, and the worth of items that are sold for it. */
function priceSpots(document: EconomyDocument): PriceSpot[] {
  const named = (asset: string) => document.currencies?.[asset]?.name ?? asset;
  const basketSpots = (
    path: (string | number)[],
    what: string,
    basket: Record<string, number | string> | undefined,
  ): PriceSpot[] =>
    Object.entries(basket ?? {}).map(([asset, value]) => ({
      pointer: pointerOf([...path, asset]),
      label: `${what}, ${named(asset)} (${value})`,
      value,
    }));
  const offers = Object.entries(document.shops ?? {}).flatMap(([shopId, shop]) =>
    Object.entries(shop.shelves).flatMap(([shelfId, shelf]) =>
      Object.entries(shelf.offers).flatMap(([id, offer]) => {
        const path = ['shops', shopId, 'shelves', shelfId, 'offers', id, 'price'];
        const what = `${offer.name ?? (typeof offer.gives === 'string' ? (document.items?.[offer.gives]?.name ?? id) : id)}${(offer.count ?? 1) > 1 ? ` x${offer.count}` : ''} at ${shop.name}`;
        if (offer.price === undefined && typeof offer.gives === 'string')
          return basketSpots(['items', offer.gives, 'worth'], what, document.items?.[offer.gives]?.worth);
        return Array.isArray(offer.price)
          ? offer.price.flatMap((basket, index) => basketSpots([...path, index], what, basket))
          : basketSpots(path, what, offer.price === 'free' ? undefined : offer.price);
      }),
    ),
  );
  return [...new Map(offers.map((spot) => [spot.pointer, spot])).values()];
}

const NO_CHANGE = '(nothing)';

function SetUp({ onDone }: { onDone: (run: RunView) => void }) {
  const document = useDraft().data?.document;
  const queries = useQueryClient();
  const save = useSave();
  const scenarios = Object.entries(document?.scenarios ?? {});
  const [chosen, setScenario] = useParam('scenario', scenarios[0]?.[0] ?? '');
  const scenario = chosen || scenarios[0]?.[0] || '';
  const [days, setDays] = useState('');
  const [players, setPlayers] = useState('');
  const [spot, setSpot] = useState(NO_CHANGE);
  const [price, setPrice] = useState('');
  const [active, setActive] = useState<RunView>();
  const spots = document ? priceSpots(document) : [];
  const value = price.trim().startsWith('=') ? price.trim() : Number(price);
  const set = spot === NO_CHANGE || price.trim() === '' ? undefined : { [spot]: value };
  const start = useMutation({
    mutationFn: () =>
      client.startRun(scenario, {
        source: 'draft',
        ...(days ? { days: Number(days) } : {}),
        ...(players ? { players: Number(players) } : {}),
        ...(set ? { set } : {}),
      }),
    onSuccess: (run) => {
      setActive(run);
    },
  });
  useWatch(active, setActive, (run) => {
    void queries.invalidateQueries({ queryKey: ['runs'] });
    if (run.status === 'done') onDone(run);
  });
  if (!document) return <Waiting />;
  if (scenarios.length === 0)
    return <Empty>The draft has no scenario. Write one under scenarios: in a YAML file, then push the folder.</Empty>;
  const running = active !== undefined && (active.status === 'waiting' || active.status === 'running');
  return (
    <Sheet>
      <form
        className="flex flex-wrap items-end gap-3"
        onSubmit={(event) => {
          event.preventDefault();
          start.mutate();
        }}
      >
        <Field label="Scenario, on the draft">
          {(id) => (
            <Choice
              id={id}
              value={scenario}
              options={scenarios.map(([key, { name, days: d, players: p }]) => ({
                value: key,
                label: `${name} (${p} players, ${d} days)`,
              }))}
              onChange={setScenario}
            />
          )}
        </Field>
        <Field label="Days">
          {(id) => (
            <Input
              id={id}
              type="number"
              min={1}
              max={3650}
              className="w-20"
              placeholder={String(document.scenarios?.[scenario]?.days ?? '')}
              value={days}
              onChange={(event) => setDays(event.target.value)}
            />
          )}
        </Field>
        <Field label="Players">
          {(id) => (
            <Input
              id={id}
              type="number"
              min={1}
              max={1_000_000}
              className="w-24"
              placeholder={String(document.scenarios?.[scenario]?.players ?? '')}
              value={players}
              onChange={(event) => setPlayers(event.target.value)}
            />
          )}
        </Field>
        <Field label="Change one price for this run">
          {(id) => (
            <Choice
              id={id}
              value={spot}
              options={[
                { value: NO_CHANGE, label: 'nothing' },
                ...spots.map(({ pointer, label }) => ({ value: pointer, label })),
              ]}
              onChange={(pointer) => {
                setSpot(pointer);
                setPrice(String(spots.find((one) => one.pointer === pointer)?.value ?? ''));
              }}
            />
          )}
        </Field>
        {spot !== NO_CHANGE && (
          <Field label="to">
            {(id) => (
              <Input id={id} className="w-28" value={price} onChange={(event) => setPrice(event.target.value)} />
            )}
          </Field>
        )}
        <Button look="primary" type="submit" disabled={running || start.isPending}>
          Run
        </Button>
        {running && (
          <Button
            onClick={() => {
              void client.cancelRun(active.id).then(setActive);
            }}
          >
            Cancel
          </Button>
        )}
        {set && !running && (
          <Button
            disabled={save.isPending}
            onClick={() =>
              save.mutate(
                { operations: [{ op: 'replace', path: spot, value }], why: 'price taken from a simulation' },
                {
                  onSuccess: () => {
                    setSpot(NO_CHANGE);
                    setPrice('');
                  },
                },
              )
            }
          >
            Put this price into the draft
          </Button>
        )}
      </form>
      {running && (
        <div className="mt-3 flex items-center gap-3">
          <progress
            className="h-3 w-80 accent-copper"
            aria-label="Progress of the run"
            max={active.days}
            value={active.day}
          />
          <span role="status">
            {active.status === 'waiting' ? 'waiting its turn' : `day ${active.day} of ${active.days}`}
          </span>
        </div>
      )}
      {active && (active.status === 'failed' || active.status === 'cancelled') && (
        <p className="mt-2">
          <Badge tone="care">{active.status}</Badge> {active.error}
        </p>
      )}
      {(start.error ?? save.error) && (
        <div className="mt-2">
          <Problem error={start.error ?? save.error} />
        </div>
      )}
    </Sheet>
  );
}

/** Follows a run by server-sent events until it is over. */
function useWatch(run: RunView | undefined, onChange: (run: RunView) => void, onOver: (run: RunView) => void): void {
  const id = run?.id;
  useEffect(() => {
    if (id === undefined) return;
    const stop = new AbortController();
    client.watchRun(id, onChange, stop.signal).then(
      (last) => {
        onChange(last);
        onOver(last);
      },
      () => undefined,
    );
    return () => stop.abort();
    // The callbacks change at each render; the watch belongs to the run alone.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [id]);
}

function Result({ runs }: { runs: Runs }) {
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
      <Owned now={now} before={before} />
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
        <div className="max-h-72 overflow-auto">
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

const METRIC = { balance: 'wallet at the end', owned: 'share who own', 'days-to-own': 'days to own' } as const;
const figure = (metric: keyof typeof METRIC, value: number): string =>
  metric === 'owned' ? `${(100 * value).toFixed(1)} %` : Math.abs(value) < 1 ? value.toFixed(2) : value.toFixed(1);
const difference = (metric: keyof typeof METRIC, value: number): string =>
  figure(metric, value).replace(' %', ' points');

function Differences({ before, after }: { before: string; after: string }) {
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
