/** Releases at set times, channels, the calendar, history, and what others hear of it. */
import ICAL from 'ical.js';
import type { ChannelView, StreamEvent } from '../../src/contract/index.js';
import { DAY, HOUR, NOW, demoDocument } from '../support/economy.js';
import { runCli } from '../support/cli.js';
import { problemOf, startStall } from '../support/stall.js';
import type { Stall } from '../support/stall.js';

let stall: Stall;
beforeEach(async () => {
  stall = await startStall();
});
afterEach(() => stall.stop());

const detailOf = async (answer: Response) => ((await answer.json()) as { detail: string }).detail;
const iso = (ms: number) => new Date(ms).toISOString();
const price = '/items/oak_reel/worth/shells';
/** Saves another price of the Oak Reel, and publishes it. */
async function publishPrice(shells: number, options: { at?: string; channel?: string } = {}) {
  const { revision } = await stall.as('design').call('GET /draft');
  await stall.as('design').call('PATCH /draft', { body: [{ op: 'replace', path: price, value: shells }], revision });
  return stall.as('publish').call('POST /releases', { body: { note: `reel for ${shells}`, ...options } });
}
const reelPrice = async (query: { at?: string; source?: string } = {}) => {
  const front = await stall
    .as('read')
    .call('GET /shops/{shop}/front', { params: { shop: 'pier_stall' }, query: query });
  return front.shelves.flatMap(({ offers }) => offers).find(({ id }) => id === 'oak_reel')!.choices[0]!.total['shells'];
};
const channel = async (name: string): Promise<ChannelView> =>
  (await stall.as('read').call('GET /channels')).items.find((one) => one.name === name)!;

describe('a release at a set time', () => {
  test('comes then and not before, for looks and purchases alike', async () => {
    const published = await publishPrice(250, { at: iso(NOW + HOUR) });
    expect(published).toMatchObject({ number: 2, fromMs: NOW + HOUR, coming: [] });
    expect(await channel('live')).toMatchObject({ release: 1, coming: [{ release: 2, atMs: NOW + HOUR }] });
    expect([await reelPrice(), await reelPrice({ at: iso(NOW + HOUR) })]).toEqual([200, 250]);
    await stall.as('admin').call('POST /players', { body: { id: 'kit' } });
    await stall.as('support').call('POST /players/{player}/grants', {
      params: { player: 'kit' },
      body: { gives: { shells: 900 }, reason: 'test' },
      key: 'g',
    });
    const front = async () => stall.raw('GET', '/shops/pier_stall/front?player=kit');
    stall.clock.nowMs = NOW + HOUR - 2;
    const etag = (await front()).headers.get('etag');
    stall.clock.nowMs = NOW + HOUR - 1;
    expect((await front()).headers.get('etag')).toBe(etag);
    stall.clock.nowMs = NOW + HOUR;
    // What was prepared for those who poll is not served past the time.
    expect((await front()).headers.get('etag')).not.toBe(etag);
    const bought = await stall
      .as('game')
      .call('POST /purchases', { body: { player: 'kit', offer: 'oak_reel' }, key: 'k' });
    expect(bought).toMatchObject({ release: 2, verdict: { price: { total: { shells: 250 } } } });
    expect((await channel('live')).release).toBe(2);
  });

  test('in the past is refused, and so is a time that clocks jump over or show twice', async () => {
    await expect(publishPrice(250, { at: iso(NOW) })).rejects.toThrow(/is past: it is .*Leave the time out/);
    await expect(publishPrice(260, { at: '2027-03-28T01:30' })).rejects.toThrow(/Clocks in Europe\/Lisbon jump over/);
    await expect(publishPrice(270, { at: '2027-10-31T01:30' })).rejects.toThrow(
      /show 2027-10-31T01:30 twice. Write which you mean: 2027-10-31T01:30\+01:00 or 2027-10-31T01:30\+00:00/,
    );
    await expect(publishPrice(280, { at: 'soon' })).rejects.toThrow(/not an instant/);
    expect((await stall.as('read').call('GET /releases')).items).toHaveLength(1);
  });

  test('can be taken back until it comes', async () => {
    await publishPrice(250, { at: iso(NOW + HOUR) });
    const [move] = (await channel('live')).coming;
    await stall
      .as('publish')
      .call('DELETE /channels/{channel}/moves/{move}', { params: { channel: 'live', move: move!.move } });
    stall.clock.nowMs = NOW + DAY;
    expect(await reelPrice()).toBe(200);
    await expect(
      stall
        .as('publish')
        .call('DELETE /channels/{channel}/moves/{move}', { params: { channel: 'live', move: move!.move } }),
    ).rejects.toThrow(/Nothing with the number/);
    expect(
      (await stall.as('read').call('GET /channels/{channel}/moves', { params: { channel: 'live' } })).items[0],
    ).toMatchObject({ endedBy: 'publish' });
  });

  test('who publishes at once is told of what is to come in its place', async () => {
    await publishPrice(250, { at: iso(NOW + DAY) });
    expect((await publishPrice(300)).coming).toMatchObject([{ release: 2, atMs: NOW + DAY }]);
    expect([await reelPrice(), await reelPrice({ at: iso(NOW + DAY) })]).toEqual([300, 250]);
  });

  test('a clock that steps back takes no release away', async () => {
    await publishPrice(250);
    await publishPrice(300, { at: iso(NOW + HOUR) });
    stall.clock.nowMs = NOW + 2 * HOUR;
    expect(await reelPrice()).toBe(300);
    await stall.service.writer.submit(() => stall.service.channels.reach());
    stall.clock.nowMs = NOW - DAY;
    expect(await reelPrice()).toBe(300);
    // And what is done now comes after what was done before.
    expect((await publishPrice(400)).number).toBe(4);
    expect(await reelPrice()).toBe(400);
  });
});

test('a source names one economy: the draft, what a channel points at, or a release by its number', async () => {
  await publishPrice(250);
  const { revision } = await stall.as('design').call('GET /draft');
  await stall.as('design').call('PATCH /draft', { body: [{ op: 'replace', path: price, value: 300 }], revision });
  const of = async (source: string) => {
    const { release, document } = await stall.as('read').call('GET /sources/{source}', { params: { source } });
    return [release, document.items!['oak_reel']!.worth!['shells']];
  };
  expect(await Promise.all(['draft', 'live', '1'].map(of))).toEqual([
    [null, 300],
    [2, 250],
    [1, 200],
  ]);
  await expect(of('9')).rejects.toThrow(/no release 9\. The latest is 2\./);
  await expect(of('harbor')).rejects.toThrow(/harbor/);
});

describe('channels', () => {
  test('going back is one act, and what was live before is known', async () => {
    await publishPrice(250);
    await stall.as('publish').call('PUT /channels/{channel}', { params: { channel: 'live' }, body: { release: 1 } });
    expect(await reelPrice()).toBe(200);
    expect(
      (await stall.as('read').call('GET /channels/{channel}/moves', { params: { channel: 'live' } })).items.map(
        ({ release }) => release,
      ),
    ).toEqual([1, 2, 1]);
  });

  test('one for each platform: a game buys on the channel that it is on', async () => {
    await publishPrice(250, { channel: 'phone' });
    await stall.as('admin').call('POST /players', { body: { id: 'kit' } });
    await stall.as('support').call('POST /players/{player}/grants', {
      params: { player: 'kit' },
      body: { gives: { shells: 900 }, reason: 'test' },
      key: 'g',
    });
    const buy = (path: string, key: string) =>
      stall.raw('POST', path, {
        role: 'game',
        body: { player: 'kit', offer: 'oak_reel', expect: { shells: 200 } },
        headers: { 'Idempotency-Key': key },
      });
    expect(await detailOf(await buy('/purchases?channel=phone', 'a'))).toMatch(/The price is now 250 Shells/);
    expect((await buy('/purchases', 'b')).status).toBe(201);
    expect(await detailOf(await buy('/purchases?channel=desk', 'c'))).toMatch(
      /There is no channel "desk". Known: live, phone/,
    );
  });

  test('there are no more than can be held ready', async () => {
    const publish = stall.as('publish');
    const point = (channel: string) =>
      publish.call('PUT /channels/{channel}', { params: { channel }, body: { release: 1 } });
    const { items } = await publish.call('GET /channels');
    for (let n = items.length; n < 16; n++) await point(`shelf_${n}`);
    expect(await problemOf(point('one_more'))).toMatchObject({
      kind: 'bad-request',
      message: expect.stringMatching(/16 channels/) as string,
    });
    expect(await problemOf(publish.call('POST /releases', { body: { note: 'x', channel: 'one_more' } }))).toMatchObject(
      {
        kind: 'bad-request',
      },
    );
    // What is there already can be pointed anew, and nothing was published.
    await point('live');
    expect((await publish.call('GET /releases')).items).toHaveLength(1);
  });

  test('one that is in use is not deleted unless one insists, and live never', async () => {
    const publish = stall.as('publish');
    await publish.call('PUT /channels/{channel}', { params: { channel: 'phone' }, body: { release: 1 } });
    expect(await reelPrice({ source: 'phone' })).toBe(200);
    await expect(publish.call('DELETE /channels/{channel}', { params: { channel: 'phone' } })).rejects.toThrow(
      /is in use: it was last read at 2027-03-01T09:00/,
    );
    stall.clock.nowMs = NOW + 2 * DAY;
    await publish.call('PUT /channels/{channel}', {
      params: { channel: 'phone' },
      body: { release: 1, at: iso(NOW + 3 * DAY) },
    });
    await expect(publish.call('DELETE /channels/{channel}', { params: { channel: 'phone' } })).rejects.toThrow(
      /in use: release 1 is to come on it/,
    );
    await publish.call('DELETE /channels/{channel}', { params: { channel: 'phone' }, query: { anyway: true } });
    await expect(reelPrice({ source: 'phone' })).rejects.toThrow(/There is no channel "phone"/);
    await expect(
      publish.call('DELETE /channels/{channel}', { params: { channel: 'live' }, query: { anyway: true } }),
    ).rejects.toThrow(/so it stays/);
    await expect(
      publish.call('PUT /channels/{channel}', { params: { channel: 'draft' }, body: { release: 1 } }),
    ).rejects.toThrow(/cannot be a channel/);
    await expect(
      publish.call('PUT /channels/{channel}', { params: { channel: 'phone' }, body: { release: 9 } }),
    ).rejects.toThrow(/no release 9/);
  });
});

describe('the calendar', () => {
  const query = { from: '2027-03-24', to: '2027-03-30' };

  test('tells sales, rotations and hours by shop, and what conflicts', async () => {
    const { lanes } = await stall.as('read').call('GET /calendar', { query: query });
    const pier = lanes.find(({ shop }) => shop === 'pier_stall')!;
    expect(pier.entries.map(({ kind, name }) => `${kind} ${name}`)).toEqual([
      'sale Spring Sails',
      'sale Linen Evening',
      'sale Wax Weekend',
    ]);
    const wagon = lanes.find(({ shop }) => shop === 'lantern_wagon')!.entries;
    expect(wagon).toHaveLength(7);
    // Over the change of clocks it turns at nine all the same.
    expect(wagon.map(({ startMs }) => new Date(startMs).getUTCHours())).toEqual([9, 9, 9, 9, 9, 8, 8]);
    await stall.as('design').call('PATCH /draft', {
      body: [
        {
          op: 'add',
          path: '/sales/booth',
          value: { name: 'Booth', shops: ['festival_booth'], percent: 10, from: '2027-03-25', until: '2027-03-27' },
        },
      ],
      revision: 1,
    });
    const draft = await stall.as('read').call('GET /calendar', { query: { ...query, source: 'draft' } });
    const booth = draft.lanes.find(({ shop }) => shop === 'festival_booth')!;
    expect(booth.closed).toBe(true);
    expect(booth.entries).toMatchObject([{ id: 'booth', warnings: ['Festival Booth is closed'] }]);
  });

  test('as iCalendar is what a calendar program reads', async () => {
    const text = await stall.as('read').call('GET /calendar.ics', { query: query });
    for (const line of text.split('\r\n')) expect(Buffer.byteLength(line)).toBeLessThanOrEqual(75);
    expect(text.replace(/\r\n/g, '')).not.toContain('\n');
    const calendar = new ICAL.Component(ICAL.parse(text) as unknown[] as never);
    expect(calendar.getFirstPropertyValue('version')).toBe('2.0');
    const events = calendar.getAllSubcomponents('vevent').map((one) => new ICAL.Event(one));
    const uids = events.map(({ uid }) => uid);
    expect(new Set(uids).size).toBe(uids.length);
    const spring = events.find(({ summary }) => summary === 'Sale: Spring Sails')!;
    expect([spring.startDate.toJSDate(), spring.endDate.toJSDate()].map((date) => date.toISOString())).toEqual([
      '2027-03-24T00:00:00.000Z',
      '2027-03-29T23:00:00.000Z',
    ]);
    expect(await stall.as('read').call('GET /calendar.ics', { query: query })).toBe(text);
  });

  test('a calendar program follows it by an address of its own, which opens nothing else and can be ended', async () => {
    const { out, code } = await runCli(['calendar', '--subscribe', 'festival team', '--shop', 'festival_booth'], {
      env: { DIMESTALL_URL: stall.url, DIMESTALL_TOKEN: stall.tokens.admin },
    });
    expect(code).toBe(0);
    const [address] = out.split('\n') as [string];
    expect(address).toMatch(new RegExp(`^${stall.url}/calendar/ds_[\\w-]+\\.ics\\?shop=festival_booth$`));
    // No header is sent.
    const followed = await fetch(address);
    expect([followed.status, followed.headers.get('Content-Type')]).toEqual([200, 'text/calendar; charset=utf-8']);
    const text = await followed.text();
    const calendar = new ICAL.Component(ICAL.parse(text) as unknown[] as never);
    expect(calendar.getFirstPropertyValue('refresh-interval')!.toString()).toBe('PT1H');
    const names = calendar.getAllSubcomponents('vevent').map((one) => new ICAL.Event(one).summary);
    expect(names).toContain('Festival Booth is open');
    // It is what the operation answers for that time, and an hour later it is the same.
    stall.clock.nowMs += HOUR;
    const stamps = (ics: string) => ics.replaceAll(/^DTSTAMP:.*$/gm, '');
    expect(stamps(await (await fetch(address)).text())).toBe(stamps(text));
    const token = /ds_[\w-]+/.exec(address)![0];
    for (const path of ['/draft', '/session', '/players', '/shops/pier_stall/front?player=x'])
      expect(
        (await fetch(`${stall.url}/api/v1${path}`, { headers: { Authorization: `Bearer ${token}` } })).status,
      ).toBe(403);
    // A token that may do more is not taken from an address.
    for (const other of [stall.tokens.read, stall.tokens.admin, 'ds_nobody'])
      expect((await fetch(`${stall.url}/calendar/${other}.ics`)).status).toBe(404);
    const { items } = await stall.as('admin').call('GET /tokens');
    const { id } = items.find(({ name }) => name === 'festival team')!;
    await stall.as('admin').call('DELETE /tokens/{token}', { params: { token: id } });
    const ended = await fetch(address);
    expect([ended.status, await detailOf(ended)]).toEqual([404, expect.stringContaining('may have been revoked')]);
  });

  test('addresses cannot be guessed at any speed', async () => {
    const answers = new Map<number, number>();
    for (let n = 0; n < 70; n++) {
      const { status } = await fetch(`${stall.url}/calendar/ds_${n}.ics`);
      answers.set(status, (answers.get(status) ?? 0) + 1);
    }
    expect([...answers]).toEqual([
      [404, 60],
      [429, 10],
    ]);
  });

  test('where a release is to come, its sales and rotations are there from then on', async () => {
    const spring = { name: 'Early', shops: ['pier_stall'], percent: 10, from: '2027-03-01', until: '2027-03-10' };
    await stall
      .as('design')
      .call('PATCH /draft', { body: [{ op: 'add', path: '/sales/early', value: spring }], revision: 1 });
    await stall.as('publish').call('POST /releases', { body: { note: 'early', at: iso(NOW + 3 * DAY) } });
    const { lanes } = await stall.as('read').call('GET /calendar', { query: { from: '2027-03-01', to: '2027-03-12' } });
    const of = (shop: string) => lanes.find((lane) => lane.shop === shop)!.entries;
    expect(of('pier_stall').filter(({ id }) => id === 'early')).toMatchObject([
      { startMs: NOW + 3 * DAY, endMs: Date.parse('2027-03-10T00:00Z') },
    ]);
    // What goes on over that time is one entry, and every night is there once.
    expect(of('pier_stall').filter(({ id }) => id === 'wax_weekend')).toHaveLength(1);
    const nights = of('lantern_wagon').map(({ startMs }) => startMs);
    expect(nights).toEqual([...new Set(nights)].sort((a, b) => a - b));
    expect(nights).toHaveLength(12);
  });

  test('shows releases, and refuses what is no stretch', async () => {
    await publishPrice(250, { at: iso(NOW + DAY) });
    const { lanes } = await stall.as('read').call('GET /calendar', { query: {} });
    expect(lanes.at(-1)!.entries).toMatchObject([
      { name: 'Release 1: first' },
      { name: 'Release 2: reel for 250', startMs: NOW + DAY },
    ]);
    await expect(
      stall.as('read').call('GET /calendar', { query: { from: '2027-03-02', to: '2027-03-01' } }),
    ).rejects.toThrow(/must come after/);
    await expect(
      stall.as('read').call('GET /calendar', { query: { from: '2027-03-02', to: '2029-03-01' } }),
    ).rejects.toThrow(/at most 400 days/);
    await expect(stall.as('read').call('GET /calendar', { query: { shop: 'nowhere' } })).rejects.toThrow(
      /no shop "nowhere"/,
    );
  });
});

describe('the draft', () => {
  test('keeps who saved what and why, and goes back to any revision by saving it anew', async () => {
    await stall.as('design').call('PATCH /draft', {
      body: [{ op: 'replace', path: price, value: 210 }],
      revision: 1,
      query: { why: 'dearer' },
    });
    await stall.as('admin').call('PATCH /draft', {
      body: [{ op: 'replace', path: price, value: 220 }],
      revision: 2,
      query: { why: 'dearer still' },
    });
    expect(
      (await stall.as('read').call('GET /draft/revisions')).items.map(({ revision, savedBy, why }) => [
        revision,
        savedBy,
        why,
      ]),
    ).toEqual([
      [3, 'admin', 'dearer still'],
      [2, 'design', 'dearer'],
      [1, 'admin', 'test'],
    ]);
    expect(
      (await stall.as('read').call('GET /draft/revisions/{revision}', { params: { revision: 3 } })).changes.map(
        ({ words }) => words,
      ),
    ).toEqual(['Oak Reel, worth in Shells: 210 -> 220']);
    expect((await stall.as('design').call('POST /draft/undo', { body: { to: 1 }, revision: 3 })).revision).toBe(4);
    expect((await stall.as('read').call('GET /draft')).document).toEqual(demoDocument());
    await expect(stall.as('design').call('POST /draft/undo', { body: { to: 9 }, revision: 4 })).rejects.toThrow(
      /no revision 9/,
    );
    await expect(stall.as('design').call('POST /draft/undo', { body: { to: 1 }, revision: 3 })).rejects.toThrow(
      /You started from revision 3/,
    );
  });

  test('a stale save is refused with what both changed, and where they meet', async () => {
    await stall.as('design').call('PATCH /draft', { body: [{ op: 'replace', path: price, value: 210 }], revision: 1 });
    const save = async (path: string, value: unknown) => {
      const answer = await stall.raw('PATCH', '/draft', {
        body: [{ op: 'replace', path, value }],
        headers: { 'If-Match': '"1"' },
      });
      expect(answer.status).toBe(412);
      const { changes, mine, clashes } = (await answer.json()) as Record<'changes' | 'mine', { words: string }[]> & {
        clashes: string[];
      };
      return { theirs: changes.map(({ words }) => words), mine: mine.map(({ words }) => words), clashes };
    };
    const theirs = ['Oak Reel, worth in Shells: 200 -> 210'];
    expect(await save(price, 190)).toEqual({
      theirs,
      mine: ['Oak Reel, worth in Shells: 200 -> 190'],
      clashes: [price],
    });
    expect(await save('/items/linen_sail/worth/shells', 95)).toEqual({
      theirs,
      mine: ['Linen Sail, worth in Shells: 90 -> 95'],
      clashes: [],
    });
  });

  test("the differences speak a designer's words, with the date", async () => {
    const offer = '/shops/pier_stall/shelves/frames/offers/first_flight_kit/price/shells';
    await stall.as('design').call('PATCH /draft', { body: [{ op: 'replace', path: offer, value: 180 }], revision: 1 });
    const words = async (at?: string) =>
      (await stall.as('read').call('GET /draft/changes', { query: { against: 'live', at } })).changes.map(
        (change) => change.words,
      );
    expect(await words()).toEqual(['First Flight Kit at Pier Stall: 200 -> 180 Shells']);
    expect(await words('2027-12-01T09:00')).toEqual([
      'First Flight Kit at Pier Stall: 200 -> 180 Shells, from 2027-12-01 09:00 WET',
    ]);
  });
});

test('the stream tells saves, releases, channels and rotations, in order, once they are kept', async () => {
  const heard: StreamEvent[] = [];
  const stop = new AbortController();
  const opened = new Promise<void>((resolve) => {
    stall
      .as('read')
      .listen('GET /stream', {}, (event) => heard.push(event), { signal: stop.signal, onOpen: resolve })
      .catch(() => undefined);
  });
  await opened;
  await publishPrice(250, { at: iso(NOW + HOUR) });
  await expect(
    stall.as('design').call('PATCH /draft', { body: [{ op: 'replace', path: '/items', value: 3 }], revision: 2 }),
  ).rejects.toThrow();
  stall.clock.nowMs = NOW + HOUR;
  await stall.service.writer.submit(() => stall.service.channels.reach());
  await stall.as('publish').call('POST /rotations/{shop}/{shelf}/records', {
    params: { shop: 'lantern_wagon', shelf: 'tonight' },
    body: { redraw: true },
  });
  while (heard.length < 5) await new Promise((resolve) => setImmediate(resolve));
  expect(heard.map(({ type }) => type)).toEqual([
    'dimestall.draft.saved',
    'dimestall.channel.scheduled',
    'dimestall.release.published',
    'dimestall.channel.moved',
    'dimestall.rotation.recorded',
  ]);
  expect(heard[0]).toMatchObject({
    specversion: '1.0',
    source: '/dimestall',
    subject: 'revision 2',
    data: { who: 'design', changes: [{ pointer: price, words: 'Oak Reel, worth in Shells: 200 -> 250' }] },
  });
  // A listener that was cut off asks for what came since.
  const again = await stall.raw('GET', '/stream', { headers: { 'Last-Event-ID': heard[3]!.id } });
  const reader = again.body!.getReader();
  const text = new TextDecoder().decode((await reader.read()).value);
  expect(text).toContain('event: dimestall.rotation.recorded');
  expect(text).not.toContain('channel.moved');
  // Something comes while nothing happens, so that nobody takes it for gone.
  stall.service.streams.beat();
  expect(new TextDecoder().decode((await reader.read()).value)).toBe(': here\n\n');
  await reader.cancel();
  stop.abort();
  const listen = async (lastId: string): Promise<string> => {
    const response = await stall.raw('GET', '/stream', { headers: { 'Last-Event-ID': lastId } });
    const reading = response.body!.getReader();
    stall.service.streams.beat();
    const first = new TextDecoder().decode((await reading.read()).value);
    await reading.cancel();
    return first;
  };
  // What was missed since an event that nobody knows cannot be told, and that is said; since the last, nothing was.
  expect(await listen('of-an-earlier-start')).toMatch(
    new RegExp(`^id: ${heard[4]!.id}\nevent: dimestall.missed\ndata: .*"subject":"of-an-earlier-start"`),
  );
  expect(await listen(heard[4]!.id)).toBe(': here\n\n');
});

test('streams have a bound of their own', async () => {
  const MOST = 100;
  const open = [];
  for (let n = 0; n < MOST; n++) open.push(await stall.raw('GET', '/stream', { role: 'read' }));
  expect(new Set(open.map(({ status }) => status))).toEqual(new Set([200]));
  expect((await stall.raw('GET', '/stream', { role: 'read' })).status).toBe(429);
  const other = await stall.raw('GET', '/stream', { role: 'design' });
  expect(other.status).toBe(200);
  for (const { body } of [...open, other]) await body!.cancel();
});

test("the player's words come with the front and with checks, in the language asked for", async () => {
  const profile = { attributes: { level: 1 }, holds: { shells: 89 } };
  const front = await stall.as('read').call('GET /shops/{shop}/front', {
    params: { shop: 'pier_stall' },
    query: { profile, language: 'pt', at: '2027-03-26T19:00' },
  });
  const linen = front.shelves.flatMap(({ offers }) => offers).find(({ id }) => id === 'linen_sail')!;
  expect(front).toMatchObject({ name: 'Banca do Cais', language: 'pt', wallet: '89 conchas, 2 pérolas e 5 de brisa' });
  expect(front.tracks).toMatchObject([{ told: 'Nível de voo: nível 1, 0 de 150 conchas para o nível 2' }]);
  expect(front.goals[0]).toMatchObject({
    name: 'Primeira corrida',
    description: 'Termina uma corrida no porto.',
    told: 'Primeira corrida: 0 de 1',
  });
  expect(linen).toMatchObject({
    name: 'Vela de Linho',
    told: {
      prices: { shells: '60 conchas' },
      before: { shells: '90 conchas' },
      sale: 'Serão do Linho',
      ask: 'Comprar Vela de Linho por 60 conchas?',
      refusals: [],
    },
  });
  const { verdicts } = await stall
    .as('read')
    .call('POST /checks', { body: { checks: [{ offer: 'storm_frame', profile }], source: 'live', language: 'en' } });
  expect(verdicts[0]!.told!.refusals).toEqual([
    'Reach flyer level 3 to fly it.',
    'You are 1,311 shells short: it costs 1,400 shells, and you have 89 shells.',
  ]);
  await expect(
    stall
      .as('read')
      .call('GET /shops/{shop}/front', { params: { shop: 'pier_stall' }, query: { profile, language: '../en' } }),
  ).rejects.toThrow(/is not a language/);
});
