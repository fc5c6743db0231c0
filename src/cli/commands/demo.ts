/** demo: the service with the demo economy in it. */
import type { ChildProcess } from 'node:child_process';
import { mkdirSync, readFileSync } from 'node:fs';
import { createServer } from 'node:net';
import { join, resolve } from 'node:path';
import type { Command } from 'commander';
import type { EconomyDocument } from '../../core/document/index.js';
import { documentLabels } from '../../core/texts/amounts.js';
import { DateTime } from 'luxon';
import { parse } from 'yaml';
import { ApiProblem, Client } from '../../client/index.js';
import { packageRoot } from '../../packageRoot.js';
import { CommandRefused } from '../context.js';
import { folderLoad } from '../folder.js';
import { parseBasket, parseNumber } from '../parse.js';
import { print } from '../print.js';
import { exitOf, serviceProcess } from '../process.js';

const DEMO_FOLDER = join(packageRoot(), 'demo');

export function addDemoCommands(program: Command): void {
  program
    .command('demo')
    .description('run the service on Saltwind Cove, the demo economy')
    .option('--fresh', 'start over')
    .option('--port <number>', 'where to listen', parseNumber(0, 65_535), 4780)
    .option('--data <folder>', 'where the demo keeps its data', '.dimestall')
    .action(async ({ fresh, port, data }: { fresh?: boolean; port: number; data: string }) => {
      const folder = resolve(data);
      mkdirSync(folder, { recursive: true });
      const database = join(folder, 'demo.sqlite');
      if (!(await portIsFree(port)))
        throw new CommandRefused(`Port ${port} is in use. Stop what uses it, or choose another with --port.`);
      const access = join(folder, 'client.json');
      const child = serviceProcess(
        [
          'serve',
          '--data',
          database,
          '--port',
          String(port),
          '--token-file',
          access,
          '--log',
          'silent',
          ...(fresh ? ['--fresh'] : []),
        ],
        ['inherit', 'pipe', 'inherit'],
      );
      const ended = exitOf(child);
      const listens = listening(child);
      try {
        // While it starts, which takes longer.
        const { document } = folderLoad(join(DEMO_FOLDER, 'saltwind-cove'));
        if (!(await listens)) throw new CommandRefused('');
        const { url, token } = JSON.parse(readFileSync(access, 'utf8')) as { url: string; token: string };
        const isNew = await seed(new Client({ url, token }), document);
        print(
          `${isNew ? 'Saltwind Cove is set up' : 'Saltwind Cove is back, with its data as you left it'}. The console, with a way in:\n\n  ${url}/#token=${token}\n\nStop with Ctrl-C. Start over with: script/demo --fresh`,
        );
      } catch (error) {
        child.kill();
        throw error;
      }
      process.exitCode = await ended;
    });
}

function portIsFree(port: number): Promise<boolean> {
  return new Promise((resolve) => {
    const probe = createServer();
    probe.once('error', () => resolve(false));
    probe.listen(port, '127.0.0.1', () => probe.close(() => resolve(true)));
  });
}

/** True once the service says that it listens; false when it ended before. */
function listening(child: ChildProcess): Promise<boolean> {
  return new Promise((done) => {
    child.stdout!.on('data', (chunk: Buffer) => {
      if (chunk.toString().includes('listens on')) done(true);
    });
    child.on('exit', () => done(false));
  });
}

interface DemoTeam {
  id: string;
  kind: string;
  name: string;
  members: string[];
}

interface DemoPlayer {
  id: string;
  name: string;
  attributes: Record<string, number | string>;
  grants: Record<string, number>;
}

/** Publishes the demo economy and creates its players and teams, where they are not there yet; false when all was there. */
async function seed(client: Client, document: EconomyDocument): Promise<boolean> {
  const draft = await client.call('GET /draft');
  if (draft.revision === 0) {
    await client.call('PUT /draft', { body: document, revision: 0, query: { why: 'the demo economy' } });
    await client.call('POST /releases', { body: { note: 'Saltwind Cove opens' } });
    await client.call('PUT /channels/{channel}', {
      params: { channel: 'test' },
      body: { release: 1, note: 'as live' },
    });
    await scheduledRelease(client, document.timeZone);
  }
  const labels = documentLabels(document);
  const { players, teams } = parse(readFileSync(join(DEMO_FOLDER, 'players.yaml'), 'utf8')) as {
    players: DemoPlayer[];
    teams: DemoTeam[];
  };
  for (const { id, name, attributes, grants } of players) {
    if (!(await createdNow(client.call('POST /players', { body: { id, name, attributes } })))) continue;
    const gives = parseBasket(
      Object.entries(grants).map(([asset, amount]) => `${asset}=${amount}`),
      labels,
    );
    if (Object.keys(gives).length > 0)
      await client.call('POST /players/{player}/grants', {
        params: { player: id },
        body: { gives, reason: 'demo wallet' },
        key: 'demo-wallet',
      });
  }
  for (const { members, ...team } of teams) {
    if (!(await createdNow(client.call('POST /teams', { body: team })))) continue;
    for (const player of members)
      await client.call('PUT /teams/{team}/members/{player}', { params: { team: team.id, player } });
  }
  return draft.revision === 0;
}

/** A release that is to come on the channel "test" next Monday at nine; the draft is as it was afterwards. */
async function scheduledRelease(client: Client, zone: string): Promise<void> {
  const monday = DateTime.now().setZone(zone).plus({ weeks: 1 }).startOf('week').set({ hour: 9 });
  const limit = '/shops/festival_booth/shelves/ribbons/offers/festival_crate/limits/day';
  await client.call('PATCH /draft', {
    body: [{ op: 'replace', path: limit, value: 3 }],
    revision: 1,
    query: { why: 'a third festival crate a day, to try' },
  });
  await client.call('POST /releases', {
    body: { note: 'Three festival crates a day', channel: 'test', at: monday.toISO()! },
  });
  await client.call('POST /draft/undo', { body: { to: 1 }, revision: 2 });
}

/** False when the player or team was there before: it is the designer's by now, and is left alone. */
function createdNow(creation: Promise<unknown>): Promise<boolean> {
  return creation.then(
    () => true,
    (error: unknown) => {
      if (error instanceof ApiProblem && error.kind === 'already-there') return false;
      throw error;
    },
  );
}
