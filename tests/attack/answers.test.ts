/** What a caller got wrong is told as theirs: no answer of 500, whatever is sent. */
import { get } from 'node:http';
import { connect } from 'node:net';
import type { IncomingMessage } from 'node:http';
import { gzipSync } from 'node:zlib';
import { serviceStart } from '../../src/service/index.js';
import { POINT_PNG, startStall } from '../support/stall.js';
import type { Stall } from '../support/stall.js';

let stall: Stall;
beforeAll(async () => {
  stall = await startStall();
  await stall.as('game').call('POST /players', { body: { id: 'mateo' } });
});
afterAll(() => stall.stop());

const send = (
  method: string,
  path: string,
  body?: Uint8Array<ArrayBuffer> | string,
  headers: Record<string, string> = {},
) =>
  fetch(`${stall.url}/api/v1${path}`, {
    method,
    headers: { Authorization: `Bearer ${stall.tokens.admin}`, 'Content-Type': 'application/json', ...headers },
    ...(body === undefined ? {} : { body }),
  });

const BROKEN = new Uint8Array([1, 2, 3, 4, 5, 6, 7, 8]);
const png = { 'Content-Type': 'image/png' };

test.each<[string, () => Promise<Response>, number, RegExp]>([
  [
    'a language that is a tag and none',
    () => send('GET', '/shops/pier_stall/front?player=mateo&language=en-a0aa'),
    400,
    /is not a language/,
  ],
  [
    'the same in checks',
    () => send('POST', '/checks', '{"checks":[{"offer":"wax_1"}],"language":"en-a0aa"}'),
    422,
    /is not a language/,
  ],
  [
    'a picture that breaks off',
    () => send('PUT', '/pictures/kite.png', new Uint8Array(POINT_PNG.subarray(0, 20)), png),
    422,
    /no PNG, JPEG, WebP or GIF/,
  ],
  ...['gzip', 'br', 'deflate'].map((encoding): [string, () => Promise<Response>, number, RegExp] => [
    `a body that does not unpack (${encoding})`,
    () => send('POST', '/checks', BROKEN, { 'Content-Encoding': encoding }),
    400,
    /The request cannot be read/,
  ]),
  [
    'an encoding that nobody knows',
    () => send('POST', '/checks', BROKEN, { 'Content-Encoding': 'kite' }),
    400,
    /The request cannot be read/,
  ],
  [
    'a period of a rotation beyond all calendars',
    () => send('POST', '/rotations/lantern_wagon/tonight/records', '{"period":1000000000,"redraw":true}'),
    400,
    /too far away: only times from 1970 to 2199/,
  ],
  [
    'an edit that leads into what objects are made of',
    () =>
      send('POST', '/draft/edits', '{"kind":"set","pointer":"/items/storm_frame/tags/__proto__/y","value":1}', {
        'If-Match': '"1"',
      }),
    422,
    /there is nothing at/i,
  ],
])('%s', async (_, ask, status, says) => {
  const response = await ask();
  const text = await response.text();
  expect([response.status, text]).toEqual([status, expect.stringMatching(says)]);
});

test('a body that is packed is read', async () => {
  const response = await send('POST', '/checks', new Uint8Array(gzipSync('{"checks":[{"offer":"wax_1"}]}')), {
    'Content-Encoding': 'gzip',
  });
  expect(response.status).toBe(200);
});

test('a request that does not come whole in time is cut off', async () => {
  const { url, close } = await serviceStart({ data: ':memory:', port: 0, logLevel: 'silent', requestMs: 300 });
  const socket = connect(Number(new URL(url).port), '127.0.0.1');
  socket.write('POST /api/v1/session HTTP/1.1\r\nHost: stall\r\nContent-Length: 100\r\n\r\n{"token":');
  let told = '';
  for await (const chunk of socket) told += String(chunk);
  expect(told).toContain('408');
  await close();
});

test('HEAD of a stream ends', async () => {
  const response = await send('HEAD', '/stream');
  expect([response.status, await response.text()]).toEqual([200, '']);
});

test('who does not read a stream is let go before what waits for them fills the memory', async () => {
  const { stream } = stall.service;
  const response = await new Promise<IncomingMessage>((resolve) =>
    get(`${stall.url}/api/v1/stream`, { headers: { Authorization: `Bearer ${stall.tokens.read}` } }, resolve),
  );
  response.pause();
  const ended = new Promise<string>((resolve) => {
    response.once('error', ({ message }) => resolve(message));
    response.once('end', () => resolve('the end'));
  });
  let told = 0;
  for (let n = 0; n < 200 && !response.destroyed; n++) {
    stream.tell('draft.saved', 'x', { revision: 1, who: 'x', why: 'x'.repeat(200_000), changes: [], more: 0 });
    stream.committed();
    told += 200_000;
    await new Promise(setImmediate);
  }
  let read = 0;
  response.on('data', (chunk: Buffer) => (read += chunk.length));
  response.resume();
  expect(await ended).toMatch(/aborted|ECONNRESET/);
  expect(read).toBeLessThan(told / 2);
  expect((await send('GET', '/session')).status).toBe(200);
});
