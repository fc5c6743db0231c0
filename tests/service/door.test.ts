/** The port before the service, and how many are heard at once. */
import { connect } from 'node:net';
import { once } from 'node:events';
import { setTimeout as delay } from 'node:timers/promises';
import { Door } from '../../src/service/door.js';

let door: Door;
beforeEach(async () => {
  door = await Door.open({ port: 0 });
});
afterEach(() => door.close());

const knock = () => connect(Number(new URL(door.url).port), '127.0.0.1').on('error', () => undefined);

/** The most connections that are taken in one turn of the event loop, of many that knock at once. */
async function mostAtOnce(): Promise<number> {
  let turn = 0;
  let goesOn = true;
  const next = (): void => {
    turn++;
    if (goesOn) setImmediate(next);
  };
  next();
  const taken = new Map<number, number>();
  door.onConnection = () => taken.set(turn, (taken.get(turn) ?? 0) + 1);
  const sockets = Array.from({ length: 200 }, knock);
  await Promise.all(sockets.map((socket) => once(socket, 'connect')));
  while ([...taken.values()].reduce((sum, count) => sum + count, 0) < sockets.length) await delay(5);
  goesOn = false;
  for (const socket of sockets) socket.destroy();
  return Math.max(...taken.values());
}

test('of many who knock at once as many are heard in a turn as there is somebody to hear them', async () => {
  const alone = await mostAtOnce();
  await door.widen(16);
  const with16 = await mostAtOnce();
  expect(with16).toBeGreaterThan(alone);
  expect(with16).toBeLessThanOrEqual(alone * 17);
  // All of them lead to the same answers, and to none once it is closed.
  door.letIn((_request, response) => response.end('in'));
  const answers = await Promise.all(Array.from({ length: 50 }, async () => (await fetch(door.url)).text()));
  expect(new Set(answers)).toEqual(new Set(['in']));
  const { url } = door;
  await door.close();
  await expect(fetch(url)).rejects.toThrow('fetch failed');
});

test('before there is anything behind it, it says why and when to come again', async () => {
  expect(await (await fetch(`${door.url}/healthz`)).json()).toEqual({ status: 'up' });
  const ready = await fetch(`${door.url}/readyz`);
  expect([ready.status, ready.headers.get('retry-after'), await ready.json()]).toEqual([
    503,
    '1',
    { status: 'not ready', why: 'it starts' },
  ]);
  door.shut('it waits', 30);
  const shut = await fetch(`${door.url}/api/v1/draft`);
  expect([shut.status, shut.headers.get('retry-after'), shut.headers.get('content-type')]).toEqual([
    503,
    '30',
    'application/problem+json',
  ]);
  expect(await shut.json()).toEqual({
    type: 'urn:dimestall:not-open',
    title: 'The service is not open yet',
    status: 503,
    detail: 'It waits. That takes about 30 more seconds. Nothing was changed; ask again.',
  });
});
