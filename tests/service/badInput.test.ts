import { Validator } from '@seriousme/openapi-schema-validator';
import { Ajv2020 } from 'ajv/dist/2020.js';
import fc from 'fast-check';
import { CONTRACT, KEYS, methodOf, pathOf } from '../../src/contract/index.js';
import type { Body, Key } from '../../src/contract/index.js';
import { parse } from 'yaml';
import { demoDocument, demoFiles } from '../support/economy.js';
import { problemOf, startStall } from '../support/stall.js';
import type { Stall } from '../support/stall.js';

let stall: Stall;
beforeAll(async () => {
  stall = await startStall();
  await stall.as('game').call('POST /players', { body: { id: 'mateo' } });
});
afterAll(() => stall.stop());

const problem = async (response: Response) => ({
  media: response.headers.get('content-type'),
  ...((await response.json()) as {
    status: number;
    detail: string;
    errors?: { pointer: string; code: string; fix: string }[];
  }),
});

test.each([
  ['a body that is no JSON', 'POST', '/checks', '{"checks": [', 400],
  ['a body of another shape', 'POST', '/checks', { checks: 'all' }, 422],
  ['a question of another shape', 'POST', '/checks', { checks: [{ offer: 5, tims: 1 }] }, 422],
  ['an instant that is none', 'POST', '/checks', { checks: [{ offer: 'wax_1', at: 'tomorrow' }] }, 400],
  [
    'a profile with an unknown asset',
    'POST',
    '/checks',
    { checks: [{ offer: 'wax_1', profile: { holds: { shels: 5 } } }] },
    422,
  ],
  [
    'a profile with a fraction',
    'POST',
    '/checks',
    { checks: [{ offer: 'wax_1', profile: { holds: { shells: 0.5 } } }] },
    422,
  ],
  ['a source that is not there', 'POST', '/checks', { source: '99', checks: [{ offer: 'wax_1' }] }, 404],
  [
    'an event without its fields',
    'POST',
    '/players/mateo/events',
    { events: [{ id: 'a', name: 'race_finished', fields: { place: 1 } }] },
    422,
  ],
  ['an event that nobody knows', 'POST', '/players/mateo/events', { events: [{ id: 'a', name: 'rase' }] }, 422],
  ['a grant of nothing', 'POST', '/players/mateo/grants', { reason: 'x' }, 422],
  ['a grant below zero', 'POST', '/players/mateo/grants', { gives: { shells: -5 }, reason: 'x' }, 422],
  ['a grant of something that is not there', 'POST', '/players/mateo/grants', { gives: { gold: 5 }, reason: 'x' }, 422],
  ['a grant without a reason', 'POST', '/players/mateo/grants', { gives: { shells: 5 } }, 422],
  ["a player's id with blanks", 'POST', '/players', { id: 'a b' }, 422],
  ['a run of a scenario that is not there', 'POST', '/runs', { scenario: 'frist_month' }, 422],
  [
    'a run with an override to nowhere',
    'POST',
    '/runs',
    { scenario: 'first_month', set: { '/items/none/worth': 1 } },
    422,
  ],
  ['a run of no days', 'POST', '/runs', { scenario: 'first_month', days: 0 }, 422],
  ['a release without a note', 'POST', '/releases', {}, 422],
  ['a channel to a release that is not there', 'PUT', '/channels/live', { release: 99 }, 404],
  ['a patch that is no list', 'PATCH', '/draft', { op: 'add' }, 422],
])('%s is answered with problem details', async (_, method, path, body, status) => {
  const answer = await problem(
    await stall.raw(method, path, { body, headers: { 'Idempotency-Key': 'k', 'If-Match': '"1"' } }),
  );
  expect([answer.status, answer.media]).toEqual([status, 'application/problem+json; charset=utf-8']);
  expect(answer.detail).not.toBe('');
  if (status === 422)
    for (const { pointer, fix, code } of answer.errors!)
      expect([typeof pointer, fix.length > 0, code.length > 0]).toEqual(['string', true, true]);
});

test('all problems of a body are told at once, each with its pointer', async () => {
  const { errors } = await problem(
    await stall.raw('POST', '/checks', { body: { checks: [{ offer: 5 }, {}, { offer: 'a', times: 0 }] } }),
  );
  expect(errors!.map(({ pointer }) => pointer)).toEqual(['/checks/0/offer', '/checks/1/offer', '/checks/2/times']);
});

test.each([
  ['/players?limit=0', 400],
  ['/players?limit=many', 400],
  ['/players?colour=red', 400],
  ['/players?limit=1&limit=2', 400],
  ['/shops/pier_stall/front?player=nobody', 404],
  ['/shops/nowhere/front?player=mateo', 404],
  ['/shops/pier_stall/front?at=never', 400],
  ['/shops/pier_stall/front?profile={', 400],
  ['/runs/1e9', 404],
  ['/runs/99', 404],
  ['/runs/99/progress', 404],
  ['/releases/abc', 404],
  ['/nothing/here', 404],
  ['/comparisons', 400],
  ['/comparisons?before=1&after=99', 404],
  ['/players/%E0%A4%A', 400],
])('GET %s is answered with %d', async (path, status) => {
  expect(await problem(await stall.raw('GET', path))).toMatchObject({
    status,
    media: 'application/problem+json; charset=utf-8',
  });
});

test('a body that is too large or too deep gets a clear answer', async () => {
  const large = await problem(
    await stall.raw('PUT', '/draft', { body: `{"name": "${'x'.repeat(13_000_000)}"}`, headers: { 'If-Match': '"1"' } }),
  );
  expect(large).toMatchObject({ status: 413, detail: expect.stringContaining('12288 kB') as string });
  const deep = await problem(
    await stall.raw('PUT', '/draft', {
      body: `${'{"a":'.repeat(50_000)}1${'}'.repeat(50_000)}`,
      headers: { 'If-Match': '"1"' },
    }),
  );
  expect(deep.status).toBe(400);
  const nested = await problem(
    await stall.raw('PUT', '/draft', {
      body: `{"items": ${'{"a":'.repeat(100)}1${'}'.repeat(100)}}`,
      headers: { 'If-Match': '"1"' },
    }),
  );
  expect(nested).toMatchObject({ status: 422, errors: [{ code: 'too-deep' }] });
});

test('a body is not even read before it is known who sends it', async () => {
  const response = await stall.raw('PUT', '/draft', { role: 'nobody', body: '{"not": json' });
  expect(await problem(response)).toMatchObject({ status: 401 });
});

/** Bodies that are taken as they are, by operation: what is sent is one of these but for one field, or anything at all. */
const VALID: { [K in Key]?: Body<K> } = {
  'POST /releases': { note: 'another', channel: 'test', revision: 1 },
  'POST /checks': { checks: [{ offer: 'wax_1', player: 'mateo', times: 2, pay: 'shells', expect: { shells: 30 } }] },
  'POST /purchases': { player: 'mateo', offer: 'wax_1', times: 1, pay: 'shells', expect: { shells: 15 } },
  'POST /buybacks': { player: 'mateo', item: 'sea_glass', shop: 'lantern_wagon', times: 1, expect: { shells: 1 } },
  'POST /uses': { player: 'mateo', uses: [{ id: 'u1', item: 'glide_wax', times: 1 }] },
  'POST /openings': { player: 'mateo', item: 'drift_crate', times: 1 },
  'POST /collections': { player: 'mateo', item: 'festival_pass' },
  'POST /players': { id: 'lia', name: 'Lia', attributes: { level: 2 } },
  'POST /players/{player}/grants': { gives: { shells: 5 }, takes: { pearls: 1 }, reason: 'sorry' },
  'POST /players/{player}/events': {
    events: [{ id: 'e1', name: 'race_finished', fields: { place: 1, difficulty: 2 } }],
  },
  'POST /odds': { id: 'drift_crate', profile: { attributes: { level: 2 }, holds: { shells: 5 } }, set: {} },
  'POST /runs': {
    scenario: 'racers_only',
    days: 1,
    players: 2,
    seed: 3,
    set: { '/items/storm_frame/worth/shells': 9 },
  },
  'POST /draft/edits': { kind: 'reprice', where: { group: 'sails' }, percent: 5, round: { to: 5, way: 'up' } },
  'POST /rotations/{shop}/{shelf}/records': { redraw: true, why: 'asked for' },
  'PUT /channels/{channel}': { release: 1, at: '2027-03-02T09:00', note: 'later' },
};

/** The body with one of its fields, however deep, made into something else. */
function withOneField(body: unknown, which: number, value: unknown): unknown {
  const paths: string[][] = [];
  const visit = (one: unknown, path: string[]): void => {
    if (path.length > 0) paths.push(path);
    if (typeof one === 'object' && one !== null)
      for (const [key, inner] of Object.entries(one)) visit(inner, [...path, key]);
  };
  visit(body, []);
  const changed = structuredClone(body);
  const path = paths[which % paths.length]!;
  const holder = path.slice(0, -1).reduce((one, key) => (one as Record<string, unknown>)[key], changed);
  (holder as Record<string, unknown>)[path.at(-1)!] = value;
  return changed;
}

const PARAMS: Record<string, string> = { shop: 'lantern_wagon', shelf: 'tonight', player: 'mateo', channel: 'test' };

/** Whatever is sent to any endpoint: an answer that is no crash, and no trace of our own code in it. */
describe('no endpoint breaks', () => {
  const routes = KEYS.filter((key) => !pathOf(key).startsWith('/session') && !('events' in CONTRACT[key]));
  const sent = async (key: Key, body: unknown, paramOf: (name: string) => string): Promise<number> => {
    const [method, path] = [methodOf(key), pathOf(key).replace(/\{(\w+)\}/g, (_, name: string) => paramOf(name))];
    const { revision } = stall.service.draft.current;
    const response = await stall.raw(method, path, {
      headers: { 'If-Match': `"${revision}"`, 'Idempotency-Key': 'k' },
      ...(method === 'GET' || method === 'DELETE' ? {} : { body }),
    });
    const text = await response.text();
    expect([key, body, response.status < 500]).toEqual([key, body, true]);
    expect(text).not.toMatch(/node_modules|\.ts:|\.js:\d/);
    return response.status;
  };
  const known = (name: string) => PARAMS[name] ?? 'x';

  test('on bodies that are right but for one field', async () => {
    // As they stand they come through: else the fields beside the odd one would never be read.
    for (const [key, body] of Object.entries(VALID)) {
      const status = await sent(key as Key, body, known);
      expect([key, [200, 201, 202, 409].includes(status)]).toEqual([key, true]);
    }
    const odd = fc.oneof(
      fc.jsonValue(),
      fc.double(),
      fc.bigInt({ min: -(2n ** 60n), max: 2n ** 60n }).map(Number),
      fc.constantFrom('', '__proto__', 'nothing', '=1/0', '9'.repeat(400), '2027-02-30'),
    );
    await fc.assert(
      fc.asyncProperty(
        fc.constantFrom(...Object.entries(VALID)),
        fc.nat(30),
        odd,
        async ([key, body], which, value) => {
          await sent(key as Key, withOneField(body, which, value), known);
        },
      ),
      { numRuns: 300 },
    );
    expect((await stall.raw('GET', '/draft')).status).toBe(200);
  });

  test('on anything', async () => {
    await fc.assert(
      fc.asyncProperty(
        fc.constantFrom(...routes),
        fc.oneof(fc.jsonValue(), fc.constant([])),
        fc.string({ maxLength: 20 }),
        async (key, body, id) => {
          await sent(key, body, () => encodeURIComponent(id) || 'x');
        },
      ),
      { numRuns: 150 },
    );
    expect((await stall.raw('GET', '/draft')).status).toBe(200);
  });
});

test('openapi.json is valid, describes every operation with its answers, and its shapes refuse what the service refuses', async () => {
  const document = (await (await fetch(`${stall.url}/openapi.json`)).json()) as {
    openapi: string;
    paths: Record<
      string,
      Record<
        string,
        {
          operationId: string;
          tags: string[];
          parameters: { name: string }[];
          requestBody?: object;
          responses: Record<string, { content?: object }>;
        }
      >
    >;
    components: { schemas: Record<string, object> };
    tags: { name: string; description: string }[];
  };
  expect(document.openapi).toBe('3.1.0');
  expect(await new Validator().validate(structuredClone(document))).toEqual({ valid: true });
  for (const [path, methods] of Object.entries(document.paths))
    for (const [method, { responses }] of Object.entries(methods)) {
      const good = Object.entries(responses).filter(([status]) => /^2(?!04)/.test(status));
      expect([method, path, good.length > 0 || '204' in responses]).toEqual([method, path, true]);
      for (const [, { content }] of good) expect([method, path, content]).not.toEqual([method, path, undefined]);
    }
  // References are followed from the document's root.
  const ajv = new Ajv2020({ strict: false });
  ajv.addSchema({ $id: 'openapi', components: document.components });
  const compiled = (name: string) => ajv.compile({ $ref: `openapi#/components/schemas/${name}` });
  for (const key of KEYS) expect(document.paths[`/api/v1${pathOf(key)}`]).toHaveProperty(methodOf(key).toLowerCase());
  const ids = Object.values(document.paths).flatMap((methods) =>
    Object.values(methods).map(({ operationId }) => operationId),
  );
  expect(new Set(ids).size).toBe(ids.length);
  // A verb, and what it is done to; each in one group that is described.
  expect(ids.filter((id) => !/^[a-z]+([A-Z][a-z]+)*$/.test(id))).toEqual([]);
  const tags = document.tags.map(({ name }) => name);
  for (const methods of Object.values(document.paths))
    for (const { tags: own } of Object.values(methods)) expect(tags.filter((tag) => own.includes(tag))).toHaveLength(1);
  expect(document.paths['/api/v1/stream']!['get']!.parameters.map(({ name }) => name)).toContain('Last-Event-ID');
  expect(JSON.stringify(document)).not.toMatch(/"prefixItems":\[[^\]]*\](?!,"items":\{)/);
  const bodyOf = (path: string, method: string) =>
    Object.keys(
      (document.paths[`/api/v1${path}`]![method]!.requestBody as { content: Record<string, { schema: object }> })
        .content,
    );
  expect([bodyOf('/draft/sheets/{sheet}', 'post'), bodyOf('/pictures/{picture}', 'put')]).toEqual([
    ['text/csv'],
    ['image/*'],
  ]);
  const isEdit = compiled('Edit');
  expect([
    isEdit({ kind: 'remove', pointer: '/items/wax', mend: true }),
    isEdit({ kind: 'reprice', where: { group: 'care' }, percent: 10, round: { to: 5, way: 'up' } }),
    isEdit({ kind: 'reprice', where: {}, percent: 10, round: { to: 5, way: 'sideways' } }),
  ]).toEqual([true, true, false]);
  const isCheck = compiled('Check');
  expect([isCheck({ offer: 'wax_1', times: 2 }), isCheck({ offer: 'wax_1', tims: 2 }), isCheck({})]).toEqual([
    true,
    false,
    false,
  ]);
});

test('the published schema of one file accepts each file of the demo, with the schema that it names', async () => {
  const schema = (await (await fetch(`${stall.url}/schemas/economy-file.json`)).json()) as object;
  const accepts = new Ajv2020({ strict: false }).compile(schema);
  const files = demoFiles().map(({ text }) => parse(text) as Record<string, unknown>);
  for (const file of files)
    expect([accepts({ $schema: 'https://example.test/schema.json', ...file }), accepts.errors]).toEqual([true, null]);
  // A slip of the pen is seen.
  expect(accepts({ itmes: {} })).toBe(false);
  expect(accepts({ items: { kite: { name: 'Kite' } } })).toBe(false);
});

test('the published schema of the economy accepts the demo economy', async () => {
  const schema = (await (await fetch(`${stall.url}/schemas/economy.json`)).json()) as object;
  expect(new Ajv2020({ strict: false }).validate(schema, demoDocument())).toBe(true);
});

test('it is not ready while the storage fails, and once it stops', async () => {
  const other = await startStall({ publish: false });
  const ask = async () => {
    const response = await fetch(`${other.url}/readyz`);
    return [response.status, (await response.json()) as object];
  };
  expect(await ask()).toEqual([200, { status: 'ready' }]);
  const { raw } = other.service.database;
  // As SQLite says it of a disk that is full.
  const full = Object.assign(new Error('database or disk is full'), { code: 'SQLITE_FULL' });
  const exec = raw.exec.bind(raw);
  raw.exec = (sql) => {
    if (sql === 'COMMIT') throw full;
    return exec(sql);
  };
  await expect(other.as('game').call('POST /tokens', { body: { name: 'x', role: 'read' } })).rejects.toThrow();
  await expect(other.as('admin').call('POST /tokens', { body: { name: 'x', role: 'read' } })).rejects.toThrow(
    /storage/,
  );
  raw.exec = exec;
  expect(await ask()).toEqual([503, { status: 'not ready', why: 'the storage could not be written just now' }]);
  other.service.readiness.isStopping = true;
  expect(await ask()).toEqual([503, { status: 'not ready', why: 'it stops' }]);
  await other.stop();
});

test('health, readiness and metrics answer without a token', async () => {
  expect(await (await fetch(`${stall.url}/healthz`)).json()).toEqual({ status: 'up' });
  expect(await (await fetch(`${stall.url}/readyz`)).json()).toEqual({ status: 'ready' });
  expect(await (await fetch(`${stall.url}/metrics`)).text()).toMatch(
    /dimestall_request_seconds_count\{method="get",route="\/draft",status="200"\} \d/,
  );
});

test('pages come with a strict content security policy', async () => {
  const policy = (await fetch(`${stall.url}/healthz`)).headers.get('content-security-policy')!;
  expect(policy).toMatch(/default-src 'self'/);
  expect(policy).toMatch(/script-src 'self'(;|$)/);
});

test('an attribute that does not exist, or is of another kind, is refused with what was meant, wherever it is written', async () => {
  const design = stall.as('admin');
  const made = { profile: { attributes: { levle: 3 } } };
  const wrong = { profile: { attributes: { level: 'three' } } };
  const ask = (profile: object) =>
    design.call('POST /checks', { body: { checks: [{ offer: 'storm_frame', ...profile }] } });
  expect((await problemOf(ask(made))).body).toMatchObject({
    errors: [
      { pointer: '/attributes/levle', detail: 'players have no attribute "levle"', fix: 'Did you mean "level"?' },
    ],
  });
  expect((await problemOf(ask(wrong))).body).toMatchObject({ errors: [{ pointer: '/attributes/level' }] });
  const created = await problemOf(design.call('POST /players', { body: { id: 'zoe', attributes: { level: 'high' } } }));
  expect(created.body).toMatchObject({
    errors: [{ detail: expect.stringMatching(/is a number, and "high" is a text/) as string }],
  });
});
