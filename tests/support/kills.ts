/** A service that is killed again and again under a mixed load: what it answered is there, once, and nothing disagrees. */
import { ApiProblem } from '../../src/client/index.js';
import type { Client } from '../../src/client/index.js';
import { integrityCheck } from '../../src/service/index.js';
import { databaseRead } from '../../src/service/store/database.js';
import { demoDocument } from './economy.js';
import { Served } from './served.js';

/** Asks again for what was answered, and gives that in the same words. */
type Again = (client: Client) => Promise<unknown>;
interface Answered {
  what: string;
  said: unknown;
  again: Again;
}

const PLAYERS = Array.from({ length: 12 }, (_, index) => `p${index}`);

/** One thing to do under each name, with its number; each gives what was said and the way to ask again. */
const LOAD: Record<string, (client: Client, id: string, key: string) => Promise<{ said: unknown; again: Again }>> = {
  purchase: async (client, player, key) => {
    const buy = async (by: Client) =>
      (await by.call('POST /purchases', { body: { player, offer: 'wax_1' }, key })).purchase;
    return { said: await buy(client), again: buy };
  },
  grant: async (client, player, key) => {
    const give = async (by: Client) =>
      (
        await by.call('POST /players/{player}/grants', {
          params: { player },
          body: { gives: { shells: 20, glide_wax: 1 }, reason: 'kill test' },
          key,
        })
      ).given;
    return { said: await give(client), again: give };
  },
  event: async (client, player, key) => {
    const report = async (by: Client) =>
      (
        await by.call('POST /players/{player}/events', {
          params: { player },
          body: { events: [{ id: key, name: 'race_finished', fields: { place: 2, difficulty: 1 } }] },
        })
      ).events[0]!.outcomes;
    return { said: await report(client), again: report };
  },
  teamGrant: async (client, _, key) => {
    const give = async (by: Client) =>
      (
        await by.call('POST /teams/{team}/grants', {
          params: { team: 'gulls' },
          body: { gives: { pearls: 2 }, takes: { shells: 1 }, reason: 'kill test' },
          key,
        })
      ).grant;
    return { said: await give(client), again: give };
  },
  use: async (client, player, key) => {
    const use = async (by: Client) => {
      const [used] = (await by.call('POST /uses', { body: { player, uses: [{ id: key, item: 'glide_wax' }] } })).uses;
      return used!.act;
    };
    const said = await use(client);
    // A refusal keeps no key: it may be otherwise the next time.
    return said === 0 ? { said, again: () => Promise.resolve(0) } : { said, again: use };
  },
  player: async (client, _, key) => {
    const id = key.replace(/\W/g, '-');
    const { startedMs } = await client.call('POST /players', { body: { id } });
    const again = async (by: Client) => (await by.call('GET /players/{player}', { params: { player: id } })).startedMs;
    return { said: startedMs, again };
  },
  save: async (client, _, key) => {
    const { revision } = await client.call('GET /draft');
    const patch = [{ op: 'replace', path: '/items/storm_frame/name', value: key }];
    const saved = await client.call('PATCH /draft', { body: patch, revision, query: { why: key } });
    const again = async (by: Client) =>
      (await by.call('GET /draft/revisions/{revision}', { params: { revision: saved.revision } })).why;
    return { said: saved.why, again };
  },
  token: async (client, _, key) => {
    const { token } = await client.call('POST /tokens', { body: { name: key, role: 'read' } });
    const again = async (by: Client) =>
      (await by.call('GET /tokens')).items.some(({ name }) => name === key) ? token : undefined;
    return { said: token, again };
  },
};

/** Rounds of load that end with a kill after a number of answers that differs from round to round. Gives how many answers there were; throws where one is missing. */
export async function kills(rounds: number): Promise<number> {
  const served = new Served();
  const answered: Answered[] = [];
  try {
    await served.start();
    const document = demoDocument();
    document.currencies!['shells']!.start = 20_000;
    document.items!['glide_wax']!.carry = 1_000_000;
    document.items!['glide_wax']!.stack = 10_000;
    document.earning!['race_prize']!.share = { side: 0.3 };
    await served.client.call('PUT /draft', { body: document, revision: 0 });
    await served.client.call('POST /releases', { body: { note: 'for the load' } });
    await served.client.call('POST /teams', { body: { id: 'gulls', kind: 'side', name: 'Gulls' } });
    for (const player of PLAYERS) {
      await served.client.call('POST /players', { body: { id: player } });
      await served.client.call('PUT /teams/{team}/members/{player}', { params: { team: 'gulls', player } });
    }
    for (let round = 0; round < rounds; round++) {
      const target = answered.length + 20 + ((round * 37) % 90);
      await Promise.all(PLAYERS.map((id, lane) => loadUntilDead(served, `${id} ${round}`, id, lane, answered, target)));
      await served.stop('SIGKILL');
      await served.start();
    }
    for (const { what, said, again } of answered) {
      const now = await again(served.client);
      if (JSON.stringify(now) !== JSON.stringify(said))
        throw new Error(`${what} was answered with ${JSON.stringify(said)} and is ${JSON.stringify(now)} now`);
    }
    await served.stop();
    const database = databaseRead(served.data);
    const { faults } = integrityCheck(database);
    database.close();
    if (faults.length > 0) throw new Error(faults.join('\n'));
    return answered.length;
  } finally {
    await served.end();
  }
}

async function loadUntilDead(
  served: Served,
  begin: string,
  id: string,
  lane: number,
  answered: Answered[],
  target: number,
): Promise<void> {
  const { client } = served;
  // One designer is enough: two would only tell each other who was first.
  const kinds = Object.entries(LOAD).filter(([kind]) => kind !== 'save' || lane === 0);
  for (let press = 0; ; press++) {
    const [kind, load] = kinds[(press + lane) % kinds.length]!;
    const what = `${kind} ${begin} ${press}`;
    try {
      answered.push({ what, ...(await load(client, id, what)) });
    } catch (error) {
      // Others save too; whoever was later is told, and saves the next time.
      if (error instanceof ApiProblem && error.kind === 'stale') continue;
      if (error instanceof ApiProblem) throw error;
      return;
    }
    if (answered.length === target) void served.stop('SIGKILL');
  }
}
