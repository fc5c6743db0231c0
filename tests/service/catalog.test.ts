import { problemOf, POINT_PNG, startStall } from '../support/stall.js';
import type { Stall } from '../support/stall.js';

let stall: Stall;
beforeAll(async () => {
  stall = await startStall();
});
afterAll(() => stall.stop());

const design = () => stall.as('design');
const draft = () => stall.as('read').call('GET /draft');

test('an edit is shown first, saved from the revision one saw, and undone by what it answers', async () => {
  const edit = {
    kind: 'reprice' as const,
    where: { group: 'frames' },
    asset: 'shells',
    percent: 10,
    round: { to: 5, way: 'up' as const },
  };
  const before = await draft();
  const shown = await design().call('POST /draft/edits', { body: edit, query: { preview: true } });
  expect([shown.saved, shown.changes.length]).toEqual([null, 13]);
  expect((await draft()).revision).toBe(before.revision);
  const done = await design().call('POST /draft/edits', { body: edit, revision: before.revision });
  expect(done.saved!.revision).toBe(before.revision + 1);
  expect((await draft()).document.items!['storm_frame']!.worth).toEqual({ shells: 1540 });
  expect(await problemOf(design().call('POST /draft/edits', { body: edit, revision: before.revision }))).toMatchObject({
    kind: 'stale',
  });
  await design().call('PATCH /draft', { body: done.undo, revision: done.saved!.revision });
  expect((await draft()).document).toEqual(before.document);
});

test('what an edit cannot do is told with every place, and what would dangle', async () => {
  const { revision } = await draft();
  const refused = await problemOf(
    design().call('POST /draft/edits', { body: { kind: 'remove', pointer: '/items/glide_wax' }, revision }),
  );
  expect(refused.kind).toBe('edit-refused');
  expect((refused.body['uses'] as { words: string }[]).map(({ words }) => words)).toContain(
    'First Flight Kit, gives in Glide Wax',
  );
  expect(
    await problemOf(
      design().call('POST /draft/edits', {
        body: { kind: 'reprice', where: {}, percent: 'much' } as never,
        query: { preview: true },
      }),
    ),
  ).toMatchObject({
    kind: 'invalid',
    status: 422,
  });
  expect(
    await problemOf(design().call('POST /draft/edits', { body: { kind: 'burn' } as never, query: { preview: true } })),
  ).toMatchObject({ kind: 'invalid' });
  expect((await draft()).revision).toBe(revision);
});

test('an order survives saving, publishing and reading back', async () => {
  const { revision } = await draft();
  const into = '/shops/pier_stall/shelves/care/offers';
  await design().call('POST /draft/edits', {
    body: { kind: 'move', pointer: `${into}/pennant`, before: 'wax_1' },
    revision,
  });
  const order = Object.keys((await draft()).document.shops!['pier_stall']!.shelves['care']!.offers);
  expect(order.slice(0, 2)).toEqual(['pennant', 'wax_1']);
  const { changes } = await stall.as('read').call('GET /draft/changes');
  expect(changes.map(({ field }) => field)).toEqual(['order']);
  await stall.as('admin').call('POST /releases', { body: { note: 'another order' } });
  const front = await stall.as('read').call('GET /shops/{shop}/front', { params: { shop: 'pier_stall' }, query: {} });
  expect(front.shelves.find(({ id }) => id === 'care')!.offers[0]!.id).toBe('pennant');
  expect((await stall.as('read').call('GET /draft/changes')).changes).toEqual([]);
});

test('sheets go out as CSV and come in again, shown first; slips are told by line and column', async () => {
  const { revision } = await draft();
  const csv = await design().call('GET /draft/sheets/{sheet}', { params: { sheet: 'items' } });
  expect(csv.split('\r\n')[0]).toMatch(/^id,icon,name,kind,group,worth/);
  expect(
    (
      await design().call('POST /draft/sheets/{sheet}', {
        params: { sheet: 'items' },
        type: 'text/csv',
        body: csv,
        query: { preview: true },
      })
    ).changes,
  ).toEqual([]);
  const rows = 'id;name;kind;group;worth\ndusk_tail;Dusk Tail;durable;tails;180 shells\n';
  const shown = await design().call('POST /draft/sheets/{sheet}', {
    params: { sheet: 'items' },
    type: 'text/csv',
    body: rows,
    query: { preview: true },
  });
  expect([shown.changes.map(({ words }) => words), shown.notes]).toEqual([
    ['Dusk Tail: added'],
    ['1 row read, 1 of them new'],
  ]);
  const saved = await design().call('POST /draft/sheets/{sheet}', {
    params: { sheet: 'items' },
    type: 'text/csv',
    body: rows,
    revision,
  });
  expect(saved.saved!.revision).toBe(revision + 1);
  const refused = await problemOf(
    design().call('POST /draft/sheets/{sheet}', {
      params: { sheet: 'items' },
      type: 'text/csv',
      body: 'id,name,kind\nmist_tail,Mist Tail,durabel\n',
      revision: revision + 1,
    }),
  );
  expect(refused.body['errors']).toMatchObject([{ pointer: '/items/mist_tail/kind' }]);
  const slip = await problemOf(
    design().call('POST /draft/sheets/{sheet}', {
      params: { sheet: 'items' },
      type: 'text/csv',
      body: 'id,worth\noak_reel,lots\n',
      revision: revision + 1,
    }),
  );
  expect(slip.body['errors']).toMatchObject([{ line: 2, column: 'worth' }]);
  const response = await stall.raw('GET', '/draft/sheets/kites');
  expect([response.status, ((await response.json()) as { detail: string }).detail]).toEqual([
    404,
    'There is no sheet "kites". Write one of: items, offers, loot, currencies, groups, stores, attributes, earning, goals, teams, rankings, cases.',
  ]);
});

test('where a thing is used, where a currency flows, what formulas come to, what money arrives', async () => {
  const reader = stall.as('read');
  expect(
    (await reader.call('GET /draft/uses/{kind}/{id}', { params: { kind: 'loot', id: 'rare_finds' } })).items.map(
      ({ words }) => words,
    ),
  ).toEqual([
    'loot table Finds of a drift crate, entries rare table',
    'loot table Finds of a tide crate, entries rare table',
  ]);
  expect(
    (await reader.call('GET /flows/{asset}', { params: { asset: 'pearls' } })).buys.map(({ units }) => units),
  ).toEqual([1, 2, 2, 4, 12, 15, 20, 25, 40]);
  const { values } = await reader.call('GET /draft/values', { query: { profile: { attributes: { level: 3 } } } });
  expect(values.find(({ pointer }) => pointer.endsWith('flight_lesson/price/shells'))).toMatchObject({
    value: 850,
    inputs: [{ name: 'level', value: 3 }],
  });
  expect((await reader.call('GET /money')).items).toHaveLength(12);
  expect(await problemOf(reader.call('GET /flows/{asset}', { params: { asset: 'nothing' } }))).toMatchObject({
    kind: 'not-found',
  });
});

test('odds are exact, of a table or a box, for a player, and with weights that are only being thought of', async () => {
  const odds = await stall.as('read').call('POST /odds', { body: { id: 'rare_finds' } });
  expect(odds.assets.map(({ asset, chance }) => [asset, chance])).toEqual([
    ['old_coin', expect.closeTo(0.6, 12)],
    ['star_charm', expect.closeTo(0.3, 12)],
    ['comet_tail', expect.closeTo(0.1, 12)],
  ]);
  const set = { '/loot/rare_finds/entries/comet_tail/weight': 91 };
  expect(
    (await stall.as('read').call('POST /odds', { body: { id: 'rare_finds', set } })).assets[2]!.chance,
  ).toBeCloseTo(0.91, 12);
  expect((await draft()).document.loot!['rare_finds']!.entries['comet_tail']!.weight).toBe(1);
  const owner = await stall
    .as('read')
    .call('POST /odds', { body: { id: 'rare_finds', profile: { holds: { comet_tail: 1 } } } });
  expect(owner.assets.map(({ asset }) => asset)).toEqual(['old_coin', 'star_charm']);
  expect((await stall.as('read').call('POST /odds', { body: { id: 'tide_crate' } })).assets[0]).toMatchObject({
    asset: 'sea_salt',
    chance: 1,
  });
  expect(await problemOf(stall.as('read').call('POST /odds', { body: { id: 'oak_reel' } }))).toMatchObject({
    kind: 'not-found',
  });
  expect(
    await problemOf(stall.as('read').call('POST /odds', { body: { id: 'rare_finds', set: { '/loot/nowhere': 1 } } })),
  ).toMatchObject({
    kind: 'invalid',
  });
});

describe('pictures', () => {
  const bytes = (buffer: Buffer): ArrayBuffer => new Uint8Array(buffer).buffer;
  const save = (name: string, content: Buffer, type = 'image/png') =>
    design().call('PUT /pictures/{picture}', { params: { picture: name }, type, body: bytes(content) });

  test('one is uploaded, served as it is with an ETag, named by an icon, and missed by the audit when it goes', async () => {
    await save('oak_reel.png', POINT_PNG);
    const response = await stall.raw('GET', '/pictures/oak_reel.png', { role: 'read' });
    expect(response.headers.get('content-type')).toBe('image/png');
    expect(response.headers.get('x-content-type-options')).toBe('nosniff');
    expect(Buffer.from(await response.arrayBuffer()).equals(POINT_PNG)).toBe(true);
    const again = await stall.raw('GET', '/pictures/oak_reel.png', {
      headers: { 'If-None-Match': response.headers.get('etag')! },
    });
    expect(again.status).toBe(304);
    const { revision } = await draft();
    await design().call('POST /draft/edits', {
      body: { kind: 'set', pointer: '/items/oak_reel/icon', value: 'pictures/oak_reel.png' },
      revision,
    });
    const codes = async () => (await stall.as('read').call('GET /draft/audit')).findings.map(({ code }) => code);
    expect(await codes()).not.toContain('picture-missing');
    await design().call('DELETE /pictures/{picture}', { params: { picture: 'oak_reel.png' } });
    expect(await codes()).toContain('picture-missing');
  });

  test.each([
    [
      'an SVG, which can hold scripts',
      'kite.svg',
      Buffer.from('<svg xmlns="http://www.w3.org/2000/svg"><script>1</script></svg>'),
      /SVG is not taken/,
    ],
    ['an SVG under another name', 'kite.png', Buffer.from('<svg><script>alert(1)</script></svg>'), /SVG is not taken/],
    ['a text', 'kite.png', Buffer.from('hello, this is no picture at all'), /no PNG, JPEG, WebP or GIF/],
    ['a picture of another kind than its name says', 'kite.gif', POINT_PNG, /its name ends otherwise/],
    ['a name that leads elsewhere', '..%2Fkite.png', POINT_PNG, /cannot be a picture's name/],
  ])('%s is refused', async (_what, name, content, message) => {
    const refused = await problemOf(save(decodeURIComponent(name), content));
    expect(refused.message).toMatch(message);
    expect([404, 422]).toContain(refused.status);
  });

  test('one of 10 MB is refused before it is kept, as is one of 600 kB', async () => {
    for (const size of [10_000_000, 600_000]) {
      const large = Buffer.concat([POINT_PNG, Buffer.alloc(size)]);
      expect(await problemOf(save('large.png', large))).toMatchObject({ kind: 'too-large', status: 413 });
    }
    expect((await stall.as('read').call('GET /pictures')).items.map(({ name }) => name)).not.toContain('large.png');
  });

  test('a picture of too many points is refused, however few bytes it has', async () => {
    const wide = Buffer.from(POINT_PNG);
    wide.writeUInt32BE(60_000, 16);
    expect((await problemOf(save('wide.png', wide))).message).toMatch(/larger than 2048 by 2048/);
  });
});

describe('a formula that is being written', () => {
  const tried = (formula: string, more: object = {}) =>
    stall.as('read').call('POST /draft/formula', { body: { formula, gives: 'number', ...more } });

  test('comes to a value for a player, with what it read', async () => {
    const profile = { attributes: { level: 4 }, holds: { wind_chime: 2 } };
    expect(await tried('=60 * 2 ^ owned(wind_chime) + level', { profile })).toEqual({
      kind: 'value',
      value: 244,
      inputs: [
        { name: 'level', value: 4 },
        { name: 'owned(wind_chime)', value: 2 },
      ],
      curves: [
        // From where a new player is to the highest level, what is owned as it is.
        { name: 'level', points: Array.from({ length: 20 }, (_, place) => ({ at: place + 1, value: 241 + place })) },
        {
          name: 'owned(wind_chime)',
          points: Array.from({ length: 13 }, (_, owned) => ({ at: owned, value: 60 * 2 ** owned + 4 })),
        },
      ],
    });
    const broken = await tried('=10 / (level - 2)', { profile });
    expect(broken.kind === 'value' && broken.curves[0]!.points.slice(0, 3)).toEqual([
      { at: 1, value: -10 },
      { at: 2, value: null },
      { at: 3, value: 10 },
    ]);
    const money = await tried('=balance(shells) + bought(first_flight_kit)', { profile: { holds: { shells: 61 } } });
    expect(money.kind === 'value' && money.curves.map(({ points }) => [points[0]!.at, points.at(-1)!.at])).toEqual([
      [0, 20_000],
      [0, 1],
    ]);
    expect(await tried('=level >= 3', { gives: 'truth', profile })).toEqual(
      expect.objectContaining({ kind: 'value', value: true, curves: [] }),
    );
  });

  test.each([
    ['=leval + 1', {}, { kind: 'wrong', at: 1, fix: expect.stringContaining('level') as string }],
    ['=1 + owned(wind_chimes)', {}, { kind: 'wrong', at: 5, fix: 'Did you mean "wind_chime"?' }],
    ['=level >', {}, { kind: 'wrong' }],
    ['=level >= 3', {}, { kind: 'wrong' }],
    ['=1 / (level - 1)', {}, { kind: 'none', problem: expect.stringContaining('no number') as string }],
    ['=place + 1', {}, { kind: 'wrong' }],
    ['=place + 1', { event: 'race_finished' }, { kind: 'later' }],
  ])('%s %j', async (formula, more, answer) => {
    expect(await tried(formula, more)).toMatchObject(answer);
  });
});

test('odds tell how long it takes until a whole set is had, and refuse what is no thing', async () => {
  const body = { id: 'drift_finds', source: 'draft', together: ['sea_glass', 'driftwood', 'sea_glass'] };
  const { together, assets } = await stall.as('read').call('POST /odds', { body });
  expect(together).toMatchObject({ assets: ['sea_glass', 'driftwood'], half: 2, nine: 5, most: 8 });
  const single = Math.max(
    ...assets.filter(({ asset }) => body.together.includes(asset)).map((one) => one.openings.mean!),
  );
  expect(together!.mean).toBeGreaterThan(single);
  const odd = await stall.raw('POST', '/odds', { body: { ...body, together: ['sea_glas'] } });
  expect([odd.status, await odd.json()]).toEqual([
    422,
    expect.objectContaining({ errors: [expect.objectContaining({ pointer: '/together/0' })] }),
  ]);
  const many = Array.from({ length: 11 }, () => 'sea_glass');
  expect((await stall.raw('POST', '/odds', { body: { ...body, together: many } })).status).toBe(422);
});

test('a preview refuses what the import refuses: parts of a currency that has none', async () => {
  const text = 'id,worth\nstorm_frame,12.50 shells\n';
  const send = (how: object) =>
    problemOf(
      design().call('POST /draft/sheets/{sheet}', {
        params: { sheet: 'items' },
        type: 'text/csv',
        body: text,
        ...how,
      } as never),
    );
  const { revision } = await design().call('GET /draft', {});
  const [shown, saved] = [await send({ query: { preview: true } }), await send({ revision })];
  expect(shown.body['errors']).toEqual(saved.body['errors']);
  expect(shown.body['errors']).toMatchObject([{ pointer: '/items/storm_frame/worth/shells' }]);
});
