/** Simulations in the background, their progress and results, and two of them side by side. */
import { simulationCompare } from '../../core/simulation/index.js';
import type { SimulationResult } from '../../core/simulation/index.js';
import { DEFAULT_LIMIT } from '../handler.js';
import type { Handlers } from '../handler.js';
import { Problem } from '../problem.js';
import { runAsked, runIsOver } from '../runs/runManager.js';
import type { Service } from '../service.js';

function noResult(service: Service, id: number): Problem {
  const { status } = service.runs.get(id);
  return new Problem(
    'not-found',
    status === 'done'
      ? `The result of run ${id} is of an earlier version. Run it again.`
      : `Run ${id} has no result: it is ${status}.`,
  );
}

function resultOf(service: Service, id: number | undefined): SimulationResult {
  if (id === undefined) throw new Problem('bad-request', 'Name both runs: before and after.');
  const result = service.runs.result(id);
  if (!result) throw noResult(service, id);
  return result;
}

export const runHandlers = {
  'POST /runs': ({ service, body: { scenario, source = 'draft', name, ...options } }) => ({
    kind: 'run',
    run: runAsked(service.sources.of(source).document, { scenario, source, options }, name),
  }),
  'PATCH /runs/{run}': async ({ service, params, body: { name } }) => ({
    body: await service.runs.rename(params.run, name),
  }),
  'GET /runs': ({ service, query: { cursor = Number.MAX_SAFE_INTEGER, limit = DEFAULT_LIMIT } }) => ({
    body: service.runs.page(cursor, limit),
  }),
  'GET /runs/{run}': ({ service, params }) => ({ body: service.runs.get(params.run) }),
  'GET /runs/{run}/result': ({ service, params: { run } }) => {
    const content = service.runs.resultJson(run);
    if (content === undefined) throw noResult(service, run);
    return { bytes: { type: 'application/json', content } };
  },
  'GET /runs/{run}/progress': ({ service, params }, stream) => {
    const first = service.runs.get(params.run);
    stream.send('progress', first);
    if (runIsOver(first.status)) {
      stream.close();
      return;
    }
    const stop = service.runs.watch(params.run, (run) => {
      stream.send('progress', run);
      if (runIsOver(run.status)) {
        stop();
        stream.close();
      }
    });
    stream.onClose(stop);
  },
  'DELETE /runs/{run}': async ({ service, params }) => ({ body: await service.runs.end(params.run) }),
  'GET /comparisons': ({ service, query: { before, after } }) => ({
    body: simulationCompare(
      resultOf(service, before),
      (after ?? '').split(',').map((run) => resultOf(service, run === '' ? undefined : Number(run))),
    ),
  }),
} satisfies Partial<Handlers>;
