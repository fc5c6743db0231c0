import type { RunView } from '../../src/contract/index.js';
import { scenarioResolve, simulateEngine } from '../../src/core/simulation/index.js';
import { demoDocument } from '../support/economy.js';
import { problemOf, scratchFolder, startStall } from '../support/stall.js';
import type { Stall } from '../support/stall.js';

let stall: Stall;
beforeEach(async () => {
  stall = await startStall();
});
afterEach(() => stall.stop());

const small = { days: 4, players: 20 };

test('a run goes on in the background, reports each day, and its result is what core gives', async () => {
  const started = await stall.as('design').call('POST /runs', { body: { scenario: 'first_month', ...small } });
  expect(started).toMatchObject({ id: 1, name: 'First month', days: 4 });
  const seen: RunView[] = [];
  const ended = await stall.as('read').watchRun(started.id, (run) => seen.push(run));
  expect(ended).toMatchObject({ status: 'done', day: 4 });
  expect(seen.at(-1)).toMatchObject({ status: 'done' });
  expect(seen.map(({ day }) => day)).toEqual([...seen.map(({ day }) => day)].sort());
  const setup = scenarioResolve(demoDocument(), 'first_month', small);
  expect(await stall.as('read').call('GET /runs/{run}/result', { params: { run: started.id } })).toEqual(
    JSON.parse(JSON.stringify(setup.ok && simulateEngine(setup.value))),
  );
});

test('two runs are compared on the same luck', async () => {
  const design = stall.as('design');
  const price = '/items/gull_frame/worth/shells';
  const ids: number[] = [];
  for (const set of [undefined, { [price]: 4500 }]) {
    const { id } = await design.call('POST /runs', {
      body: { scenario: 'racers_only', days: 6, players: 20, ...(set ? { set } : {}) },
    });
    ids.push((await design.watchRun(id)).id);
  }
  const comparison = await design.call('GET /comparisons', { query: { before: ids[0]!, after: ids[1]! } });
  const gull =
    comparison.comparable &&
    comparison.differences.find(({ metric, subject }) => metric === 'owned' && subject === 'Gull Frame');
  expect(gull).toMatchObject({ persona: 'Racer', distinguishable: true });
  const seed = await design.watchRun(
    (await design.call('POST /runs', { body: { scenario: 'racers_only', days: 6, players: 20, seed: 99 } })).id,
  );
  expect(await design.call('GET /comparisons', { query: { before: ids[0]!, after: seed.id } })).toMatchObject({
    comparable: false,
  });
});

test('a run can be cancelled while it runs or waits, and the next one goes on', async () => {
  const design = stall.as('design');
  const long = await design.call('POST /runs', { body: { scenario: 'first_month', days: 3000, players: 2000 } });
  const waiting = await design.call('POST /runs', { body: { scenario: 'first_month', ...small } });
  const last = await design.call('POST /runs', { body: { scenario: 'first_month', ...small } });
  expect((await design.call('GET /runs/{run}', { params: { run: waiting.id } })).status).toBe('waiting');
  expect((await design.call('DELETE /runs/{run}', { params: { run: waiting.id } })).status).toBe('cancelled');
  expect((await design.call('DELETE /runs/{run}', { params: { run: long.id } })).status).toBe('cancelled');
  expect((await design.watchRun(last.id)).status).toBe('done');
  expect(await problemOf(design.call('GET /runs/{run}/result', { params: { run: long.id } }))).toMatchObject({
    kind: 'not-found',
    message: 'Run 1 has no result: it is cancelled.',
  });
  expect((await design.call('GET /runs')).items.map(({ id, status }) => [id, status])).toEqual([
    [3, 'done'],
    [2, 'cancelled'],
    [1, 'cancelled'],
  ]);
});

test('watching a run that is over tells how it ended', async () => {
  const { id } = await stall.as('design').call('POST /runs', { body: { scenario: 'first_month', ...small } });
  await stall.as('design').watchRun(id);
  const seen: RunView[] = [];
  await stall.as('read').watchRun(id, (run) => seen.push(run));
  expect(seen).toMatchObject([{ status: 'done' }]);
});

test('a run that a stop cut off is told as failed after the next start', async () => {
  const folder = scratchFolder();
  const data = `${folder.path}/stall.sqlite`;
  const first = await startStall({ data });
  await first.as('design').call('POST /runs', { body: { scenario: 'first_month', days: 3000, players: 2000 } });
  await first.stop();
  const second = await startStall({ data, publish: false });
  expect((await second.as('read').call('GET /runs')).items).toMatchObject([
    { status: 'failed', error: expect.stringContaining('run it again') as string },
  ]);
  await second.stop();
  folder.remove();
});
