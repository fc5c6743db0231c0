/** What an operator reads afterwards: each request in a line, found by its id, without secrets or names of players. */
import type { ApiProblem } from '../../src/client/index.js';
import { Served } from '../support/served.js';

let served: Served;
beforeAll(async () => {
  served = await Served.demo('--log', 'info');
});
afterAll(() => served.end());

type Line = Record<string, unknown>;
const lines = (): Line[] =>
  served.logged
    .split('\n')
    .filter(Boolean)
    .map((line) => JSON.parse(line) as Line);
/** The line of a request, once it is written. */
async function lineOf(request: string): Promise<Line> {
  for (;;) {
    const found = lines().find((line) => line['request'] === request && line['status'] !== undefined);
    if (found) return found;
    await new Promise((resolve) => setImmediate(resolve));
  }
}
const ask = (method: string, path: string, id: string, body?: object, token = served.token) =>
  fetch(`${served.url}/api/v1${path}`, {
    method,
    headers: {
      Authorization: `Bearer ${token}`,
      'Content-Type': 'application/json',
      'X-Request-Id': id,
      'Idempotency-Key': id,
    },
    ...(body === undefined ? {} : { body: JSON.stringify(body) }),
  });

test('every line is JSON, and one says where it listens', () => {
  expect(lines().find(({ url }) => url !== undefined)).toMatchObject({
    url: served.url,
    version: expect.stringMatching(/^\d/) as string,
  });
});

test('a request is told with its route, status, time and token, and carries its id', async () => {
  const response = await ask('GET', '/players/mateo', 'look-1');
  expect(response.headers.get('x-request-id')).toBe('look-1');
  const [token] = (await served.client.call('GET /tokens')).items;
  expect(await lineOf('look-1')).toMatchObject({
    method: 'GET',
    route: '/players/{player}',
    status: 200,
    tokenId: token!.id,
    role: 'admin',
    ms: expect.any(Number) as number,
    bytes: expect.any(Number) as number,
    msg: 'request',
  });
});

test('a refusal is told with what refused, in the problem with the id by which it is found', async () => {
  const refused = await ask('POST', '/purchases', 'buy-1', { player: 'mateo', offer: 'storm_frame' });
  expect(await refused.json()).toMatchObject({ type: 'urn:dimestall:purchase-refused', requestId: 'buy-1' });
  expect((await lineOf('buy-1'))['code']).toMatch(/^purchase-refused \S+/);
  const metrics = await (await fetch(`${served.url}/metrics`)).text();
  expect(metrics).toMatch(/^dimestall_refused_total\{code="purchase-refused"\} 1$/m);
});

test('without an id that can be one, it gets one of its own', async () => {
  const problem: unknown = await served.client
    .call('GET /players/{player}', { params: { player: 'nobody' } })
    .catch((error: unknown) => error);
  const { requestId } = (problem as ApiProblem).body;
  expect(requestId).toMatch(/^[0-9a-f]{16}$/);
  expect(await lineOf(requestId as string)).toMatchObject({ status: 404, code: 'not-found' });
  expect((await ask('GET', '/draft', 'x y"')).headers.get('x-request-id')).toMatch(/^[0-9a-f]{16}$/);
});

test('neither tokens nor names of players are in it, whoever tries', async () => {
  await ask('POST', '/players', 'make-1', { id: 'p_17', name: 'Filipa Secret', attributes: {} });
  await ask('GET', '/players?search=Filipa', 'find-1');
  await ask('GET', '/draft?token=ds_inTheQuery', 'guess-1', undefined, 'ds_aGuess');
  await ask('POST', '/session', 'sign-1', { token: 'ds_another' });
  expect((await lineOf('guess-1'))['status']).toBe(401);
  expect(await lineOf('sign-1')).toMatchObject({ status: 401, code: 'not-signed-in' });
  await lineOf('find-1');
  expect(served.logged).not.toMatch(/Filipa|ds_/);
  expect(served.logged).not.toContain(served.token);
});

test('what staff did, who signed in, and what runs came to are lines of their own', async () => {
  const one = async (what: object): Promise<Line> => {
    for (;;) {
      const found = lines().find((line) => Object.entries(what).every(([name, value]) => line[name] === value));
      if (found) return found;
      await new Promise((resolve) => setImmediate(resolve));
    }
  };
  expect(await one({ action: 'release.publish' })).toMatchObject({ who: 'demo', subject: 'release 1', why: 'first' });
  await ask('POST', '/session', 'sign-2', { token: served.token });
  expect(await one({ msg: 'signed in' })).toMatchObject({ who: 'demo', role: 'admin' });
  await ask('POST', '/session', 'sign-3', { token: 'ds_wrong' });
  expect(await one({ msg: 'a sign-in failed', request: 'sign-3' })).toMatchObject({ address: '127.0.0.1', level: 40 });
  const { id } = await served.client.call('POST /runs', { body: { scenario: 'racers_only', days: 1, players: 1 } });
  await served.client.watchRun(id);
  expect(await one({ msg: 'a run has begun', run: id })).toMatchObject({ who: 'demo', playerDays: 1 });
  expect(await one({ msg: 'a run is over', run: id })).toMatchObject({ status: 'done' });
  // What support does for players is in the trail; the log says only that somebody asked.
  await ask('POST', '/players/mateo/grants', 'grant-1', { gives: { shells: 1 }, reason: 'Mateo lost his kite' });
  await lineOf('grant-1');
  expect(served.logged).not.toContain('Mateo lost');
  // What is worked out by another thread says how long it waited for that.
  await ask('GET', '/draft/audit', 'aside-1');
  expect(await lineOf('aside-1')).toMatchObject({
    waitMs: expect.any(Number) as number,
    asideMs: expect.any(Number) as number,
  });
});

test('who goes away while they wait has broken nothing', async () => {
  const gone = new AbortController();
  const year = `${served.url}/api/v1/calendar?from=2027-01-01&to=2028-01-01&source=draft`;
  const headers = { Authorization: `Bearer ${served.token}` };
  const asked = Array.from({ length: 12 }, () => fetch(year, { headers, signal: gone.signal }).catch(() => 'gone'));
  // Two at least are behind one that is answered.
  await Promise.race(asked);
  gone.abort();
  await Promise.all(asked);
  expect((await fetch(year, { headers: { ...headers, 'X-Request-Id': 'last-1' } })).status).toBe(200);
  await lineOf('last-1');
  expect(lines().filter((line) => line['cut'] === true).length).toBeGreaterThan(0);
  expect(lines().filter((line) => line['msg'] === 'what broke')).toEqual([]);
});

test('many are told by their number', async () => {
  const MANY = 300;
  await Promise.all(Array.from({ length: MANY }, (_, n) => ask('GET', '/session', `many-${n}`)));
  // The next second tells how many of the last were left out.
  for (let n = 0; !lines().some((line) => line['msg'] === 'requests that are not told one by one'); n++)
    await ask('GET', '/session', `after-${n}`);
  expect(lines().filter((line) => String(line['request']).startsWith('many-')).length).toBeLessThan(MANY);
});
