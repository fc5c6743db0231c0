/** A process that may open few files keeps some for itself: who comes in too great a number is not heard, and nothing breaks. */
import { connect } from 'node:net';
import type { Socket } from 'node:net';
import { setTimeout as delay } from 'node:timers/promises';
import { demoDocument } from '../support/economy.js';
import { Served } from '../support/served.js';

let served: Served;
beforeEach(() => {
  served = new Served();
});
afterEach(() => served.end());

test('with too few it does not start, and says how many it needs', async () => {
  served.openFiles = 100;
  await expect(served.start()).rejects.toThrow(/Only 100 files and connections may be open .* at least 256.*ulimit -n/);
});

test('more connections than there is room for take no file from the work', async () => {
  served.openFiles = 300;
  await served.start();
  const port = Number(new URL(served.url).port);
  const closed = new Set<Socket>();
  const knock = (): Socket => {
    const socket = connect(port, '127.0.0.1');
    socket.on('error', () => undefined);
    return socket.once('close', () => closed.add(socket));
  };
  const sockets = Array.from({ length: 400 }, knock);
  await delay(500);
  // Who finds no room is told so at once, by a connection that ends.
  expect(closed.size).toBeGreaterThan(200);
  expect(closed.size).toBeLessThan(300);
  for (const socket of sockets.slice(0, 100)) socket.destroy();
  // The others stay, and everything is done: threads are begun, files are written, processes are started.
  const { client } = served;
  await client.call('PUT /draft', { body: demoDocument(), revision: 0 });
  await client.call('POST /releases', { body: { note: 'first' } });
  await client.call('POST /players', { body: { id: 'mateo' } });
  const bought = await client.call('POST /purchases', { body: { player: 'mateo', offer: 'wax_1' }, key: 'one' });
  expect(bought.purchase).toBeGreaterThan(0);
  const run = await client.call('POST /runs', { body: { scenario: 'racers_only', days: 1, players: 10 } });
  for (let status = 'waiting'; status !== 'done'; await delay(50)) {
    ({ status } = await client.call('GET /runs/{run}', { params: { run: run.id } }));
    expect(['waiting', 'running', 'done']).toContain(status);
  }
  for (const socket of sockets) socket.destroy();
});
