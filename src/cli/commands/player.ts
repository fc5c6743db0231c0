/** event, grant, player: what the game reports and what support sees and does. */
import { randomUUID } from 'node:crypto';
import type { Command } from 'commander';
import { amountText, basketText } from '../../core/texts/amounts.js';
import { goalWords, progressSentence, trackWords } from '../../core/texts/progress.js';
import { instantText } from '../../core/texts/sentence.js';
import { ApiProblem } from '../../client/index.js';
import type { Client } from '../../client/index.js';
import type { Basket } from '../../core/amount/index.js';
import type { AssetLabels } from '../../core/texts/index.js';
import type { EventAnswer, GrantAnswer, MovementRow, PlayerView } from '../../contract/index.js';
import { UsageProblem, clientOf, wantsJson } from '../context.js';
import { holdingsText, printTable } from '../output.js';
import { colors, print, printJson } from '../print.js';
import { collect, parseBasket, parseFields, parseNumber } from '../parse.js';
import { serviceEconomy } from '../source.js';

export interface GrantOptions {
  take?: string[];
  reason: string;
  key?: string;
}

/** What every command has that gives and takes. */
export const withGrant = (command: Command): Command =>
  command
    .option('--take <asset=amount>', 'take instead', collect)
    .requiredOption('--reason <text>', 'why, for the record')
    .option('--key <text>', 'repeat with the same key to be sure that it happens once');

export async function grantAsked(
  client: Client,
  amounts: readonly string[],
  { take = [], reason, key = randomUUID() }: GrantOptions,
): Promise<{ labels: AssetLabels; body: { gives: Basket; takes: Basket; reason: string }; key: string }> {
  if (amounts.length + take.length === 0)
    throw new UsageProblem('Name what to give, such as shells=120, or what to --take.');
  const { labels } = await serviceEconomy(client, 'live');
  return { labels, body: { gives: parseBasket(amounts, labels), takes: parseBasket(take, labels), reason }, key };
}

export function addPlayerCommands(program: Command): void {
  program
    .command('event <player> <event> [fields...]')
    .description('report a game event, such as: event mateo race_finished place=1 difficulty=2')
    .option('--id <text>', "the event's own id: a repeat changes nothing")
    .action(
      async (
        player: string,
        event: string,
        fields: string[],
        { id = randomUUID() }: { id?: string },
        command: Command,
      ) => {
        const client = clientOf(command);
        const { events } = await client.call('POST /players/{player}/events', {
          params: { player },
          body: { events: [{ id, name: event, fields: parseFields(fields) }] },
        });
        if (wantsJson(command)) printJson(events);
        else printEvent(events[0]!, (await serviceEconomy(client, 'live')).labels);
      },
    );

  withGrant(
    program
      .command('grant <player> [amounts...]')
      .description('give assets, such as: grant mateo shells=120 --reason "lost race"'),
  ).action(async (player: string, amounts: string[], options: GrantOptions, command: Command) => {
    const client = clientOf(command);
    const { labels, ...asked } = await grantAsked(client, amounts, options);
    const answer = await client.call('POST /players/{player}/grants', { params: { player }, ...asked });
    if (wantsJson(command)) printJson(answer);
    else printGrant(answer, labels);
  });

  program
    .command('player [id]')
    .description('look at a player, make one known, or erase one; or list them')
    .option('--search <text>', 'part of an id or name')
    .option('--create', 'create the player')
    .option('--name <text>', 'with --create: the display name')
    .option('--attribute <name=value>', 'with --create: an attribute', collect)
    .option('--ledger <n>', 'the last n movements', parseNumber(1, 500))
    .option('--erase', 'erase the player: all but the ledger is gone for good, and the id is not used again')
    .option('--reason <text>', 'with --erase: why, for the record')
    .action(
      async (
        id: string | undefined,
        options: {
          search?: string;
          create?: boolean;
          name?: string;
          attribute?: string[];
          ledger?: number;
          erase?: boolean;
          reason?: string;
        },
        command: Command,
      ) => {
        const client = clientOf(command);
        if (options.erase) {
          if (options.create) throw new UsageProblem('Either --create a player or --erase one.');
          if (id === undefined) throw new UsageProblem('Name the player to erase, such as: player mateo --erase');
          const gone = await client.call('DELETE /players/{player}', {
            params: { player: id },
            query: { reason: options.reason },
          });
          if (wantsJson(command)) printJson(gone);
          else
            print(
              `${id} is erased. Lost: ${holdingsText((await serviceEconomy(client, 'live')).labels, gone.lost)}. The ledger stays.`,
            );
          return;
        }
        if (id === undefined) {
          const { items } = await client.call('GET /players', { query: { search: options.search, limit: 500 } });
          if (wantsJson(command)) printJson(items);
          else if (items.length === 0) print('No player matches.');
          else
            printTable(
              ['id', 'name'],
              items.map((row) => [row.id, row.name]),
            );
          return;
        }
        const player = options.create
          ? await client.call('POST /players', {
              body: {
                id,
                ...(options.name ? { name: options.name } : {}),
                attributes: parseFields(options.attribute ?? []),
              },
            })
          : await client.call('GET /players/{player}', { params: { player: id } }).catch((problem: unknown) => {
              // Of who was erased there is the ledger.
              if (options.ledger !== undefined && problem instanceof ApiProblem && problem.kind === 'not-found')
                return problem;
              throw problem;
            });
        const movements = options.ledger === undefined ? [] : await lastMovements(client, id, options.ledger);
        if (player instanceof ApiProblem) {
          if (wantsJson(command)) return printJson({ id, movements });
          const { labels, zone } = await serviceEconomy(client, 'live');
          print(player.message);
          return printMovements(movements, labels, zone);
        }
        if (wantsJson(command)) {
          printJson(options.ledger === undefined ? player : { ...player, movements });
          return;
        }
        const { labels, zone } = await serviceEconomy(client, String(player.release));
        printPlayer(player, labels, zone);
        printMovements(movements, labels, zone);
      },
    );
}

async function lastMovements(client: ReturnType<typeof clientOf>, id: string, count: number): Promise<MovementRow[]> {
  let last: MovementRow[] = [];
  let cursor: number | undefined;
  do {
    const page = await client.call('GET /players/{player}/ledger', {
      params: { player: id },
      query: { limit: 500, ...(cursor === undefined ? {} : { cursor }) },
    });
    last = [...last, ...page.items].slice(-count);
    cursor = page.next === null ? undefined : Number(page.next);
  } while (cursor !== undefined);
  return last;
}

const SKIPPED = {
  when: 'its condition does not hold',
  chance: 'not this time',
  limit: 'its limit is reached',
  cooldown: 'it is still cooling down',
  formula: 'its formula failed',
} as const;

function printEvent({ id, repeated, outcomes, progress = [] }: EventAnswer, labels: AssetLabels): void {
  if (repeated) print(`Event ${id} was handled before: nothing changed. What it did then:`);
  if (outcomes.length === 0) print('No rule listens to this event.');
  for (const outcome of outcomes) {
    if (!outcome.paid && outcome.why !== 'kept-out') {
      print(`${outcome.rule}: nothing, ${SKIPPED[outcome.why]}${outcome.problem ? ` (${outcome.problem})` : ''}`);
      continue;
    }
    const shared = outcome.paid ? Object.entries(outcome.shared ?? {}) : [];
    const parts = [
      ['gave', outcome.paid ? outcome.given : {}],
      ...shared.map(([team, basket]) => [`gave the team ${team}`, basket] as const),
      ['took', outcome.paid ? outcome.taken : {}],
      ['could not take', outcome.paid ? outcome.missed : {}],
    ] as const;
    print(
      `${outcome.rule}: ${
        parts
          .filter(([, basket]) => Object.keys(basket).length > 0)
          .map(([word, basket]) => `${word} ${basketText(labels, basket)}`)
          .join(', ') || 'nothing'
      }`,
    );
    for (const { sentence } of outcome.keptOut) print(`  ${sentence}`);
  }
  for (const one of progress) print(progressSentence(labels, one));
}

function printGrant({ given, taken, missed, keptOut, progress = [] }: GrantAnswer, labels: AssetLabels): void {
  for (const [word, basket] of [
    ['Gave', given],
    ['Took', taken],
    ['Not there to take', missed],
  ] as const)
    if (Object.keys(basket).length > 0) print(`${word}: ${basketText(labels, basket)}`);
  for (const { sentence } of keptOut) print(sentence);
  for (const one of progress) print(progressSentence(labels, one));
}

function printPlayer(player: PlayerView, labels: AssetLabels, zone: string): void {
  print(`${colors.bold(player.name)} (${player.id}), here since ${instantText(zone, player.startedMs)}`);
  print(
    `attributes: ${
      Object.entries(player.attributes)
        .map(([name, value]) => `${name} ${String(value)}`)
        .join(', ') || 'none'
    }`,
  );
  print(
    `wallet: ${holdingsText(labels, Object.fromEntries(Object.entries(player.balances).map(([id, { units }]) => [id, units])))}`,
  );
  if (player.teams.length > 0) print(`teams: ${player.teams.map(({ name }) => name).join(', ')}`);
  for (const track of player.tracks) print(trackWords(labels, track));
  for (const goal of player.goals) print(goalWords(labels, goal));
  printTable(
    ['slot', 'item', 'units', 'place', 'from'],
    player.stacks.map(({ slot, item, units, place, cause }) => [slot, labels(item)?.name ?? item, units, place, cause]),
  );
}

export function printMovements(movements: readonly MovementRow[], labels: AssetLabels, zone: string): void {
  if (movements.length === 0) return;
  print();
  printTable(
    ['when', 'what', 'from', 'to', 'cause'],
    movements.map(({ atMs, asset, units, fromAccount, toAccount, cause }) => [
      instantText(zone, atMs),
      amountText(labels, asset, units),
      fromAccount,
      toAccount,
      cause,
    ]),
  );
}
