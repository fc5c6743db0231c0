/** A way to do each operation that writes, and what the answer says has moved: for loads that are held against it. */
import { ApiProblem } from '../../src/client/index.js';
import type { Client } from '../../src/client/index.js';
import type { Key } from '../../src/contract/index.js';
import type { EconomyDocument } from '../../src/core/document/index.js';
import type { Served } from './served.js';
import { POINT_PNG } from './stall.js';

export const LANES = 10;
export type Amounts = Record<string, number>;

/** An answer that does not hold. */
export class Disagreement extends Error {}

/** What the answers so far come to. */
export class Book {
  /** By `player ID` and `team ID`: what each has. Of who is gone there is nothing. */
  readonly held = new Map<string, Amounts>();
  /** By a name of its own, what else must be there: undefined for what must not. */
  readonly there = new Map<string, string | undefined>();
  /** How often each operation was answered well. */
  readonly answered = new Map<Key, number>();
  /** What must be answered in the same way when it is asked again, and do nothing. */
  repeats: { deed: Deed; held: Book['held'] }[] = [];

  /** Takes over what one more answer said. */
  take(key: Key, deed: Deed, { held, there }: Book): void {
    this.answered.set(key, (this.answered.get(key) ?? 0) + 1);
    for (const [holder, amounts] of held) this.add(holder, amounts);
    for (const [name, is] of there) this.there.set(name, is);
    // A refusal keeps no key: it may be otherwise the next time.
    if (ONCE.includes(key) && held.size > 0) this.repeats.push({ deed, held });
  }

  add(holder: string, amounts: Amounts | undefined, sign: 1 | -1 = 1): void {
    const held = this.held.get(holder) ?? {};
    this.held.set(holder, held);
    for (const [asset, units] of Object.entries(amounts ?? {})) held[asset] = (held[asset] ?? 0) + sign * units;
  }
}

/** One thing that a lane does, written into a book. It can be done again: then it finds out whether it was done, or is answered as before. */
export type Deed = (book: Book) => Promise<void>;

/** What is done once for its key, however often it is asked. */
const ONCE: readonly Key[] = [
  'POST /purchases',
  'POST /buybacks',
  'POST /openings',
  'POST /collections',
  'POST /uses',
  'POST /players/{player}/grants',
  'POST /players/{player}/events',
  'POST /teams/{team}/grants',
];

/** What a lane works with: its player and team, which stay, and a number that is never used twice. */
export interface Lane {
  lane: number;
  player: string;
  team: string;
  /** Of one thing: all calls of a deed have the same. */
  id: string;
  call: Client['call'];
  book: Book;
  served: Served;
  /**
   * What was chosen the first time. Who was not answered asks again for the same: what is gone by then was removed by the
   * first call, and nothing else may be removed in its place.
   */
  chosen: <T>(choose: () => Promise<T>) => Promise<T>;
}

const START = { shells: 10_000, pearls: 2 };

/** The same call for a thing that stays undone when it is refused. */
const allowed = async <T>(work: Promise<T>, kinds: readonly string[]): Promise<T | undefined> => {
  try {
    return await work;
  } catch (error) {
    if (error instanceof ApiProblem && kinds.includes(error.kind)) return undefined;
    throw error;
  }
};

const act = async (
  { player, id, call, book }: Lane,
  key: 'POST /buybacks' | 'POST /openings' | 'POST /collections',
  request: object,
): Promise<void> => {
  const answer = await call(key, { body: { player, ...request } as never, key: id });
  if (answer.verdict.allowed) {
    book.add(`player ${player}`, answer.verdict.takes, -1);
    book.add(`player ${player}`, answer.given);
  }
};

const revisionNow = async (call: Client['call']): Promise<number> =>
  (await call('GET /draft/revisions', { query: { limit: 1 } })).items[0]!.revision;

/** A save that says why, and is not done twice: the reason is its id. */
const save = async (lane: Lane, work: (revision: number, why: string) => Promise<unknown>): Promise<void> => {
  const { call, id, book } = lane;
  const done = async () =>
    (await call('GET /draft/revisions', { query: { limit: 50 } })).items.some(({ why }) => why === id);
  if (!(await done())) await work(await revisionNow(call), id);
  book.there.set(`save ${id}`, 'saved');
};

const BUSY = { shop: 'lantern_wagon', shelf: 'tonight' };

/** A way to do each operation that writes; `only` for one lane, where two would be in each other's way. */
export const DEEDS: Partial<Record<Key, { only?: number; do: (lane: Lane) => Promise<void> }>> = {
  'POST /purchases': {
    do: async ({ player, id, call, book }) => {
      const { verdict } = await call('POST /purchases', { body: { player, offer: 'wax_1' }, key: id });
      book.add(`player ${player}`, verdict.price!.total, -1);
      book.add(`player ${player}`, verdict.gives);
    },
  },
  'POST /players/{player}/grants': {
    do: async ({ player, id, call, book }) => {
      const { given, taken } = await call('POST /players/{player}/grants', {
        params: { player },
        body: {
          gives: { sea_glass: 3, drift_crate: 1, glide_wax: 2 },
          takes: { shells: 1, pearls: 9 },
          reason: id,
        },
        key: id,
      });
      book.add(`player ${player}`, given);
      book.add(`player ${player}`, taken, -1);
    },
  },
  'POST /players/{player}/events': {
    do: async ({ player, team, id, call, book }) => {
      const { events } = await call('POST /players/{player}/events', {
        params: { player },
        body: {
          events: [0, 1].map((part) => ({
            id: `${id} ${part}`,
            name: 'race_finished',
            fields: { place: 2, difficulty: 1 },
          })),
        },
      });
      for (const outcome of events.flatMap(({ outcomes }) => outcomes))
        if (outcome.paid) {
          book.add(`player ${player}`, outcome.given);
          book.add(`player ${player}`, outcome.taken, -1);
          book.add(`team ${team}`, outcome.shared?.[team]);
        }
    },
  },
  'POST /teams/{team}/grants': {
    do: async ({ team, id, call, book }) => {
      const { given, taken } = await call('POST /teams/{team}/grants', {
        params: { team },
        body: { gives: { pearls: 2 }, takes: { shells: 1 }, reason: id },
        key: id,
      });
      book.add(`team ${team}`, given);
      book.add(`team ${team}`, taken, -1);
    },
  },
  'POST /uses': {
    do: async ({ player, id, call, book }) => {
      const { uses } = await call('POST /uses', {
        body: { player, uses: [{ id, item: 'glide_wax' }] },
      });
      for (const { verdict, given } of uses)
        if (verdict.allowed) {
          book.add(`player ${player}`, verdict.takes, -1);
          book.add(`player ${player}`, given);
        }
    },
  },
  'POST /buybacks': { do: (lane) => act(lane, 'POST /buybacks', { item: 'sea_glass', shop: 'pier_stall' }) },
  'POST /openings': { do: (lane) => act(lane, 'POST /openings', { item: 'drift_crate' }) },
  'POST /collections': { do: (lane) => act(lane, 'POST /collections', { item: 'mussel_rope' }) },
  'POST /players': {
    do: async ({ id, call, book }) => {
      await allowed(call('POST /players', { body: { id: slug(id), name: id } }), ['already-there']);
      book.add(`player ${slug(id)}`, START);
    },
  },
  'DELETE /players/{player}': {
    do: async (lane) => {
      const { id, call, book } = lane;
      const player = slug(id);
      const made = await allowed(call('POST /players', { body: { id: player, name: id } }), ['already-there']);
      const gone = await allowed(call('DELETE /players/{player}', { params: { player } }), ['not-found']);
      if (made && gone) sameAmounts(`what ${player} lost`, START, gone.lost);
      book.there.set(`player ${player}`, undefined);
    },
  },
  'POST /teams': {
    do: async ({ id, call, book }) => {
      await allowed(call('POST /teams', { body: { id: slug(id), kind: 'side', name: id } }), ['already-there']);
      book.add(`team ${slug(id)}`, {});
      book.there.set(`team ${slug(id)}`, id);
    },
  },
  'PUT /teams/{team}/name': {
    do: async ({ team, id, call, book }) => {
      await call('PUT /teams/{team}/name', { params: { team }, body: { name: id } });
      book.there.set(`team ${team}`, id);
    },
  },
  'DELETE /teams/{team}': {
    do: async ({ id, call, book }) => {
      const team = slug(id);
      await allowed(call('POST /teams', { body: { id: team, kind: 'side', name: id } }), ['already-there']);
      const given = await allowed(
        call('POST /teams/{team}/grants', { params: { team }, body: { gives: { pearls: 5 }, reason: id }, key: id }),
        ['not-found'],
      );
      const gone = await allowed(call('DELETE /teams/{team}', { params: { team } }), ['not-found']);
      if (given && gone) sameAmounts(`what ${team} lost`, { pearls: 5 }, gone.lost);
      book.there.set(`team ${team}`, undefined);
    },
  },
  'PUT /teams/{team}/members/{player}': {
    do: async ({ team, player, call, book }) => {
      await call('PUT /teams/{team}/members/{player}', { params: { team, player } });
      book.there.set(`member ${player}`, team);
    },
  },
  'DELETE /teams/{team}/members/{player}': {
    do: async ({ team, player, call, book }) => {
      await allowed(call('DELETE /teams/{team}/members/{player}', { params: { team, player } }), ['team-refused']);
      book.there.set(`member ${player}`, undefined);
      await call('PUT /teams/{team}/members/{player}', { params: { team, player } });
      book.there.set(`member ${player}`, team);
    },
  },
  'POST /tokens': {
    do: async ({ id, call, book }) => {
      const { items } = await call('GET /tokens');
      if (!items.some(({ name }) => name === id)) await call('POST /tokens', { body: { name: id, role: 'read' } });
      book.there.set(`token ${id}`, 'read');
    },
  },
  'DELETE /tokens/{token}': {
    do: async ({ lane, call, book, chosen }) => {
      const of = (name: string) => new RegExp(`^l${lane} `).test(name);
      const one = await chosen(async () => (await call('GET /tokens')).items.find(({ name }) => of(name)));
      if (!one) return;
      await allowed(call('DELETE /tokens/{token}', { params: { token: one.id } }), ['not-found']);
      book.there.set(`token ${one.name}`, undefined);
    },
  },
  'PUT /pictures/{picture}': {
    do: async ({ lane, call, book }) => {
      const picture = `kite_${lane}.png`;
      await call('PUT /pictures/{picture}', {
        params: { picture },
        type: 'image/png',
        body: new Uint8Array(POINT_PNG).buffer,
      });
      book.there.set(`picture ${picture}`, 'image/png');
    },
  },
  'DELETE /pictures/{picture}': {
    do: async ({ lane, call, book }) => {
      const picture = `kite_${lane}.png`;
      await allowed(call('DELETE /pictures/{picture}', { params: { picture } }), ['not-found']);
      book.there.set(`picture ${picture}`, undefined);
    },
  },
  'PATCH /draft': {
    only: 0,
    do: (lane) =>
      save(lane, (revision, why) =>
        lane.call('PATCH /draft', {
          body: [{ op: 'replace', path: '/items/storm_frame/name', value: why }],
          revision,
          query: { why },
        }),
      ),
  },
  'PUT /draft': {
    only: 0,
    do: (lane) =>
      save(lane, async (revision, why) =>
        lane.call('PUT /draft', {
          body: { ...(await lane.call('GET /draft')).document, name: why },
          revision,
          query: { why },
        }),
      ),
  },
  'POST /draft/edits': {
    only: 0,
    do: (lane) =>
      save(lane, (revision, why) =>
        lane.call('POST /draft/edits', {
          body: { kind: 'set', pointer: '/items/oak_reel/name', value: why },
          revision,
          query: { why },
        }),
      ),
  },
  'POST /draft/sheets/{sheet}': {
    only: 0,
    do: (lane) =>
      save(lane, (revision, why) =>
        lane.call('POST /draft/sheets/{sheet}', {
          params: { sheet: 'items' },
          type: 'text/csv',
          body: `id,name\noak_reel,${why}\n`,
          revision,
          query: { why },
        }),
      ),
  },
  'POST /draft/import': {
    only: 0,
    do: (lane) =>
      save(lane, async (revision, why) =>
        lane.call('POST /draft/import', {
          body: { files: (await lane.call('GET /draft/export')).files },
          revision,
          query: { why },
        }),
      ),
  },
  'POST /draft/undo': {
    only: 0,
    do: async ({ call, book }) => {
      const { revision } = await call('POST /draft/undo', { body: { to: 1 }, revision: await revisionNow(call) });
      book.there.set(`revision ${revision}`, 'saved');
    },
  },
  'POST /releases': {
    only: 0,
    do: async ({ id, call, book }) => {
      const done = (await call('GET /releases', { query: { limit: 20 } })).items.some(({ note }) => note === id);
      if (!done) await call('POST /releases', { body: { note: id, channel: 'test' } });
      book.there.set(`release ${id}`, 'published');
      book.there.set('channel test', 'there');
    },
  },
  'PUT /channels/{channel}': {
    only: 1,
    do: async ({ call, book }) => {
      await call('PUT /channels/{channel}', {
        params: { channel: 'side' },
        body: { release: 1, at: '2099-01-01T09:00', note: 'later' },
      });
      book.there.set('channel side', 'there');
    },
  },
  'DELETE /channels/{channel}/moves/{move}': {
    only: 1,
    do: async ({ call, book }) => {
      const channel = { channel: 'side' };
      await call('PUT /channels/{channel}', { params: channel, body: { release: 1, at: '2099-01-02T09:00' } });
      const { coming } = (await call('GET /channels')).items.find(({ name }) => name === 'side')!;
      for (const { move } of coming)
        await allowed(call('DELETE /channels/{channel}/moves/{move}', { params: { ...channel, move } }), ['not-found']);
      // A channel that nothing has come on and nothing will is none.
      book.there.set('channel side', undefined);
    },
  },
  'DELETE /channels/{channel}': {
    only: 1,
    do: async ({ call, book }) => {
      await call('PUT /channels/{channel}', {
        params: { channel: 'side' },
        body: { release: 1, at: '2099-01-03T09:00' },
      });
      await allowed(call('DELETE /channels/{channel}', { params: { channel: 'side' }, query: { anyway: true } }), [
        'not-found',
      ]);
      book.there.set('channel side', undefined);
    },
  },
  'POST /rotations/{shop}/{shelf}/records': {
    only: 2,
    do: async ({ id, call, book }) => {
      const done = (await call('GET /rotations')).items.some(({ records }) => records.some(({ why }) => why === id));
      if (!done)
        await call('POST /rotations/{shop}/{shelf}/records', { params: BUSY, body: { redraw: true, why: id } });
      book.there.set(`record ${id}`, 'there');
    },
  },
  'DELETE /rotations/records/{record}': {
    only: 2,
    do: async ({ call, book, chosen }) => {
      const records = await chosen(async () => (await call('GET /rotations')).items.flatMap((one) => one.records));
      const [first] = records;
      if (!first) return;
      await allowed(call('DELETE /rotations/records/{record}', { params: { record: first.id } }), ['not-found']);
      if (records.filter(({ why }) => why === first.why).length === 1) book.there.set(`record ${first.why}`, undefined);
    },
  },
  'POST /runs': {
    only: 3,
    do: async ({ id, call, book }) => {
      const done = (await call('GET /runs', { query: { limit: 50 } })).items.some(({ name }) => name === id);
      if (!done) await call('POST /runs', { body: { scenario: 'racers_only', days: 1, players: 1, name: id } });
      book.there.set(`run ${id}`, 'there');
    },
  },
  'PATCH /runs/{run}': {
    only: 3,
    do: async ({ id, call, book, chosen }) => {
      const [run] = await chosen(async () => (await call('GET /runs', { query: { limit: 1 } })).items);
      if (!run) return;
      await call('PATCH /runs/{run}', { params: { run: run.id }, body: { name: id } });
      book.there.set(`run ${run.name}`, undefined);
      book.there.set(`run ${id}`, 'there');
    },
  },
  'DELETE /runs/{run}': {
    only: 3,
    do: async ({ call, book, chosen }) => {
      const ended = ({ status }: { status: string }) => !['waiting', 'running'].includes(status);
      const run = await chosen(async () => (await call('GET /runs', { query: { limit: 50 } })).items.find(ended));
      if (!run) return;
      await allowed(call('DELETE /runs/{run}', { params: { run: run.id } }), ['not-found']);
      book.there.set(`run ${run.name}`, undefined);
    },
  },
  'POST /session': {
    do: async (lane) => {
      await lane.call('POST /session', { body: { token: lane.served.token } });
      await sessionMust(lane, await sessionOpen(lane), 200);
    },
  },
  'DELETE /session': {
    do: async (lane) => {
      const cookie = await sessionOpen(lane);
      const headers = { Cookie: cookie, 'X-Dimestall-Console': '1' };
      await fetch(`${lane.served.url}/api/v1/session`, { method: 'DELETE', headers });
      await sessionMust(lane, cookie, 401);
      // Whoever has no session ends none.
      await lane.call('DELETE /session');
    },
  },
};

/** Signs in as the console does. Gives the cookie. */
async function sessionOpen({ served }: Lane): Promise<string> {
  const response = await fetch(`${served.url}/api/v1/session`, {
    method: 'POST',
    headers: { 'Content-Type': 'application/json' },
    body: JSON.stringify({ token: served.token }),
  });
  return response.headers.get('Set-Cookie')!.split(';')[0]!;
}

async function sessionMust({ served }: Lane, cookie: string, status: number): Promise<void> {
  const response = await fetch(`${served.url}/api/v1/session`, { headers: { Cookie: cookie } });
  if (response.status !== status)
    throw new Disagreement(`a session is answered with ${response.status}, not ${status}`);
}

const slug = (id: string): string => id.replace(/\W/g, '-');

/** What comes back by itself is not counted: nothing here pays with it. */
const UNCOUNTED = new Set(['breeze']);

export function sameAmounts(what: string, expected: Amounts, found: Amounts): void {
  const told = (amounts: Amounts): string =>
    JSON.stringify(
      Object.entries(amounts)
        .filter(([asset, units]) => units !== 0 && !UNCOUNTED.has(asset))
        .sort(),
    );
  if (told(expected) !== told(found))
    throw new Disagreement(`${what}: the answers come to ${told(expected)}, and it is ${told(found)}`);
}

/** A lane as its deeds see it, with one thing to do. */
export function laneOf(
  lane: number,
  id: string,
  served: Served,
  client = (): Client => served.client,
): Omit<Lane, 'book'> {
  let first: { is: unknown } | undefined;
  return {
    lane,
    player: `p${lane}`,
    team: `t${lane}`,
    id,
    // Whatever is served when it is asked: a service that starts again has another address.
    call: ((...asked: Parameters<Client['call']>) => client().call(...asked)) as Client['call'],
    served,
    chosen: async <T>(choose: () => Promise<T>) => (first ??= { is: await choose() }).is as T,
  };
}

/** Puts an economy on sale in which the load is not refused, and makes who is in it known. */
export async function begin(client: Client, book: Book, document: EconomyDocument, revision = 0): Promise<void> {
  document.currencies!['shells']!.start = START.shells;
  document.items!['glide_wax']!.carry = 1_000_000;
  document.items!['drift_crate']!.carry = 1_000_000;
  document.items!['sea_glass']!.carry = 1_000_000;
  document.items!['mussel_rope']!.yields!.every = 'PT1S';
  document.earning!['race_prize']!.share = { side: 0.3 };
  await client.call('PUT /draft', { body: document, revision });
  await client.call('POST /releases', { body: { note: 'for the load' } });
  for (let lane = 0; lane < LANES; lane++) {
    const [player, team] = [`p${lane}`, `t${lane}`];
    await client.call('POST /players', { body: { id: player } });
    await client.call('POST /teams', { body: { id: team, kind: 'side', name: team } });
    await client.call('PUT /teams/{team}/members/{player}', { params: { team, player } });
    await client.call('POST /players/{player}/grants', {
      params: { player },
      body: { gives: { mussel_rope: 1 }, reason: 'to collect from' },
      key: 'rope',
    });
    book.add(`player ${player}`, { ...START, mussel_rope: 1 });
    book.add(`team ${team}`, {});
  }
}
/** Carry, caps and the clock refuse now and then: then nothing is done, and nothing asked again. */
export const refusable = (work: Promise<void>): Promise<unknown> =>
  allowed(work, ['purchase-refused', 'act-refused', 'stale']);
