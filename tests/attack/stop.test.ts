/** A stop answers what it accepted: nothing is done that nobody is told of, and nobody who was heard is cut off. */
import Sqlite from 'better-sqlite3';
import { Unreachable } from '../../src/client/index.js';
import { Served } from '../support/served.js';

let served: Served;
const UNBOUND = ['--work-per-second', '1000000'];
beforeAll(async () => {
  served = await Served.demo(...UNBOUND);
});
afterAll(() => served.end());

const ROUNDS = 3;
const CALLERS = 60;
const PRESSES = 400;

/** What is stored of all presses, read from the file itself. */
function stored(): number {
  const raw = new Sqlite(served.data, { readonly: true });
  const count = raw.prepare("SELECT count(*) FROM handled WHERE kind = 'event'").pluck().get() as number;
  raw.close();
  return count;
}

test('whatever was stored was answered, however many were waiting', async () => {
  let answered = 0;
  for (let round = 0; round < ROUNDS; round++) {
    const { client } = served;
    const until = answered + PRESSES;
    let stopping: Promise<void> | undefined;
    const press = async (caller: number): Promise<void> => {
      for (let n = 0; ; n++) {
        const body = { events: [{ id: `${round} ${caller} ${n}`, name: 'chime_hung' }] };
        try {
          await client.call('POST /players/{player}/events', { params: { player: 'mateo' }, body });
        } catch (error) {
          if (error instanceof Unreachable) return;
          throw error;
        }
        if (++answered === until) stopping = served.stop();
      }
    };
    await Promise.all(Array.from({ length: CALLERS }, (_, caller) => press(caller)));
    await stopping;
    expect([round, stored()]).toEqual([round, answered]);
    await served.start(...UNBOUND);
  }
});

test('who listens is let go, and a stop does not wait for them', async () => {
  const ended = served.client.listen('GET /stream', {}, () => undefined);
  await served.client.call('GET /session');
  const beforeMs = performance.now();
  await served.stop();
  await ended;
  expect(performance.now() - beforeMs).toBeLessThan(8000);
  await served.start();
});

test('a second word ends it at once, whatever is being answered', async () => {
  const slow = fetch(`${served.url}/api/v1/players`, {
    method: 'POST',
    headers: { Authorization: `Bearer ${served.token}`, 'Content-Type': 'application/json' },
    body: new ReadableStream({ start: (controller) => controller.enqueue(new TextEncoder().encode('{')) }),
    duplex: 'half',
  } as RequestInit).catch(() => undefined);
  await served.client.call('GET /session');
  const gone = served.stop();
  await new Promise((resolve) => setTimeout(resolve, 200));
  process.kill(served.pid, 'SIGTERM');
  await gone;
  await slow;
  await served.start();
});
