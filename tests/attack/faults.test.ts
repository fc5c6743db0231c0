/**
 * Every path that writes fails at its first, second, ... row until one run meets no fault. After each failure nothing is
 * changed, in answers, in memory and on disk; at the end it is done once.
 */
import type { Input, Key } from '../../src/contract/index.js';
import { integrityCheck } from '../../src/service/index.js';
import { POINT_PNG, startStall } from '../support/stall.js';
import type { Stall } from '../support/stall.js';
import { WRITING } from '../support/writing.js';

/** What each of them is called with, in an order in which each finds what it needs. */
const PATHS: { [K in Key]?: (stall: Stall) => Input<K> | Promise<Input<K>> } = {
  'POST /players': () => ({ body: { id: 'lia', name: 'Lia', attributes: { level: 3 } } }),
  'POST /players/{player}/grants': () => ({
    params: { player: 'lia' },
    body: {
      gives: { shells: 2000, ribbons: 50, drift_crate: 1, sea_glass: 3, glide_wax: 4 },
      takes: { breeze: 1 },
      reason: 'fair',
    },
    key: 'g',
  }),
  'POST /teams': () => ({ body: { id: 'gulls', kind: 'side', name: 'Gulls' } }),
  'PUT /teams/{team}/name': () => ({ params: { team: 'gulls' }, body: { name: 'The Gulls' } }),
  'PUT /teams/{team}/members/{player}': () => ({ params: { team: 'gulls', player: 'lia' } }),
  'POST /teams/{team}/grants': () => ({
    params: { team: 'gulls' },
    body: { gives: { pearls: 3, shells: 9 }, takes: { ribbons: 1 }, reason: 'fair' },
    key: 't',
  }),
  'POST /purchases': () => ({ body: { player: 'lia', offer: 'wax_1', times: 2 }, key: 'p' }),
  'POST /openings': () => ({ body: { player: 'lia', item: 'drift_crate' }, key: 'o' }),
  'POST /uses': () => ({
    body: { player: 'lia', uses: ['a', 'b'].map((id) => ({ id, item: 'glide_wax' })) },
  }),
  'POST /buybacks': () => ({ body: { player: 'lia', item: 'sea_glass', shop: 'pier_stall', times: 1 }, key: 's' }),
  'POST /players/{player}/events': () => ({
    params: { player: 'lia' },
    // The second gives the team its share, and the third counts for its goal.
    body: {
      events: [
        { id: 'e', name: 'race_finished', fields: { place: 1, difficulty: 2 } },
        { id: 'f', name: 'chime_hung' },
        { id: 'g', name: 'lantern_lit' },
      ],
    },
  }),
  'DELETE /teams/{team}/members/{player}': () => ({ params: { team: 'gulls', player: 'lia' } }),
  'DELETE /teams/{team}': () => ({ params: { team: 'gulls' } }),
  'DELETE /players/{player}': () => ({ params: { player: 'lia' }, query: { reason: 'asked for it' } }),
  'PUT /draft': async (stall) => {
    const { document, revision } = await stall.as('read').call('GET /draft');
    return { body: { ...document, name: 'Faulty Cove' }, revision };
  },
  'PATCH /draft': async (stall) => ({
    body: [{ op: 'replace', path: '/items/storm_frame/name', value: 'Gale Frame' }],
    revision: await revisionOf(stall),
  }),
  'POST /draft/edits': async (stall) => ({
    body: { kind: 'set', pointer: '/items/oak_reel/name', value: 'Old Oak Reel' },
    revision: await revisionOf(stall),
  }),
  'POST /draft/sheets/{sheet}': async (stall) => ({
    params: { sheet: 'items' },
    type: 'text/csv',
    body: 'id,name\noak_reel,Oak Reel\n',
    revision: await revisionOf(stall),
  }),
  'POST /draft/import': async (stall) => ({
    body: {
      files: (await stall.as('read').call('GET /draft/export')).files.map((file) => ({
        ...file,
        text: file.text.replace('Gale Frame', 'Storm Frame'),
      })),
    },
    revision: await revisionOf(stall),
  }),
  'POST /draft/undo': async (stall) => ({ body: { to: 1 }, revision: await revisionOf(stall) }),
  'POST /releases': () => ({ body: { note: 'faulty', channel: 'test' } }),
  'PUT /channels/{channel}': () => ({
    params: { channel: 'test' },
    body: { release: 1, at: '2029-01-01T09:00', note: 'later' },
  }),
  'DELETE /channels/{channel}/moves/{move}': async (stall) => {
    const { items } = await stall.as('read').call('GET /channels');
    return { params: { channel: 'test', move: items.find(({ name }) => name === 'test')!.coming[0]!.move } };
  },
  'DELETE /channels/{channel}': () => ({ params: { channel: 'test' }, query: { anyway: true } }),
  'POST /rotations/{shop}/{shelf}/records': () => ({ params: ROTATING, body: { redraw: true, why: 'dull' } }),
  'DELETE /rotations/records/{record}': async (stall) => {
    const { items } = await stall.as('read').call('GET /rotations');
    return { params: { record: items.flatMap(({ records }) => records)[0]!.id } };
  },
  'PUT /pictures/{picture}': () => ({
    params: { picture: 'kite.png' },
    type: 'image/png',
    body: new Uint8Array(POINT_PNG).buffer,
  }),
  'DELETE /pictures/{picture}': () => ({ params: { picture: 'kite.png' } }),
  'POST /session': (stall) => ({ body: { token: stall.tokens.read } }),
  'POST /tokens': () => ({ body: { name: 'faulty', role: 'read' as const, days: 3 } }),
  'DELETE /tokens/{token}': async (stall) => {
    const { items } = await stall.as('admin').call('GET /tokens');
    return { params: { token: items.find(({ name }) => name === 'faulty')!.id } };
  },
  // The last: it goes on by itself.
  'POST /runs': () => ({ body: { scenario: 'racers_only', days: 1, players: 1 } }),
};
const ROTATING = { shop: 'lantern_wagon', shelf: 'tonight' };
/** Those that write and are tried elsewhere, or in their own way. */
const ELSEWHERE: Partial<Record<Key, string>> = {
  'POST /collections': 'an act, written in the one place that POST /openings is written in',
  'PATCH /runs/{run}': 'one row of one table, as DELETE /tokens/{token}',
  'DELETE /runs/{run}': 'it is kept in memory and tried again: oneWriter.test.ts',
  'DELETE /session': 'one row of one table, as DELETE /tokens/{token}',
};

const revisionOf = async (stall: Stall): Promise<number> => (await stall.as('read').call('GET /draft')).revision;

test('every operation that may write is here, or says where it is tried', () => {
  expect(WRITING.filter((key) => PATHS[key] === undefined && ELSEWHERE[key] === undefined)).toEqual([]);
});

describe('failing at each row', () => {
  let stall: Stall;
  let failsAt = 0;
  let written = 0;
  beforeAll(async () => {
    stall = await startStall();
    // What goes on by itself would be a change that nobody asked for.
    stall.service.retention.close();
    const { raw } = stall.service.database;
    raw.function('row_written', () => {
      if (++written === failsAt) throw Object.assign(new Error('disk I/O error'), { code: 'SQLITE_IOERR' });
      return null;
    });
    for (const table of tables())
      for (const act of ['INSERT', 'UPDATE', 'DELETE'])
        raw.exec(
          `CREATE TEMP TRIGGER fault_${table}_${act} BEFORE ${act} ON main.${table} BEGIN SELECT row_written(); END`,
        );
  });
  afterAll(() => stall.stop());

  const tables = (): string[] =>
    stall.service.database.raw
      .prepare(
        "SELECT name FROM main.sqlite_master WHERE type = 'table' AND name NOT LIKE '\\_%' ESCAPE '\\' AND name NOT LIKE 'sqlite%' ORDER BY name",
      )
      .pluck()
      .all() as string[];
  const onDisk = (): unknown =>
    tables().map((table) => stall.service.database.raw.prepare(`SELECT * FROM main.${table}`).all());
  /** What callers are told, from what is held in memory. */
  const answers = async (): Promise<unknown> => {
    const read = stall.as('admin');
    const raw = (path: string) => stall.raw('GET', path, { headers: { 'X-Request-Id': 'the-same' } });
    return [
      await read.call('GET /draft'),
      await read.call('GET /channels'),
      await read.call('GET /rotations'),
      await read.call('GET /pictures'),
      await read.call('GET /tokens'),
      await read.call('GET /runs'),
      (await (await raw('/players/lia')).json()) as unknown,
      await (await raw('/shops/lantern_wagon/front?player=lia')).text(),
    ];
  };

  test.each(Object.keys(PATHS) as Key[])('%s', async (key) => {
    // Whoever does it may do everything; it is the storage that is tried.
    const doIt = async () => stall.as('admin').call(key, (await PATHS[key]!(stall)) as never);
    const before = [onDisk(), await answers()];
    let faults = 0;
    for (failsAt = 1; ; failsAt++) {
      written = 0;
      const result = await doIt().then(
        () => undefined,
        (error: { kind: string; message: string }) => (error.kind === 'storage' ? error.kind : error.message),
      );
      if (result === undefined) break;
      faults++;
      // Looking on meets no fault.
      const next = failsAt;
      failsAt = 0;
      expect([key, faults, result]).toEqual([key, faults, 'storage']);
      expect([onDisk(), await answers()]).toEqual(before);
      expect(integrityCheck(stall.service.database).faults).toEqual([]);
      failsAt = next;
    }
    failsAt = 0;
    expect(faults).toBeGreaterThan(0);
    expect(integrityCheck(stall.service.database).faults).toEqual([]);
  });
});
