/** Simulations in the background, their progress and results, and two of them side by side. */
import { checked, fields, mapOf, text, wholeNumber } from '../../core/schema/index.js';
import { simulationCompare } from '../../core/simulation/index.js';
import type { ScenarioOptions, SimulationResult } from '../../core/simulation/index.js';
import { Problem } from '../problem.js';
import { sourceEconomy } from '../profile.js';
import { PAGE_QUERY, bodyOf, pageLimit, pageOf, queryNumber } from '../route.js';
import type { Route } from '../route.js';
import { runIsOver } from '../runs/runManager.js';
import type { Service } from '../service.js';

const runBody = fields({
  scenario: text(64).required(),
  source: text(64),
  days: wholeNumber(1, 3650),
  players: wholeNumber(1, 1_000_000),
  seed: wholeNumber(0, 4_294_967_295),
  set: mapOf(
    checked<unknown>({}, () => undefined),
    { test: (key) => key.startsWith('/'), rule: 'an override is a JSON pointer into the economy', pattern: '^/' },
  ),
});

const idOf = (written: string | undefined): number => {
  if (!/^\d{1,9}$/.test(written ?? '')) throw new Problem('not-found', `There is no run "${written}".`);
  return Number(written);
};

function resultOf(service: Service, id: number): SimulationResult {
  const { status } = service.runs.get(id);
  const result = service.runs.result(id);
  if (!result) throw new Problem('not-found', `Run ${id} has no result: it is ${status}.`);
  return result;
}

export const runRoutes: Route[] = [
  {
    method: 'post',
    path: '/runs',
    needs: 'design',
    summary: 'Starts a simulation of a scenario, on the draft or a release, with overrides',
    body: runBody,
    handle: (incoming) => {
      const { service, who } = incoming;
      const {
        scenario,
        source = 'draft',
        ...options
      } = bodyOf<{ scenario: string; source?: string } & ScenarioOptions>(incoming);
      const run = service.runs.start(
        sourceEconomy(service, source).economy.document,
        { scenario, source, options },
        who.name,
      );
      return { status: 202, body: run, headers: { Location: `/api/v1/runs/${run.id}` } };
    },
  },
  {
    method: 'get',
    path: '/runs',
    needs: 'read',
    summary: 'Runs, newest first',
    query: PAGE_QUERY,
    handle: ({ service, query }) => {
      const limit = pageLimit(query);
      return {
        body: pageOf(
          service.runs.list(queryNumber(query, 'cursor', Number.MAX_SAFE_INTEGER, 0, Number.MAX_SAFE_INTEGER), limit),
          limit,
          ({ id }) => id,
        ),
      };
    },
  },
  {
    method: 'get',
    path: '/runs/{id}',
    needs: 'read',
    summary: 'One run and how far it is',
    handle: ({ service, params }) => ({ body: service.runs.get(idOf(params['id'])) }),
  },
  {
    method: 'get',
    path: '/runs/{id}/result',
    needs: 'read',
    summary: 'The columnar result of a run that is done',
    handle: ({ service, params }) => {
      const id = idOf(params['id']);
      const { status } = service.runs.get(id);
      const content = service.runs.resultText(id);
      if (content === undefined) throw new Problem('not-found', `Run ${id} has no result: it is ${status}.`);
      return { bytes: { type: 'application/json', content } };
    },
  },
  {
    method: 'get',
    path: '/runs/{id}/progress',
    needs: 'read',
    summary: 'Progress as server-sent events, until the run is over',
    stream: ({ service, params }, stream) => {
      const id = idOf(params['id']);
      const first = service.runs.get(id);
      stream.send('progress', first);
      if (runIsOver(first.status)) {
        stream.close();
        return;
      }
      const stop = service.runs.watch(id, (run) => {
        stream.send('progress', run);
        if (runIsOver(run.status)) {
          stop();
          stream.close();
        }
      });
      stream.onClose(stop);
    },
  },
  {
    method: 'delete',
    path: '/runs/{id}',
    needs: 'design',
    summary: 'Cancels a run that waits or runs',
    handle: ({ service, params }) => ({ body: service.runs.cancel(idOf(params['id'])) }),
  },
  {
    method: 'get',
    path: '/comparisons',
    needs: 'read',
    summary: 'Two runs on the same luck: paired differences with intervals',
    query: { before: 'A run', after: 'Another run' },
    handle: ({ service, query }) => ({
      body: simulationCompare(resultOf(service, idOf(query['before'])), resultOf(service, idOf(query['after']))),
    }),
  },
];
