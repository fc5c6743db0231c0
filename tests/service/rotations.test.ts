/** What rotating shelves have on show, over releases and what is decided for single periods. */
import { DAY, HOUR, NOW } from '../support/economy.js';
import { startStall } from '../support/stall.js';
import type { Stall } from '../support/stall.js';

let stall: Stall;
beforeEach(async () => {
  stall = await startStall();
});
afterEach(() => stall.stop());

const iso = (ms: number) => new Date(ms).toISOString();
const shown = async (query: { at?: string; source?: string; player?: string } = {}) =>
  (await stall.as('read').call('GET /rotations', { query: query })).items[0]!;
const ids = (view: Awaited<ReturnType<typeof shown>>) => view.shown.map(({ id }) => id).sort();

test('a release in the middle of a period does not change what is on show; the next period has the new pool', async () => {
  stall.clock.nowMs = NOW + HOUR;
  const before = ids(await shown());
  const later = ids(await shown({ at: iso(NOW + 5 * DAY) }));
  const pool = '/shops/lantern_wagon/shelves/tonight/offers';
  const { revision, document } = await stall.as('read').call('GET /draft');
  const offers = Object.keys(document.shops!['lantern_wagon']!.shelves['tonight']!.offers);
  await stall.as('design').call('PATCH /draft', {
    body: offers.map((id) => ({ op: 'add', path: `${pool}/${id}/weight`, value: before.includes(id) ? 0.01 : 50 })),
    revision,
  });
  await stall.as('publish').call('POST /releases', { body: { note: 'other weights' } });
  expect(ids(await shown())).toEqual(before);
  expect(ids(await shown({ at: iso(NOW + DAY - 1) }))).toEqual(before);
  expect(ids(await shown({ at: iso(NOW + DAY) })).filter((id) => before.includes(id))).toEqual([]);
  // What players see is the same: the shop's front agrees.
  const front = await stall.as('read').call('GET /shops/{shop}/front', {
    params: { shop: 'lantern_wagon' },
    query: { profile: { attributes: { level: 3 } } },
  });
  expect(
    front.shelves
      .find(({ id }) => id === 'tonight')!
      .offers.map(({ id }) => id)
      .sort(),
  ).toEqual(before);
  // Going back in the same period does not change it either, and later days are as they were.
  await stall.as('publish').call('PUT /channels/{channel}', { params: { channel: 'live' }, body: { release: 1 } });
  expect(ids(await shown())).toEqual(before);
  expect(ids(await shown({ at: iso(NOW + 5 * DAY) }))).toEqual(later);
});

test('pins and redraws count at once, are recorded, and can be taken back', async () => {
  const before = await shown();
  const absent = before.pool.find(({ id }) => !ids(before).includes(id))!.id;
  const pinned = await stall.as('publish').call('POST /rotations/{shop}/{shelf}/records', {
    params: { shop: 'lantern_wagon', shelf: 'tonight' },
    body: { pin: absent, why: 'asked for' },
  });
  expect(pinned.shown).toContainEqual({ id: absent, name: expect.any(String) as string, pinned: true });
  expect(pinned.shown).toHaveLength(2);
  expect(pinned.records).toMatchObject([
    { kind: 'pin', offer: absent, madeBy: 'publish', why: 'asked for', madeMs: NOW },
  ]);
  await stall.as('publish').call('DELETE /rotations/records/{record}', { params: { record: pinned.records[0]!.id } });
  expect(ids(await shown())).toEqual(ids(before));
  const redrawn = await stall.as('publish').call('POST /rotations/{shop}/{shelf}/records', {
    params: { shop: 'lantern_wagon', shelf: 'tonight' },
    body: { redraw: true },
  });
  expect(ids(redrawn).filter((id) => ids(before).includes(id))).toEqual([]);
  const [one] = ids(redrawn);
  const without = await stall.as('publish').call('POST /rotations/{shop}/{shelf}/records', {
    params: { shop: 'lantern_wagon', shelf: 'tonight' },
    body: { without: one! },
  });
  expect(ids(without)).not.toContain(one);
  expect(ids(without)).toHaveLength(2);
});

test('what is over, unknown or said twice is refused', async () => {
  const record = (change: object, shelf = 'tonight') =>
    stall
      .as('publish')
      .call('POST /rotations/{shop}/{shelf}/records', { params: { shop: 'lantern_wagon', shelf }, body: change });
  await expect(record({ redraw: true, at: iso(NOW - 2 * DAY) })).rejects.toThrow(/That period is over/);
  await expect(record({ pin: 'oak_reel' })).rejects.toThrow(/no offer in the pool/);
  await expect(record({ pin: 'tide_sail', redraw: true })).rejects.toThrow(/Say one of/);
  await expect(record({ redraw: true }, 'rare')).rejects.toThrow(/no rotating shelf/);
  await expect(
    stall.as('publish').call('DELETE /rotations/records/{record}', { params: { record: 99 } }),
  ).rejects.toThrow(/no record 99/);
});

test('an offer that is not on show cannot be bought, and says when it comes', async () => {
  const view = await shown();
  const absent = view.pool.find(({ id }) => !ids(view).includes(id))!.id;
  const { verdicts } = await stall.as('read').call('POST /checks', {
    body: {
      checks: [{ offer: absent, profile: { attributes: { level: 5, pilot: true }, holds: { shells: 9000 } } }],
    },
  });
  const [reason] = verdicts[0]!.reasons as { code: string; fromMs: number }[];
  expect(reason!.code).toBe('not-on-show');
  expect(ids(await shown({ at: iso(reason!.fromMs) }))).toContain(absent);
  expect(ids(await shown({ at: iso(reason!.fromMs - 1) }))).not.toContain(absent);
});

describe('a release in the middle of a period', () => {
  const rotation = '/shops/lantern_wagon/shelves/tonight/rotation';
  /** A limit within a rotation period goes with it. */
  const stop = [
    { op: 'remove', path: rotation },
    { op: 'remove', path: '/shops/lantern_wagon/shelves/tonight/offers/spiral_tail/limits' },
  ] as const;
  const wagon = { shop: 'lantern_wagon', shelf: 'tonight' };
  const publish = async (body: { op: 'add' | 'remove'; path: string; value?: unknown }[]) => {
    const { revision } = await stall.as('design').call('GET /draft');
    await stall.as('design').call('PATCH /draft', { body: body as never, revision });
    await stall.as('publish').call('POST /releases', { body: { note: 'another rotation' } });
  };
  const seenBy = async (player: string, at: number) => {
    const front = await stall.as('read').call('GET /shops/{shop}/front', {
      params: { shop: 'lantern_wagon' },
      query: { player, at: iso(at) },
    });
    const shelf = front.shelves.find(({ id }) => id === 'tonight')!;
    return { offers: shelf.offers.map(({ id }) => id).sort(), untilMs: shelf.rotates?.untilMs };
  };
  const nights = async () => {
    const { lanes } = await stall
      .as('read')
      .call('GET /calendar', { query: { from: iso(NOW), to: iso(NOW + 20 * DAY), shop: 'lantern_wagon' } });
    return lanes[0]!.entries.filter(({ kind }) => kind === 'rotation');
  };

  beforeEach(async () => {
    for (const id of ['ines', 'oda']) await stall.as('admin').call('POST /players', { body: { id } });
  });

  test.each([
    ['gives each player a selection of their own', [{ op: 'add', path: `${rotation}/perPlayer`, value: true }]],
    ['turns weekly', [{ op: 'add', path: `${rotation}/every`, value: 'week' }]],
    ['turns every six hours', [{ op: 'add', path: `${rotation}/every`, value: 'PT6H' }]],
    ['turns at another time', [{ op: 'add', path: `${rotation}/at`, value: '12:00' }]],
    [
      'shows more and rests longer',
      [
        { op: 'add', path: `${rotation}/show`, value: 3 },
        { op: 'add', path: `${rotation}/avoid`, value: 2 },
      ],
    ],
    ['does not rotate', stop],
  ] as const)('that %s keeps what is on show, its pin and its end', async (_, change) => {
    stall.clock.nowMs = NOW + HOUR;
    const all = await shown();
    const absent = all.pool.find(({ id }) => !ids(all).includes(id))!.id;
    const pinned = await stall
      .as('publish')
      .call('POST /rotations/{shop}/{shelf}/records', { params: wagon, body: { pin: absent } });
    const [ines, oda] = [await seenBy('ines', NOW + HOUR), await seenBy('oda', NOW + HOUR)];
    expect(ines).toEqual({ offers: ids(pinned), untilMs: NOW + DAY });
    stall.clock.nowMs = NOW + 2 * HOUR;
    await publish([...change]);
    for (const at of [NOW + 2 * HOUR, NOW + 13 * HOUR, NOW + DAY - 1])
      expect([await seenBy('ines', at), await seenBy('oda', at)]).toEqual([ines, oda]);
    expect(await shown()).toMatchObject({ period: pinned.period, endMs: NOW + DAY, records: pinned.records });
    // Going back and forth before it takes hold changes nothing.
    const live = { params: { channel: 'live' } };
    await stall.as('publish').call('PUT /channels/{channel}', { ...live, body: { release: 1 } });
    await stall.as('publish').call('PUT /channels/{channel}', { ...live, body: { release: 2 } });
    expect(await seenBy('ines', NOW + DAY - 1)).toEqual(ines);

    const periods = await nights();
    expect(periods[0]).toMatchObject({ startMs: NOW, endMs: NOW + DAY });
    periods.slice(1).forEach(({ startMs }, index) => expect(startMs).toBe(periods[index]!.endMs));

    // What is refused now comes when it is told to come, and not before.
    const { offers } = await stall
      .as('read')
      .call('GET /shops/{shop}/front', {
        params: { shop: 'lantern_wagon' },
        query: { at: iso(NOW + DAY) },
      })
      .then(({ shelves }) => shelves.find(({ id }) => id === 'tonight')!);
    expect(offers.length).toBeGreaterThan(0);
    const away = all.pool.find(({ id }) => !ines.offers.includes(id))!.id;
    const { verdicts } = await stall.as('read').call('POST /checks', {
      body: { checks: [{ offer: away, player: 'ines' }] },
    });
    const reason = verdicts[0]!.reasons.find(({ code }) => code === 'not-on-show') as { fromMs: number };
    expect(reason.fromMs).toBeGreaterThanOrEqual(NOW + DAY);
    expect((await seenBy('ines', reason.fromMs)).offers).toContain(away);
    expect((await seenBy('ines', reason.fromMs - 1)).offers).not.toContain(away);
  });

  test('that begins to rotate lets all be on show until its first period begins', async () => {
    await publish([...stop]);
    stall.clock.nowMs = NOW + 3 * DAY + HOUR;
    const all = (await seenBy('ines', stall.clock.nowMs)).offers;
    await publish([{ op: 'add', path: rotation, value: { show: 1, every: 'day', at: '09:00' } }]);
    expect(await seenBy('ines', NOW + 4 * DAY - 1)).toEqual({ offers: all, untilMs: undefined });
    expect((await seenBy('ines', NOW + 4 * DAY)).offers).toHaveLength(1);
    await expect(
      stall.as('publish').call('POST /rotations/{shop}/{shelf}/records', { params: wagon, body: { redraw: true } }),
    ).rejects.toThrow(
      /Until the rotation takes hold, at 2027-03-05T09:00:00.000Z, all of lantern_wagon\/tonight is on show/,
    );
    expect((await nights()).slice(0, 2).map(({ startMs }) => startMs)).toEqual([NOW, NOW + 4 * DAY]);
  });
});
