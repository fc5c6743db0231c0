import { join } from 'node:path';
import { CONTRACT, KEYS, ROLES, ROLE_NAMES, methodOf, pathOf } from '../../src/contract/index.js';
import type { Role } from '../../src/contract/index.js';
import { serviceStart } from '../../src/service/index.js';
import { demoDocument } from '../support/economy.js';
import { scratchFolder, startStall } from '../support/stall.js';
import type { Stall } from '../support/stall.js';

let stall: Stall;
beforeAll(async () => {
  stall = await startStall();
});
afterAll(() => stall.stop());

const roles = [...ROLE_NAMES, 'nobody' as const];
const exampleOf = (path: string) =>
  path
    .replace(/\{(release|revision|run|move|record)\}/g, '1')
    .replace('{channel}', 'test')
    .replace('{kind}', 'asset')
    .replace('{sheet}', 'items')
    .replace('{token}', 'abcdef012345')
    .replace(/\{\w+\}/g, 'nothing');
const mayUse = (role: Role | 'nobody', needs: Role | 'nobody') =>
  needs === 'nobody' || (role !== 'nobody' && (ROLES[role] as readonly string[]).includes(needs));

/** The whole table: every endpoint with every role. Who may not gets 401 or 403 before anything else is looked at. */
test.each(KEYS.flatMap((key) => roles.map((role) => [key, role] as const)))('%s as %s', async (key, role) => {
  const [method, path] = [methodOf(key), pathOf(key)];
  const needs: Role | 'nobody' = CONTRACT[key].role;
  const response = await stall.raw(method, exampleOf(path), {
    role,
    ...(method === 'GET' || method === 'DELETE' ? {} : { body: {} }),
  });
  // A stream has no end to wait for.
  if (path === '/stream' && response.ok) await response.body!.cancel();
  else await response.text();
  if (mayUse(role, needs))
    expect([401, 403]).not.toContain(response.status === 401 && path === '/session' ? 0 : response.status);
  else expect(response.status).toBe(role === 'nobody' ? 401 : 403);
});

test('no endpoint that changes something is open to a token that may only read', () => {
  const open = KEYS.filter(
    (key) =>
      methodOf(key) !== 'GET' && ['read', 'nobody'].includes(CONTRACT[key].role) && !pathOf(key).startsWith('/session'),
  );
  expect(open).toEqual([
    'POST /cases/proposals',
    'POST /draft/formula',
    'POST /odds',
    'POST /checks',
    'POST /rehearsals',
    'POST /tries',
  ]);
});

test('only hashes of tokens are stored, and lists never show one', async () => {
  const { token } = await stall.as('admin').call('POST /tokens', { body: { name: 'builder', role: 'publish' } });
  expect(JSON.stringify(stall.service.database.raw.prepare('SELECT * FROM tokens').all())).not.toContain(token);
  const list = await (await stall.raw('GET', '/tokens')).text();
  expect(list).toContain('"builder"');
  expect(list).not.toMatch(/ds_|hash/);
});

describe("the console's session", () => {
  const signIn = () => stall.raw('POST', '/session', { role: 'nobody', body: { token: stall.tokens.design } });

  test('a cookie that scripts cannot read and other sites cannot send', async () => {
    const cookie = (await signIn()).headers.get('set-cookie')!;
    expect(cookie).toMatch(/HttpOnly/);
    expect(cookie).toMatch(/SameSite=Strict/);
    expect(cookie).not.toContain(stall.tokens.design);
  });

  test("it may read, and may change only with the console's own header", async () => {
    const cookie = (await signIn()).headers.get('set-cookie')!.split(';')[0]!;
    const send = (method: string, path: string, headers: Record<string, string> = {}) =>
      stall.raw(method, path, {
        role: 'nobody',
        headers: { Cookie: cookie, ...headers },
        ...(method === 'GET' ? {} : { body: { checks: [{ offer: 'wax_1' }] } }),
      });
    expect((await send('GET', '/draft')).status).toBe(200);
    const crossSite = await send('POST', '/checks');
    expect([crossSite.status, ((await crossSite.json()) as { type: string }).type]).toEqual([
      403,
      'urn:dimestall:cross-site',
    ]);
    expect((await send('POST', '/checks', { 'x-dimestall-console': '1' })).status).toBe(200);
    expect((await send('DELETE', '/session', { 'x-dimestall-console': '1' })).status).toBe(204);
    expect((await send('GET', '/draft')).status).toBe(401);
  });

  test('it ends by itself after twelve hours', async () => {
    const cookie = (await signIn()).headers.get('set-cookie')!.split(';')[0]!;
    const read = async () =>
      (await stall.raw('GET', '/session', { role: 'nobody', headers: { Cookie: cookie } })).status;
    const started = stall.clock.nowMs;
    stall.clock.nowMs = started + 12 * 3_600_000 - 1;
    expect(await read()).toBe(200);
    stall.clock.nowMs = started + 12 * 3_600_000;
    expect(await read()).toBe(401);
    stall.clock.nowMs = started;
  });

  describe('guessing', () => {
    const GUESSES = 60;
    let guarded: Stall;
    beforeEach(async () => {
      guarded = await startStall({ publish: false });
    });
    afterEach(() => guarded.stop());
    const guess = (token: string) => guarded.raw('POST', '/session', { role: 'nobody', body: { token } });
    const byHeader = () =>
      guarded.raw('GET', '/session', { role: 'nobody', headers: { Authorization: 'Bearer ds_guess' } });

    test.each([
      ['by signing in', () => guess('ds_guess')],
      ['by header', byHeader],
    ])('%s is slowed down, and locks out nobody who has a token', async (_, wrong) => {
      for (let attempt = 0; attempt < GUESSES; attempt++) expect((await wrong()).status).toBe(401);
      const slowed = await wrong();
      expect([slowed.status, ((await slowed.json()) as { type: string }).type]).toEqual([
        429,
        'urn:dimestall:too-many',
      ]);
      expect((await guess(guarded.tokens.design)).status).toBe(200);
      for (let look = 0; look < 70; look++) expect((await guarded.raw('GET', '/session')).status).toBe(200);
    });
  });

  test('a wrong token is refused without a hint', async () => {
    const response = await stall.raw('POST', '/session', { role: 'nobody', body: { token: 'ds_guess' } });
    expect([response.status, await response.json()]).toEqual([
      401,
      expect.objectContaining({ type: 'urn:dimestall:not-signed-in' }),
    ]);
  });
});

describe('revoking', () => {
  const list = async () => (await stall.as('admin').call('GET /tokens')).items;
  const idOf = async (name: string, kind = 'token') =>
    (await list()).find((one) => one.name === name && one.kind === kind)?.id;
  const statusWith = async (headers: Record<string, string>) =>
    (await stall.raw('GET', '/session', { role: 'nobody', headers })).status;
  const make = async (name: string, days?: number) => {
    const body = { name, role: 'design' as const, ...(days === undefined ? {} : { days }) };
    const { token } = await stall.as('admin').call('POST /tokens', { body });
    return { token, bearer: { Authorization: `Bearer ${token}` } };
  };
  const sessionOf = async (token: string) => {
    const response = await stall.raw('POST', '/session', { role: 'nobody', body: { token } });
    const cookie = response.headers.get('set-cookie')!;
    return {
      cookie: { Cookie: cookie.split(';')[0]! },
      token: /=(.+?);/.exec(cookie)![1]!,
      lastsS: Number(/Max-Age=(\d+)/.exec(cookie)![1]),
    };
  };

  test('a token ends at once, held in memory or not, and with it its sessions and what they listen to', async () => {
    const { token, bearer } = await make('leaver');
    const { cookie } = await sessionOf(token);
    expect([await statusWith(bearer), await statusWith(cookie)]).toEqual([200, 200]);
    const listening = await stall.raw('GET', '/stream', { role: 'nobody', headers: bearer });
    const id = (await idOf('leaver'))!;
    expect(await stall.as('admin').call('DELETE /tokens/{token}', { params: { token: id } })).toMatchObject({
      kind: 'token',
      name: 'leaver',
    });
    expect([await statusWith(bearer), await statusWith(cookie)]).toEqual([401, 401]);
    // The next thing that happens is not told to them.
    await stall.as('admin').call('PATCH /draft', {
      body: [{ op: 'replace', path: '/items/storm_frame/name', value: 'Gale Frame' }],
      revision: (await stall.as('read').call('GET /draft')).revision,
    });
    expect(await listening.text()).not.toContain('draft.saved');
    expect((await list()).filter(({ name }) => name === 'leaver')).toEqual([]);
    expect((await stall.as('admin').call('GET /trail')).items).toContainEqual(
      expect.objectContaining({ action: 'token.revoke', subject: 'leaver' }),
    );
  });

  test('a session alone can be ended', async () => {
    const { token, bearer } = await make('two places');
    const { cookie } = await sessionOf(token);
    const session = (await idOf('two places', 'session'))!;
    await stall.as('admin').call('DELETE /tokens/{token}', { params: { token: session } });
    expect([await statusWith(bearer), await statusWith(cookie)]).toEqual([200, 401]);
  });

  test('a token for some days ends by itself, is not listed any more, and goes from the records', async () => {
    const { bearer } = await make('guest', 2);
    const started = stall.clock.nowMs;
    stall.clock.nowMs = started + 2 * 86_400_000 - 1;
    expect(await statusWith(bearer)).toBe(200);
    stall.clock.nowMs = started + 2 * 86_400_000;
    expect([await statusWith(bearer), await idOf('guest')]).toEqual([401, undefined]);
    await make('somebody else');
    const names = stall.service.database.raw.prepare('SELECT name FROM tokens').pluck().all();
    expect(names).not.toContain('guest');
    stall.clock.nowMs = started;
  });

  test('a session that is renewed with itself lasts no longer than the first', async () => {
    const { token } = await make('renewer');
    const started = stall.clock.nowMs;
    let session = await sessionOf(token);
    expect(session.lastsS).toBe(12 * 3600);
    for (const hours of [5, 10]) {
      stall.clock.nowMs = started + hours * 3_600_000;
      session = await sessionOf(session.token);
      expect(session.lastsS).toBe((12 - hours) * 3600);
    }
    stall.clock.nowMs = started + 12 * 3_600_000;
    expect(await statusWith(session.cookie)).toBe(401);
    stall.clock.nowMs = started;
  });

  test('what is not there is told, and half of an id ends nothing', async () => {
    const { token: made } = await make('stays');
    const id = (await idOf('stays'))!;
    for (const wrong of ['nothing', id.slice(0, 6), '%25'])
      expect((await stall.raw('DELETE', `/tokens/${wrong}`)).status).toBe(404);
    expect(await statusWith({ Authorization: `Bearer ${made}` })).toBe(200);
  });
});

test('the cookie is for https alone where a proxy that is trusted says so, and only then', async () => {
  for (const [trustProxy, secure] of [
    ['loopback', true],
    [false, false],
  ] as const) {
    const behind = await serviceStart({ data: ':memory:', port: 0, logLevel: 'silent', trustProxy });
    const token = behind.service.access.issue('ada', 'read');
    const response = await fetch(`${behind.url}/api/v1/session`, {
      method: 'POST',
      headers: { 'Content-Type': 'application/json', 'X-Forwarded-Proto': 'https' },
      body: JSON.stringify({ token }),
    });
    expect([trustProxy, /; Secure/.test(response.headers.get('set-cookie')!)]).toEqual([trustProxy, secure]);
    await behind.close();
  }
  await expect(serviceStart({ data: ':memory:', port: 0, logLevel: 'silent', trustProxy: 'nowhere' })).rejects.toThrow(
    /--trust-proxy nowhere/,
  );
});

describe('how much work a token may ask for in a second', () => {
  const MODEST_MS = 20;
  let modest: Stall;
  beforeEach(async () => {
    modest = await startStall({ workMsPerSecond: MODEST_MS });
  });
  afterEach(() => modest.stop());
  const answers = (responses: Response[]) =>
    responses.map(({ status, headers }) => [status, headers.get('retry-after')]);
  const atOnce = (count: number, ask: () => Promise<Response>) => Promise.all(Array.from({ length: count }, ask));

  test('who asks for more is told when to come again, and the others are served', async () => {
    const many = answers(await atOnce(120, () => modest.raw('GET', '/shops', { role: 'game' })));
    expect(many.filter(([status]) => status === 200).length).toBeGreaterThanOrEqual(3);
    expect(many).toContainEqual([429, '1']);
    expect((await modest.raw('GET', '/shops', { role: 'read' })).status).toBe(200);
  });

  const checks = (count: number) => ({ checks: Array.from({ length: count }, () => ({ offer: 'wax_1' })) });

  test('what another thread reads does not count by its size', async () => {
    const save = await modest.raw('PUT', '/draft', {
      role: 'design',
      body: demoDocument(),
      headers: { 'If-Match': '"1"' },
    });
    expect(save.status).toBe(200);
  });

  test('what a request has cost more than its size told is settled', async () => {
    // By their size alone, all would fit into a second.
    const costly = [];
    for (let n = 0; n < 12; n++) costly.push(await modest.raw('POST', '/checks', { role: 'game', body: checks(90) }));
    expect(answers(costly)).toContainEqual([429, '1']);
  });

  test('a storefront that must be worked out counts', async () => {
    const players = Array.from({ length: 40 }, (_, n) => `mateo_${n}`);
    for (const id of players) await modest.service.support.create(id, id, {}, 'test');
    const fronts = await Promise.all(
      players.map((id) => modest.raw('GET', `/shops/pier_stall/front?player=${id}`, { role: 'game' })),
    );
    expect(answers(fronts)).toContainEqual([429, '1']);
  });

  test('storefronts that are ready do not count', async () => {
    await modest.as('admin').call('POST /players', { body: { id: 'mateo' } });
    const look = () => modest.raw('GET', '/shops/pier_stall/front?player=mateo', { role: 'game' });
    await look();
    const fronts = await atOnce(120, look);
    expect(new Set(fronts.map(({ status }) => status))).toEqual(new Set([200]));
  });
});

test('every answer has the security headers, the quick storefront too', async () => {
  await stall.as('game').call('POST /players', { body: { id: 'quick' } });
  const front = '/shops/pier_stall/front?player=quick';
  await stall.raw('GET', front);
  const ordinary = await stall.raw('GET', '/draft');
  const quick = await stall.raw('GET', front);
  const etag = quick.headers.get('etag')!;
  const same = await stall.raw('GET', front, { headers: { 'If-None-Match': etag } });
  expect([quick.headers.get('cache-control'), same.status]).toEqual(['private, no-cache', 304]);
  const names = [...ordinary.headers.keys()].filter((name) => /policy|^x-(?!request-id)/.test(name));
  expect(names.sort()).toEqual([
    'content-security-policy',
    'cross-origin-opener-policy',
    'cross-origin-resource-policy',
    'referrer-policy',
    'x-content-type-options',
    'x-frame-options',
  ]);
  for (const name of names)
    for (const answer of [quick, same, await stall.raw('GET', '/draft', { role: 'nobody' })])
      expect([name, answer.headers.get(name)]).toEqual([name, ordinary.headers.get(name)]);
});

test('without a token it listens on loopback only', async () => {
  await expect(serviceStart({ data: ':memory:', port: 0, host: '0.0.0.0', logLevel: 'silent' })).rejects.toThrow(
    /will not listen on 0\.0\.0\.0 while no token is set/,
  );
});

test('where others can reach it, metrics are for those who may read', async () => {
  const { path, remove } = scratchFolder();
  const data = join(path, 'stall.sqlite');
  const first = await serviceStart({ data, port: 0, logLevel: 'silent' });
  const token = first.service.access.issue('watch', 'read');
  expect((await fetch(`${first.url}/metrics`)).status).toBe(200);
  await first.close();
  const open = await serviceStart({ data, port: 0, host: '0.0.0.0', logLevel: 'silent' });
  const metrics = `http://127.0.0.1:${new URL(open.url).port}/metrics`;
  expect((await fetch(metrics)).status).toBe(401);
  expect((await fetch(metrics, { headers: { Authorization: `Bearer ${token}` } })).status).toBe(200);
  await open.close();
  remove();
});

test('a port in use is told in a sentence', async () => {
  const port = Number(new URL(stall.url).port);
  await expect(serviceStart({ data: ':memory:', port, logLevel: 'silent' })).rejects.toThrow(`Port ${port} is in use.`);
});
