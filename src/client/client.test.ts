import { ApiProblem, Client, Unreachable } from './index.js';

interface Call {
  url: string;
  init: RequestInit;
}

/** A client whose requests are answered by `answer`, and what it asked. */
function clientWith(answer: () => Response | Promise<Response>): { client: Client; calls: Call[] } {
  const calls: Call[] = [];
  const fetcher = (async (url: string, init: RequestInit) => {
    calls.push({ url, init });
    return answer();
  }) as unknown as typeof fetch;
  return { client: new Client({ url: 'http://stall', token: 'ds_x', fetch: fetcher }), calls };
}

const json = (body: unknown, status = 200) => Response.json(body, { status });

test('a purchase carries its key, its token and nothing of a price', async () => {
  const { client, calls } = clientWith(() => json({ purchase: 1 }));
  await client.call('POST /purchases', { body: { player: 'mateo', offer: 'wax_1', times: 2 }, key: 'press 1' });
  expect(calls).toEqual([
    {
      url: 'http://stall/api/v1/purchases',
      init: {
        method: 'POST',
        headers: { 'Content-Type': 'application/json', Authorization: 'Bearer ds_x', 'Idempotency-Key': 'press 1' },
        body: '{"player":"mateo","offer":"wax_1","times":2}',
      },
    },
  ]);
});

test('ids are escaped, and what is not given is not sent', async () => {
  const { client, calls } = clientWith(() => json({}));
  await client.call('GET /players/{player}', { params: { player: 'a/b?c' } });
  await client.call('GET /shops/{shop}/front', { params: { shop: 'pier_stall' }, query: { player: 'mateo' } });
  await client.call('GET /shops/{shop}/front', {
    params: { shop: 'pier_stall' },
    query: { profile: { attributes: { level: 3 } }, at: '2027-03-01T09:00' },
  });
  expect(calls.map(({ url }) => url.slice('http://stall/api/v1'.length))).toEqual([
    '/players/a%2Fb%3Fc',
    '/shops/pier_stall/front?player=mateo',
    '/shops/pier_stall/front?profile=%7B%22attributes%22%3A%7B%22level%22%3A3%7D%7D&at=2027-03-01T09%3A00',
  ]);
});

test('problem details become an error with their kind; anything else still says its status', async () => {
  const refused = clientWith(() =>
    json({ type: 'urn:dimestall:purchase-refused', title: 'T', status: 409, detail: 'Short.' }, 409),
  ).client;
  await expect(refused.call('GET /players/{player}', { params: { player: 'x' } })).rejects.toMatchObject({
    kind: 'purchase-refused',
    status: 409,
    message: 'Short.',
  });
  const proxy = clientWith(() => new Response('<html>', { status: 502, statusText: 'Bad Gateway' })).client;
  const error = await proxy
    .call('GET /players/{player}', { params: { player: 'x' } })
    .catch((caught: unknown) => caught);
  expect(error).toBeInstanceOf(ApiProblem);
  expect((error as ApiProblem).message).toBe('The service answered 502 Bad Gateway.');
});

test('no answer at all is told apart from a refusal', async () => {
  const { client } = clientWith(() =>
    Promise.reject(new TypeError('fetch failed', { cause: new Error('ECONNREFUSED') })),
  );
  const error = await client.call('GET /session').catch((caught: unknown) => caught);
  expect(error).toBeInstanceOf(Unreachable);
  expect((error as Error).message).toBe('No answer from http://stall: ECONNREFUSED');
});

test('progress is understood however the stream is cut', async () => {
  const text = [1, 2, 3].map((day) => `event: progress\ndata: {"day":${day},"note":"é"}\n\n`).join('');
  const bytes = new TextEncoder().encode(text);
  const pieces = Array.from({ length: Math.ceil(bytes.length / 7) }, (_, index) =>
    bytes.slice(index * 7, index * 7 + 7),
  );
  const answers = [
    () =>
      new Response(
        new ReadableStream({
          start: (controller) => {
            for (const piece of pieces) controller.enqueue(piece);
            controller.close();
          },
        }),
      ),
    () => json({ id: 1, status: 'done' }),
  ];
  const { client } = clientWith(() => answers.shift()!());
  const days: number[] = [];
  expect(await client.watchRun(1, ({ day }) => days.push(day))).toMatchObject({ status: 'done' });
  expect(days).toEqual([1, 2, 3]);
});
