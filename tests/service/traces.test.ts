/** Traces go to whoever collects them, and to nobody where no endpoint is set. */
import { createServer } from 'node:http';
import type { Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { demoDocument } from '../support/economy.js';
import { Served } from '../support/served.js';

interface Span {
  traceId: string;
  spanId: string;
  parentSpanId?: string;
  name: string;
  startTimeUnixNano: string;
  endTimeUnixNano: string;
  attributes: { key: string; value: { stringValue?: string; intValue?: number } }[];
  status: { code?: number };
}

/** Takes what is sent as OTLP over HTTP, in JSON. */
class Collector {
  readonly spans: Span[] = [];
  sent = '';
  private readonly server: Server = createServer((request, response) => {
    let body = '';
    request.on('data', (chunk: Buffer) => (body += chunk.toString()));
    request.on('end', () => {
      this.sent += body;
      const { resourceSpans } = JSON.parse(body) as { resourceSpans: { scopeSpans: { spans: Span[] }[] }[] };
      this.spans.push(...resourceSpans.flatMap(({ scopeSpans }) => scopeSpans.flatMap(({ spans }) => spans)));
      response.setHeader('Content-Type', 'application/json').end('{}');
    });
  });

  async begin(): Promise<string> {
    await new Promise<void>((heard) => this.server.listen(0, '127.0.0.1', heard));
    return `http://127.0.0.1:${(this.server.address() as AddressInfo).port}`;
  }

  end(): void {
    this.server.closeAllConnections();
    this.server.close();
  }
}

const TRACE = '0af7651916cd43dd8448eb211c80319c';
const PARENT = 'b7ad6b7169203331';

let served: Served;
let collector: Collector;
beforeEach(() => {
  served = new Served();
  collector = new Collector();
});
afterEach(async () => {
  await served.end();
  collector.end();
});

async function begin(endpoint: string): Promise<void> {
  served.environment = {
    OTEL_EXPORTER_OTLP_ENDPOINT: endpoint,
    OTEL_BSP_SCHEDULE_DELAY: '100',
    OTEL_EXPORTER_OTLP_TIMEOUT: '500',
  };
  await served.start('--log', 'info');
  await served.client.call('PUT /draft', { body: demoDocument(), revision: 0 });
  await served.client.call('POST /releases', { body: { note: 'first' } });
  await served.client.call('POST /players', { body: { id: 'mateo', name: 'Mateo Quay' } });
}

const buy = (key: string, headers: Record<string, string> = {}) =>
  fetch(`${served.url}/api/v1/purchases`, {
    method: 'POST',
    headers: {
      Authorization: `Bearer ${served.token}`,
      'Content-Type': 'application/json',
      'Idempotency-Key': key,
      ...headers,
    },
    body: JSON.stringify({ player: 'mateo', offer: 'wax_1' }),
  });

test('a request is a span of its caller’s trace, with what it waited for and what was done in it', async () => {
  await begin(await collector.begin());
  const answer = await buy('one', { traceparent: `00-${TRACE}-${PARENT}-01`, 'X-Request-Id': 'asked-1' });
  expect(answer.status).toBe(201);
  // Who does not want to be traced is not.
  await buy('two', { traceparent: `00-${'1'.repeat(32)}-${PARENT}-00` });
  await served.client.call('GET /players/{player}', { params: { player: 'nobody' } }).catch(() => undefined);
  // What was not sent yet is sent by the stop.
  await served.stop();

  const own = collector.spans.filter(({ traceId }) => traceId === TRACE);
  const whole = own.find(({ name }) => name === 'POST /purchases')!;
  expect(whole.parentSpanId).toBe(PARENT);
  const said = Object.fromEntries(whole.attributes.map(({ key, value }) => [key, value.stringValue ?? value.intValue]));
  expect(said).toEqual({
    'http.request.method': 'POST',
    'http.route': '/purchases',
    'http.response.status_code': 201,
    'dimestall.request_id': 'asked-1',
    'dimestall.role': 'admin',
  });
  const parts = own.filter(({ parentSpanId }) => parentSpanId === whole.spanId);
  expect(parts.map(({ name }) => name).sort()).toEqual(['commit', 'wait for the writer', 'write']);
  for (const part of parts) {
    expect(BigInt(part.startTimeUnixNano)).toBeGreaterThanOrEqual(BigInt(whole.startTimeUnixNano));
    expect(BigInt(part.endTimeUnixNano)).toBeLessThanOrEqual(BigInt(whole.endTimeUnixNano));
  }
  const save = collector.spans.find(({ name }) => name === 'PUT /draft')!;
  expect(collector.spans.filter(({ parentSpanId }) => parentSpanId === save.spanId).map(({ name }) => name)).toEqual(
    expect.arrayContaining(['wait for the thread aside', 'worked out aside', 'commit']),
  );
  const lost = collector.spans.find(({ name }) => name === 'GET /players/{player}')!;
  expect(lost.attributes).toContainEqual({ key: 'error.type', value: { stringValue: 'not-found' } });
  expect(collector.spans.some(({ traceId }) => traceId === '1'.repeat(32))).toBe(false);
  // Neither who it was about nor what lets anybody in.
  expect(collector.sent).toContain('dimestall');
  for (const secret of [served.token, 'Mateo Quay', 'mateo']) expect(collector.sent).not.toContain(secret);
  // On a busy machine the log also says of it that it held up the players.
  const line = served.logged.split('\n').find((one) => one.includes('asked-1') && one.includes('"status"'))!;
  expect(JSON.parse(line)).toMatchObject({ traceId: TRACE });
});

test('where nobody collects them the service goes on, and says so in its log', async () => {
  const gone = await collector.begin();
  collector.end();
  await begin(gone);
  for (let n = 0; !served.logged.includes('traces could not be sent'); n++) {
    await buy(`buy-${n}`);
    await new Promise((go) => setTimeout(go, 100));
  }
  expect((await fetch(`${served.url}/readyz`)).status).toBe(200);
  await served.stop();
  expect(served.runs).toBe(false);
});
