/** Simulations in the background, their progress and results, and two of them side by side. */
import { about } from '../../core/schema/index.js';
import { operations } from '../operation.js';
import { NUMBERED_PAGE_QUERY, numbered, numberedList, pageOf } from '../shapes/common.js';
import * as run from '../shapes/run.js';

const RUN = { run: numbered() };

export const runOperations = operations({
  'POST /runs': {
    id: 'startRun',
    role: 'design',
    saves: true,
    summary: 'Starts a simulation of a scenario, on the draft or a release, with overrides',
    body: run.runRequest,
    answers: { 202: run.run },
    problems: ['invalid', 'not-found', 'nothing-published'],
  },
  'GET /runs': {
    id: 'listRuns',
    role: 'read',
    summary: 'Runs, newest first',
    query: NUMBERED_PAGE_QUERY,
    answers: { 200: pageOf(run.run) },
  },
  'GET /runs/{run}': {
    id: 'getRun',
    role: 'read',
    summary: 'One run and how far it is',
    params: RUN,
    answers: { 200: run.run },
    problems: ['not-found'],
  },
  'GET /runs/{run}/result': {
    id: 'getRunResult',
    role: 'read',
    aside: true,
    summary: 'The columnar result of a run that is done',
    params: RUN,
    answers: { 200: run.runResult },
    problems: ['not-found'],
  },
  'GET /runs/{run}/progress': {
    id: 'streamRunProgress',
    role: 'read',
    summary: 'Progress as server-sent events, until the run is over',
    params: RUN,
    answers: {},
    events: run.run,
    problems: ['not-found'],
  },
  'PATCH /runs/{run}': {
    id: 'renameRun',
    role: 'design',
    summary: 'Gives a run a name of its own',
    params: RUN,
    body: run.runChange,
    answers: { 200: run.run },
    problems: ['invalid', 'not-found'],
  },
  'DELETE /runs/{run}': {
    id: 'deleteRun',
    role: 'design',
    summary: 'Cancels a run that waits or runs; one that is over is deleted with its result',
    params: RUN,
    answers: { 200: run.run },
    problems: ['not-found'],
  },
  'GET /comparisons': {
    id: 'compareRuns',
    role: 'read',
    aside: true,
    summary: 'Runs on the same luck: how each differs from the first, in pairs of players, with intervals',
    query: { before: about('A run', numbered()), after: about('Up to seven others, such as 3,4', numberedList()) },
    answers: { 200: run.comparison },
    problems: ['not-found'],
  },
});
