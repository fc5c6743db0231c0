/** Simulate: the bench, where levers are moved and charts follow; runs that the service keeps, two of them together; and logs of a game. */
import { useQuery } from '@tanstack/react-query';
import { Link } from 'react-router';
import type { RunView } from '../../contract/index.js';
import { client, useRuns } from '../api.js';
import { useParam, useSetParams } from '../parts/search.js';
import { Choice, Empty, Field, Problem, Waiting } from '../parts/ui.js';
import { Bench } from '../simulate/Bench.js';
import { Differences } from '../simulate/Differences.js';
import { Result } from '../simulate/Result.js';
import { FromLog } from '../simulate/FromLog.js';
import { RunTools } from '../simulate/RunTools.js';
import { SetUp } from '../simulate/SetUp.js';

/** The choice that stands for "compare with no other run". */
const ALONE = '(none)';

/** Runs have a number in their address; without one it is the bench. */
export default function Simulate() {
  const [run] = useParam('run', '');
  const [view] = useParam('view', run === '' ? 'bench' : 'runs');
  if (view === 'runs') return <Runs />;
  return view === 'replay' || view === 'fit' ? <FromLog /> : <Bench />;
}

function Runs() {
  const [runId, setRunId] = useParam('run', '');
  const [beforeId, setBeforeId] = useParam('before', '');
  const runs = useRuns().data?.items ?? [];
  const now = useResult(runId);
  const before = useResult(beforeId);
  const finished = runs.filter(({ status }) => status === 'done');
  const setParams = useSetParams();
  const shown = finished.find(({ id }) => String(id) === runId);
  return (
    <div className="flex flex-col gap-3">
      <div className="flex items-baseline gap-4">
        <h1 className="text-2xl">Saved runs</h1>
        <Link className="underline" to="/simulate">
          Back to the bench
        </Link>
      </div>
      <SetUp
        onDone={(run) => {
          setParams({ run: String(run.id), ...(runId === '' ? {} : { before: runId }) });
        }}
      />
      {finished.length === 0 ? (
        <Empty>No run is done yet. Choose a scenario above and press Run.</Empty>
      ) : (
        <div className="flex flex-wrap items-end gap-3">
          <Field label="Show run">
            {(id) => <Choice id={id} value={runId} options={finished.map(runOption)} onChange={setRunId} />}
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
          {shown && (
            <RunTools
              key={`${shown.id} ${shown.name}`}
              run={shown}
              onDeleted={() => {
                setParams({ run: '', before: '' });
              }}
            />
          )}
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
    queryFn: () => client.call('GET /runs/{run}/result', { params: { run: Number(id) } }),
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
