/** Simulate: the bench, where levers are moved and charts follow; runs that the service keeps, up to four of them together; and logs of a game. */
import { useQueries } from '@tanstack/react-query';
import { Link } from 'react-router';
import type { EconomyDocument } from '../../core/document/index.js';
import type { SimulationResult } from '../../core/simulation/index.js';
import { client, useDraft, useRuns } from '../api.js';
import { useParam, useSetParams } from '../parts/search.js';
import { Empty, Problem, Sheet, Waiting } from '../parts/ui.js';
import { Bench } from '../simulate/Bench.js';
import { Differences } from '../simulate/Differences.js';
import { Result } from '../simulate/Result.js';
import { FromLog } from '../simulate/FromLog.js';
import { RunTools } from '../simulate/RunTools.js';
import { SavedRuns } from '../simulate/SavedRuns.js';
import { ShownCharts } from '../simulate/ShownCharts.js';
import { SetUp } from '../simulate/SetUp.js';
import { WhoPlays } from '../simulate/WhoPlays.js';

/** Runs have a number in their address; without one it is the bench. */
export default function Simulate() {
  const [run] = useParam('run', '');
  const [view] = useParam('view', run === '' ? 'bench' : 'runs');
  if (view === 'runs') return <Runs />;
  if (view === 'made') return <WhoPlays />;
  return view === 'replay' || view === 'fit' ? <FromLog /> : <Bench />;
}

/** `run` is in front; `before` are those that it is looked at with, the first of which the others are held against. */
function Runs() {
  const [runId] = useParam('run', '');
  const [beforeIds] = useParam('before', '');
  const runs = useRuns().data?.items ?? [];
  const document = useDraft().data?.document;
  const setParams = useSetParams();
  const chosen = [...beforeIds.split(','), runId].filter((id) => id !== '');
  const choose = (ids: readonly string[]): void =>
    setParams({ run: ids.at(-1) ?? '', before: ids.slice(0, -1).join(',') });
  const results = useQueries({ queries: chosen.map(resultQuery) });
  const data = results.flatMap((one) => one.data ?? []);
  const [now, before] = [data.at(-1), data[0]];
  const isThere = chosen.length > 0 && data.length === chosen.length;
  const shown = runs.find(({ id, status }) => status === 'done' && String(id) === runId);
  return (
    <div className="flex flex-col gap-3">
      <div className="flex items-baseline gap-4">
        <h1 className="text-2xl">Saved runs</h1>
        <Link className="underline" to="/simulate">
          Back to the bench
        </Link>
      </div>
      <SetUp onDone={(run) => choose([...(runId === '' ? [] : [runId]), String(run.id)])} />
      {runs.length === 0 && <Empty>No run is done yet. Choose a scenario above and press Run.</Empty>}
      {runs.length > 0 && document && (
        <Sheet>
          <SavedRuns runs={runs} zone={document.timeZone} chosen={chosen} onChoose={choose} />
        </Sheet>
      )}
      {shown && (
        <RunTools key={`${shown.id} ${shown.name}`} run={shown} onDeleted={() => choose(chosen.slice(0, -1))} />
      )}
      <Problem error={results.find(({ error }) => error)?.error} />
      {chosen.length > 0 && results.some(({ isPending }) => isPending) && <Waiting />}
      {isThere && chosen.length <= 2 && (
        <Result runs={{ now: now!, before: chosen.length === 2 ? before : undefined }} />
      )}
      {isThere && chosen.length > 2 && document && (
        <Together document={document} results={data.map((result, place) => ({ id: chosen[place]!, result }))} />
      )}
      {isThere && chosen.length > 1 && <Differences before={chosen[0]!} after={chosen.slice(1)} />}
    </div>
  );
}

/** Three or more, drawn over each other like variants on the bench: the one in front is drawn solid. */
function Together({
  document,
  results,
}: {
  document: EconomyDocument;
  results: readonly { id: string; result: SimulationResult }[];
}) {
  const [more, setMore] = useParam('more', '');
  const drawn = [...results].reverse().map(({ id, result }) => ({ name: `run ${id}`, result, preliminary: false }));
  return (
    <ShownCharts document={document} drawn={drawn} more={more !== ''} onMore={() => setMore(more === '' ? '1' : '')} />
  );
}

/** Results never change, so they are kept. */
const resultQuery = (id: string) => ({
  queryKey: ['result', id],
  queryFn: () => client.call('GET /runs/{run}/result', { params: { run: Number(id) } }),
  staleTime: Infinity,
});
