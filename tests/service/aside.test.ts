/** The thread that works on the draft. */
import { readdirSync } from 'node:fs';
import { setTimeout as wait } from 'node:timers/promises';
import { Served } from '../support/served.js';

const served = new Served();
beforeAll(() => served.start());
afterAll(() => served.end());

test('it is begun when the console is loaded, before anything is asked, and not by a look at the page alone', async () => {
  const threads = () => readdirSync(`/proc/${served.pid}/task`).length;
  // Had the page begun it, its script would bring no thread.
  const page = await (await fetch(served.url)).text();
  const before = threads();
  const script = /\/assets\/[\w.-]+\.js/.exec(page)![0];
  expect((await fetch(served.url + script)).status).toBe(200);
  for (let waited = 0; threads() === before && waited < 500; waited++) await wait(20);
  expect(threads()).toBeGreaterThan(before);
  const { revision } = await served.client.call('GET /draft');
  expect(revision).toBe(0);
});
