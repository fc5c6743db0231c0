/** What to run: the scenario, its size, and one price changed for this run. */
import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useEffect, useState } from 'react';
import { Link } from 'react-router';
import type { RunView } from '../../contract/index.js';
import { countText } from '../../core/issue/index.js';
import { durationText } from '../../core/playtime/words.js';
import { client, useDraft } from '../api.js';
import { priceSpots } from '../fields/priceSpots.js';
import { useEdits } from '../parts/edits.js';
import { useParam } from '../parts/search.js';
import { Badge, Button, Choice, Empty, Field, Input, Problem, Sheet, Waiting } from '../parts/ui.js';

const NO_CHANGE = '(nothing)';

export function SetUp({ onDone }: { onDone: (run: RunView) => void }) {
  const document = useDraft().data?.document;
  const queries = useQueryClient();
  const edits = useEdits();
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
      client.call('POST /runs', {
        body: {
          scenario,
          source: 'draft',
          ...(days ? { days: Number(days) } : {}),
          ...(players ? { players: Number(players) } : {}),
          ...(set ? { set } : {}),
        },
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
    return (
      <Empty>
        The draft has no scenario. Three questions make the first one, on{' '}
        <Link className="underline" to="/simulate">
          the bench
        </Link>
        .
      </Empty>
    );
  const running = active !== undefined && (active.status === 'waiting' || active.status === 'running');
  return (
    <Sheet>
      <form
        className="flex flex-wrap items-end gap-3"
        onSubmit={(event) => {
          event.preventDefault();
          if (!running && !start.isPending) start.mutate();
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
        <Button
          look={running ? 'plain' : 'primary'}
          type={running ? 'button' : 'submit'}
          busy={start.isPending}
          onClick={() => {
            if (running) void client.call('DELETE /runs/{run}', { params: { run: active.id } }).then(setActive);
          }}
        >
          {running ? 'Cancel' : 'Run'}
        </Button>
        {set && !running && (
          <Button
            disabled={edits.saving}
            onClick={() => {
              edits.apply({
                operations: [{ op: 'replace', path: spot, value }],
                why: 'price taken from a simulation',
              });
              setSpot(NO_CHANGE);
              setPrice('');
            }}
          >
            Put this price into the draft
          </Button>
        )}
      </form>
      {running && (
        <div className="mt-3 flex items-center gap-3">
          <progress className="run h-3 w-80" aria-label="Progress of the run" max={1} value={active.done} />
          <span role="status">
            {active.status === 'waiting' ? waitingText(active) : `day ${active.day} of ${active.days}`}
          </span>
        </div>
      )}
      {active && (active.status === 'failed' || active.status === 'cancelled') && (
        <p className="mt-2">
          <Badge tone="care">{active.status}</Badge> {active.error}
        </p>
      )}
      {start.error && (
        <div className="mt-2">
          <Problem error={start.error} />
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
    // oxlint-disable-next-line react/exhaustive-deps
  }, [id]);
}

const MINUTE_MS = 60_000;

/** How many have their turn before it, and about how long that takes, as far as it can be told. */
function waitingText({ waits }: RunView): string {
  if (!waits) return 'waiting its turn';
  const turn = waits.ahead === 0 ? 'next in turn' : `${countText(waits.ahead, 'run')} before it`;
  return waits.aboutMs === null ? turn : `${turn}, in about ${durationText(waits.aboutMs / MINUTE_MS)}`;
}
