import { availableParallelism } from 'node:os';
import type { Worker } from 'node:worker_threads';
import type { RunView } from '../../src/contract/index.js';
import { RunManager, runAsked } from '../../src/service/runs/runManager.js';
import { RunStore } from '../../src/service/store/runStore.js';
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
  // Four days tell of no third week, and little of whether shells pile up.
  expect(ended).toMatchObject({ status: 'done', day: 4, marks: { met: 0, missed: 0, open: 3 } });
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
  const comparison = await design.call('GET /comparisons', { query: { before: ids[0]!, after: String(ids[1]!) } });
  const gull =
    comparison.comparable &&
    comparison.differences.find(({ metric, subject }) => metric === 'owned' && subject === 'Gull Frame');
  expect(gull).toMatchObject({ persona: 'Racer', distinguishable: true });
  const seed = await design.watchRun(
    (await design.call('POST /runs', { body: { scenario: 'racers_only', days: 6, players: 20, seed: 99 } })).id,
  );
  expect(await design.call('GET /comparisons', { query: { before: ids[0]!, after: String(seed.id) } })).toMatchObject({
    comparable: false,
  });
});

test('a run can be cancelled while it runs or waits, and the next one goes on', async () => {
  const design = stall.as('design');
  const long = await design.call('POST /runs', { body: { scenario: 'first_month', days: 3000, players: 2000 } });
  // Of another, as many as one may have at once.
  const others = await Promise.all(
    Array.from({ length: Math.max(2, availableParallelism()) - 1 }, () =>
      stall.as('publish').call('POST /runs', { body: { scenario: 'first_month', days: 3000, players: 2000 } }),
    ),
  );
  const waiting = await design.call('POST /runs', { body: { scenario: 'first_month', ...small } });
  const last = await design.call('POST /runs', { body: { scenario: 'first_month', ...small } });
  expect((await design.call('GET /runs/{run}', { params: { run: waiting.id } })).status).toBe('waiting');
  expect((await design.call('DELETE /runs/{run}', { params: { run: waiting.id } })).status).toBe('cancelled');
  const beforeMs = performance.now();
  expect((await design.call('DELETE /runs/{run}', { params: { run: long.id } })).status).toBe('cancelled');
  expect(performance.now() - beforeMs).toBeLessThan(5000);
  expect((await design.watchRun(last.id)).status).toBe('done');
  for (const { id } of others) await design.call('DELETE /runs/{run}', { params: { run: id } });
  expect(await problemOf(design.call('GET /runs/{run}/result', { params: { run: long.id } }))).toMatchObject({
    kind: 'not-found',
    message: 'Run 1 has no result: it is cancelled.',
  });
  expect((await design.call('GET /runs')).items.map(({ id, status }) => [id, status])).toEqual([
    [last.id, 'done'],
    [waiting.id, 'cancelled'],
    ...others.map(({ id }) => [id, 'cancelled']).reverse(),
    [long.id, 'cancelled'],
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

test('a run has a name, gets another, and is deleted with its result once it is over', async () => {
  const design = stall.as('design');
  const { id } = await design.call('POST /runs', { body: { scenario: 'first_month', name: 'As it is', ...small } });
  await design.watchRun(id);
  const params = { run: id };
  expect((await design.call('PATCH /runs/{run}', { params, body: { name: 'Dear frames' } })).name).toBe('Dear frames');
  expect((await stall.as('read').call('GET /runs')).items).toMatchObject([{ name: 'Dear frames', done: 1 }]);
  expect((await problemOf(design.call('PATCH /runs/{run}', { params, body: { name: '' } }))).kind).toBe('invalid');
  expect(await design.call('DELETE /runs/{run}', { params })).toMatchObject({ id, status: 'done' });
  expect((await problemOf(design.call('GET /runs/{run}/result', { params }))).kind).toBe('not-found');
  expect((await stall.as('read').call('GET /runs')).items).toEqual([]);
});

test('two runs at once both go on, and their results are what they are alone', async () => {
  const design = stall.as('design');
  const begun = await Promise.all(
    [7, 8].map((seed) => design.call('POST /runs', { body: { scenario: 'racers_only', days: 6, players: 40, seed } })),
  );
  await Promise.all(begun.map(({ id }) => design.watchRun(id)));
  for (const [index, { id }] of begun.entries()) {
    const alone = scenarioResolve(demoDocument(), 'racers_only', { days: 6, players: 40, seed: 7 + index });
    expect(await design.call('GET /runs/{run}/result', { params: { run: id } })).toEqual(
      JSON.parse(JSON.stringify(alone.ok && simulateEngine(alone.value))),
    );
  }
});

test('a long day tells how much of it is done', async () => {
  const design = stall.as('design');
  const { id } = await design.call('POST /runs', { body: { scenario: 'racers_only', days: 2, players: 5000 } });
  const seen: number[] = [];
  await design.watchRun(id, ({ done }) => seen.push(done));
  expect(seen.some((done) => done > 0 && done < 0.5)).toBe(true);
  expect(seen).toEqual([...seen].sort((a, b) => a - b));
});

test('what cannot be run to its end says why, and the service goes on', async () => {
  const design = stall.as('design');
  const set = { '/earning/race_prize/gives/shells': '=if(day >= 2, 0 - place, 5)' };
  const failing = await design.call('POST /runs', { body: { scenario: 'racers_only', players: 5, set } });
  expect(await design.watchRun(failing.id)).toMatchObject({
    status: 'failed',
    error: expect.stringMatching(/^the run stopped on day 3: "Race prize"/) as string,
  });
  const large = await design.call('POST /runs', { body: { scenario: 'racers_only', players: 1_000_000, days: 3650 } });
  const ended = await design.watchRun(large.id, ({ status }) => {
    // Where it fits into memory it would go on for hours.
    if (status === 'running')
      void design.call('DELETE /runs/{run}', { params: { run: large.id } }).catch(() => undefined);
  });
  expect(ended.status === 'cancelled' || /players need about .* GB of memory/.test(ended.error ?? '')).toBe(true);
  const after = await design.call('POST /runs', { body: { scenario: 'first_month', ...small } });
  expect((await design.watchRun(after.id)).status).toBe('done');
});

test('nobody waits for the hours of another, and who waits is told for how long', async () => {
  const [many, other] = [stall.as('design'), stall.as('publish')];
  const long = { scenario: 'first_month', days: 3000, players: 2000 };
  const begin = (client: typeof many, body: object) => client.call('POST /runs', { body: { ...long, ...body } });
  const begun: RunView[] = [];
  for (let n = 0; n < Math.max(2, availableParallelism()) + 1; n++) begun.push(await begin(many, {}));
  const waits = async () =>
    (await Promise.all(begun.map(({ id }) => many.call('GET /runs/{run}', { params: { run: id } })))).map(
      (run) => run.waits?.ahead,
    );
  const running = begun.length - 2;
  expect(await waits()).toEqual([...Array.from({ length: running }, () => undefined), 0, 1]);
  // Another is served at once, before all that the first has asked for.
  const { id } = await begin(other, small);
  expect((await other.watchRun(id)).status).toBe('done');
  expect(await waits()).toEqual([...Array.from({ length: running }, () => undefined), 0, 1]);
  // Once it can be told how long one takes, it is.
  const next = await other.call('GET /runs/{run}', { params: { run: begun.at(-1)!.id } });
  expect(next.waits!.aboutMs).toBeGreaterThan(0);
  for (const run of begun.reverse()) await many.call('DELETE /runs/{run}', { params: { run: run.id } });
});

test('a run that takes too long is given up, and says so', async () => {
  const { database, writer, faults, log, now } = stall.service;
  const runs = new RunManager(new RunStore(database), writer, faults, log, now, 50);
  const setup = { scenario: 'first_month', source: 'draft', options: { days: 3000, players: 2000 } };
  const { id } = await runs.begin(runAsked(demoDocument(), setup), 'design');
  const ended = await new Promise<RunView>((resolve) => {
    runs.watch(id, (run) => (run.status === 'failed' ? resolve(run) : undefined));
  });
  expect(ended.error).toMatch(/^it took more than .* hours and was given up/);
  await runs.close();
});

test('what runs take of memory is reckoned together: one that does not fit beside another waits for it', async () => {
  const { database, writer, faults, log, now } = stall.service;
  const runs = new RunManager(new RunStore(database), writer, faults, log, now);
  const setup = { scenario: 'first_month', source: 'draft', options: { days: 3000, players: 2000 } };
  const asked = runAsked(demoDocument(), setup);
  expect(asked.bytes).toBeGreaterThan(40e6);
  const first = await runs.begin(asked, 'design');
  const large = await runs.begin({ ...asked, bytes: 1e15 }, 'publish');
  expect([runs.get(first.id).status, runs.get(large.id)]).toMatchObject(['running', { status: 'waiting', waits: {} }]);
  const began = new Promise<void>((resolve) => {
    runs.watch(large.id, ({ status }) => (status === 'running' ? resolve() : undefined));
  });
  await runs.end(first.id);
  await began;
  await runs.end(large.id);
  await runs.close();
});

test('a thread that dies is told, and the next run has another', async () => {
  const design = stall.as('design');
  const { id } = await design.call('POST /runs', { body: { scenario: 'first_month', days: 3000, players: 2000 } });
  const { active } = stall.service.runs as unknown as { active: Map<number, { thread: Worker }> };
  await active.get(id)!.thread.terminate();
  expect(await design.watchRun(id)).toMatchObject({ status: 'failed', error: 'the run ended without a result' });
  const after = await design.call('POST /runs', { body: { scenario: 'first_month', ...small } });
  expect((await design.watchRun(after.id)).status).toBe('done');
});

test('a run that is deleted while what came of it is being written troubles nobody who watches', async () => {
  const { runs, faults } = stall.service;
  const body = { scenario: 'first_month', days: 3000, players: 500 };
  const { id } = await stall.as('design').call('POST /runs', { body });
  const seen: string[] = [];
  runs.watch(id, ({ status }) => seen.push(status));
  // At once, so that the second comes before the first is on disk.
  const [cancelled, deleted] = await Promise.all([runs.end(id), runs.end(id)]);
  expect([cancelled.status, deleted.status, seen.at(-1)]).toEqual(['cancelled', 'cancelled', 'cancelled']);
  await new Promise((done) => setTimeout(done, 300));
  expect(faults.count).toBe(0);
  expect((await stall.as('read').call('GET /runs')).items).toEqual([]);
});
