/** A way to ask each operation that writes nothing, so that it is answered well. */
import { WRITING } from './writing.js';
import { KEYS } from '../../src/contract/index.js';
import type { Client } from '../../src/client/index.js';
import type { Key, StreamKey } from '../../src/contract/index.js';

const PLAYER = { player: 'p1' };

/** Runs that are over, which the load makes. */
async function runsDone(client: Client): Promise<number[]> {
  const { items } = await client.call('GET /runs', { query: { limit: 50 } });
  const done = items.filter(({ status }) => status === 'done').map(({ id }) => id);
  if (done.length > 0) return done;
  const { id } = await client.call('POST /runs', { body: { scenario: 'racers_only', days: 1, players: 1 } });
  await client.watchRun(id);
  return [id];
}

/** Opens a stream, and ends it once it is open. */
async function opened(client: Client, key: StreamKey, params: object): Promise<void> {
  const stop = new AbortController();
  await client
    .listen(key, { params } as never, () => undefined, { signal: stop.signal, onOpen: () => stop.abort() })
    .catch((error: unknown) => {
      if (!stop.signal.aborted) throw error;
    });
}

export const ASKS: Partial<Record<Key, (client: Client) => Promise<unknown>>> = {
  'GET /draft': (client) => client.call('GET /draft'),
  'GET /draft/audit': (client) => client.call('GET /draft/audit'),
  'GET /cases': (client) => client.call('GET /cases', { query: { source: 'live' } }),
  'POST /cases/proposals': (client) =>
    client.call('POST /cases/proposals', { body: { offers: ['storm_frame', 'wax_1'] } }),
  'GET /draft/changes': (client) => client.call('GET /draft/changes', { query: { against: 'live' } }),
  'GET /draft/revisions': (client) => client.call('GET /draft/revisions', { query: { limit: 3 } }),
  'GET /draft/revisions/{revision}': (client) =>
    client.call('GET /draft/revisions/{revision}', { params: { revision: 1 } }),
  'GET /draft/export': (client) => client.call('GET /draft/export'),
  'GET /draft/sheets/{sheet}': (client) => client.call('GET /draft/sheets/{sheet}', { params: { sheet: 'items' } }),
  'GET /draft/uses/{kind}/{id}': (client) =>
    client.call('GET /draft/uses/{kind}/{id}', { params: { kind: 'loot', id: 'rare_finds' } }),
  'GET /flows/{asset}': (client) => client.call('GET /flows/{asset}', { params: { asset: 'shells' } }),
  'POST /draft/formula': (client) =>
    client.call('POST /draft/formula', { body: { formula: '=level * 3', gives: 'number', ...PLAYER } }),
  'GET /draft/values': (client) => client.call('GET /draft/values', { query: PLAYER }),
  'GET /money': (client) => client.call('GET /money', { query: { source: 'live' } }),
  'POST /odds': (client) => client.call('POST /odds', { body: { id: 'drift_crate', together: ['sea_glass'] } }),
  'GET /pictures': (client) => client.call('GET /pictures'),
  'GET /pictures/{picture}': (client) => client.call('GET /pictures/{picture}', { params: { picture: 'kept.png' } }),
  'GET /releases': (client) => client.call('GET /releases', { query: { limit: 3 } }),
  'GET /releases/{release}': (client) => client.call('GET /releases/{release}', { params: { release: 1 } }),
  'GET /sources/{source}': (client) => client.call('GET /sources/{source}', { params: { source: 'live' } }),
  'GET /channels': (client) => client.call('GET /channels'),
  'GET /channels/{channel}/moves': (client) =>
    client.call('GET /channels/{channel}/moves', { params: { channel: 'live' } }),
  'GET /calendar': (client) => client.call('GET /calendar', { query: { from: '2027-03-01', to: '2027-03-09' } }),
  'GET /calendar.ics': (client) =>
    client.call('GET /calendar.ics', { query: { from: '2027-03-01', to: '2027-03-09' } }),
  'GET /rotations': (client) => client.call('GET /rotations', { query: PLAYER }),
  'GET /stream': (client) => opened(client, 'GET /stream', {}),
  'GET /shops': (client) => client.call('GET /shops', { query: { source: 'draft' } }),
  'GET /shops/{shop}/front': (client) =>
    client.call('GET /shops/{shop}/front', { params: { shop: 'pier_stall' }, query: { ...PLAYER, language: 'pt' } }),
  'POST /checks': (client) =>
    client.call('POST /checks', { body: { checks: [{ offer: 'wax_1', times: 2, ...PLAYER }], language: 'en' } }),
  'POST /rehearsals': (client) =>
    client.call('POST /rehearsals', { body: { seed: 4, steps: [{ buy: 'wax_1' }, { wait: 'PT1H' }] } }),
  'GET /purchases': (client) => client.call('GET /purchases', { query: { limit: 2 } }),
  'GET /players': (client) => client.call('GET /players', { query: { search: 'p', limit: 3 } }),
  'GET /players/{player}': (client) => client.call('GET /players/{player}', { params: PLAYER }),
  'GET /players/{player}/ledger': (client) =>
    client.call('GET /players/{player}/ledger', { params: PLAYER, query: { limit: 3 } }),
  'POST /tries': (client) =>
    client.call('POST /tries', {
      body: { ...PLAYER, seed: 1, events: [{ name: 'race_finished', fields: { place: 1, difficulty: 2 }, times: 3 }] },
    }),
  'GET /teams': (client) => client.call('GET /teams', { query: { kind: 'side', limit: 3 } }),
  'GET /teams/{team}': (client) => client.call('GET /teams/{team}', { params: { team: 't1' } }),
  'GET /teams/{team}/ledger': (client) => client.call('GET /teams/{team}/ledger', { params: { team: 't1' } }),
  'GET /rankings': (client) => client.call('GET /rankings', { query: { channel: 'live' } }),
  'GET /rankings/{ranking}': (client) =>
    client.call('GET /rankings/{ranking}', { params: { ranking: 'flyers_of_the_week' }, query: { limit: 2 } }),
  'GET /rankings/{ranking}/places/{who}': (client) =>
    client.call('GET /rankings/{ranking}/places/{who}', { params: { ranking: 'flyers_of_the_week', who: 'p1' } }),
  'GET /runs': (client) => client.call('GET /runs', { query: { limit: 2 } }),
  'GET /runs/{run}': async (client) => {
    const [run] = await runsDone(client);
    await client.call('GET /runs/{run}', { params: { run: run! } });
  },
  'GET /runs/{run}/result': async (client) => {
    const [run] = await runsDone(client);
    await client.call('GET /runs/{run}/result', { params: { run: run! } });
  },
  'GET /runs/{run}/progress': async (client) => {
    const [run] = await runsDone(client);
    await opened(client, 'GET /runs/{run}/progress', { run });
  },
  'GET /comparisons': async (client) => {
    const [run] = await runsDone(client);
    await client.call('GET /comparisons', { query: { before: run!, after: String(run) } });
  },
  'GET /session': (client) => client.call('GET /session'),
  'GET /tokens': (client) => client.call('GET /tokens'),
  'GET /trail': (client) => client.call('GET /trail', { query: { limit: 3 } }),
};

/** Everything that is neither done nor asked here. */
export const UNASKED = KEYS.filter((key) => !WRITING.includes(key) && ASKS[key] === undefined);
