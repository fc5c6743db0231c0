/** team, ranking: who plays together, what they have come to, and who is first. */
import type { Command } from 'commander';
import { countText } from '../../core/issue/index.js';
import { amountText, basketText } from '../../core/texts/amounts.js';
import type { AssetLabels } from '../../core/texts/index.js';
import { goalWords } from '../../core/texts/progress.js';
import { instantText } from '../../core/texts/sentence.js';
import type { PlacedRow, RankingView, TeamView } from '../../contract/index.js';
import { clientOf, wantsJson } from '../context.js';
import { holdingsText, printTable } from '../output.js';
import { parseNumber } from '../parse.js';
import { colors, print, printJson } from '../print.js';
import { serviceEconomy } from '../source.js';
import { grantAsked, printMovements, withGrant } from './player.js';
import type { GrantOptions } from './player.js';

const MOST_LISTED = 500;

export function addTeamCommands(program: Command): void {
  const team = program.command('team').description('teams of players: made, joined, left, looked at');

  team
    .command('list')
    .description('the teams that there are')
    .option('--search <text>', 'part of an id or name')
    .option('--kind <kind>', 'only those of a kind')
    .action(listTeams);

  team
    .command('show [team]', { isDefault: true })
    .description('members, what it holds, and its goals; all teams, where none is named')
    .option('--ledger', 'with its movements')
    .action(async (id: string | undefined, { ledger }: { ledger?: true }, command: Command) => {
      if (id === undefined) return listTeams({}, command);
      const client = clientOf(command);
      const params = { team: id };
      const view = await client.call('GET /teams/{team}', { params });
      const movements = ledger
        ? (await client.call('GET /teams/{team}/ledger', { params, query: { limit: MOST_LISTED } })).items
        : undefined;
      if (wantsJson(command)) return printJson(movements ? { ...view, ledger: movements } : view);
      const { labels, zone } = await serviceEconomy(client, 'live');
      printTeam(view, labels, zone);
      if (movements) printMovements(movements, labels, zone);
    });

  team
    .command('make <team>')
    .description('make a team of a kind that the live release has')
    .requiredOption('--kind <kind>', 'what kind of team')
    .option('--name <text>', 'what players call it; its id otherwise')
    .action((id: string, { kind, name = id }: { kind: string; name?: string }, command: Command) =>
      told(command, async (client) => client.call('POST /teams', { body: { id, kind, name } }), 'is made'),
    );

  team
    .command('rename <team> <name>')
    .description('give it another name')
    .action((id: string, name: string, _: object, command: Command) =>
      told(
        command,
        (client) => client.call('PUT /teams/{team}/name', { params: { team: id }, body: { name } }),
        'is its name now',
      ),
    );

  team
    .command('join <team> <player>')
    .description('let a player join')
    .action((id: string, player: string, _: object, command: Command) =>
      told(
        command,
        (client) => client.call('PUT /teams/{team}/members/{player}', { params: { team: id, player } }),
        `has ${player}`,
      ),
    );

  team
    .command('leave <team> <player>')
    .description('let a player leave; what they earned for it stays')
    .action((id: string, player: string, _: object, command: Command) =>
      told(
        command,
        (client) => client.call('DELETE /teams/{team}/members/{player}', { params: { team: id, player } }),
        `is without ${player}`,
      ),
    );

  team
    .command('dissolve <team>')
    .description('end it: its members are in none, and what it held is lost')
    .action(async (id: string, _: object, command: Command) => {
      const client = clientOf(command);
      const gone = await client.call('DELETE /teams/{team}', { params: { team: id } });
      if (wantsJson(command)) printJson(gone);
      else print(`${id} is dissolved. Lost: ${holdingsText((await serviceEconomy(client, 'live')).labels, gone.lost)}`);
    });

  withGrant(
    team
      .command('grant <team> [amounts...]')
      .description('give it assets, such as: grant gulls shells=120 --reason "a prize"'),
  ).action(async (id: string, amounts: string[], options: GrantOptions, command: Command) => {
    const client = clientOf(command);
    const { labels, ...asked } = await grantAsked(client, amounts, options);
    const granted = await client.call('POST /teams/{team}/grants', { params: { team: id }, ...asked });
    if (wantsJson(command)) return printJson(granted);
    for (const [word, basket] of [
      ['Gave', granted.given],
      ['Took', granted.taken],
      ['Not there to take', granted.missed],
      ['More than an amount can be', granted.dropped],
    ] as const)
      if (Object.keys(basket).length > 0) print(`${word}: ${basketText(labels, basket)}`);
  });

  const ranking = program.command('ranking').description('who is first, and who is next');
  const at = ['--at <instant>', 'in an earlier period, of what goes by an amount earned'] as const;

  ranking
    .command('list')
    .description('what is ranked, and by what')
    .action((_: object, command: Command) => listRankings(command));

  ranking
    .command('show [ranking]', { isDefault: true })
    .description('places: who has the same has the same place; all rankings, where none is named')
    .option('--limit <number>', 'how many', parseNumber(1, MOST_LISTED), 20)
    .option(...at)
    .action(async (id: string | undefined, options: { limit: number; at?: string }, command: Command) => {
      if (id === undefined) return listRankings(command);
      const client = clientOf(command);
      const { limit } = options;
      const query = { limit, ...(options.at ? { at: options.at } : {}) };
      const places = await client.call('GET /rankings/{ranking}', { params: { ranking: id }, query });
      if (wantsJson(command)) return printJson(places);
      const { labels, zone } = await serviceEconomy(client, 'live');
      print(`${colors.bold(places.name)}, by ${byWords(places, labels)}${periodWords(places, zone)}`);
      if (places.items.length === 0) return print('Nobody has a place yet.');
      printPlaces(places.items, places, labels);
      if (places.of > places.items.length) print(`${places.of} have a place.`);
    });

  ranking
    .command('place <ranking> <who>')
    .description('the place of a player or team, with its neighbours')
    .option('--around <number>', 'how many before and after it', parseNumber(0, 50), 2)
    .option(...at)
    .action(async (id: string, who: string, options: { around: number; at?: string }, command: Command) => {
      const client = clientOf(command);
      const query = { around: options.around, ...(options.at ? { at: options.at } : {}) };
      const place = await client.call('GET /rankings/{ranking}/places/{who}', { params: { ranking: id, who }, query });
      if (wantsJson(command)) return printJson(place);
      const { labels } = await serviceEconomy(client, 'live');
      print(
        place.place === null
          ? `${who} has no place in ${place.name} yet: ${place.of === 1 ? 'one other has' : `${place.of} others have`}.`
          : `${who} has place ${place.place} of ${place.of} in ${place.name}.`,
      );
      if (place.around.length > 0) printPlaces(place.around, place, labels);
    });
}

async function listTeams({ search, kind }: { search?: string; kind?: string }, command: Command): Promise<void> {
  const query = { limit: MOST_LISTED, ...(search ? { search } : {}), ...(kind ? { kind } : {}) };
  const { items } = await clientOf(command).call('GET /teams', { query });
  if (wantsJson(command)) return printJson(items);
  if (items.length === 0) return print('There is no such team. Make one: dimestall team make <id> --kind <kind>');
  printTable(
    ['id', 'name', 'kind', 'members'],
    items.map((one) => [one.id, one.name, one.kind, one.members]),
  );
}

async function listRankings(command: Command): Promise<void> {
  const client = clientOf(command);
  const { items } = await client.call('GET /rankings');
  if (wantsJson(command)) return printJson(items);
  if (items.length === 0) return print('The live release has no rankings. Add one under rankings: in the economy.');
  const { labels, zone } = await serviceEconomy(client, 'live');
  printTable(
    ['id', 'name', 'of', 'by', 'until'],
    items.map((one) => [
      one.ranking,
      one.name,
      one.team ?? 'players',
      byWords(one, labels),
      one.endMs === null ? '' : instantText(zone, one.endMs),
    ]),
  );
}

async function told(
  command: Command,
  done: (client: ReturnType<typeof clientOf>) => Promise<TeamView>,
  words: string,
): Promise<void> {
  const view = await done(clientOf(command));
  if (wantsJson(command)) printJson(view);
  else print(`${view.name} ${words}. ${countText(view.members.length, 'member')}.`);
}

function printTeam(
  { id, name, kind, startedMs, most, members, holdings, goals }: TeamView,
  labels: AssetLabels,
  zone: string,
) {
  print(`${colors.bold(name)} (${id}), ${kind}, here since ${instantText(zone, startedMs)}`);
  print(`holds: ${holdingsText(labels, holdings)}`);
  for (const goal of goals) print(goalWords(labels, { ...goal, team: null }));
  print(`${members.length} of ${most ?? '?'} members${members.length > 0 ? ':' : ''}`);
  if (members.length > 0)
    printTable(
      ['player', 'name', 'since'],
      members.map(({ player, name: called, joinedMs }) => [player, called, instantText(zone, joinedMs)]),
    );
}

const byWords = ({ by, money, goal }: RankingView, labels: AssetLabels): string => {
  const name = money === null ? '' : (labels(money)?.name ?? money);
  return { balance: `${name} held`, earned: `${name} earned`, goal: `goal ${goal}` }[by];
};
const periodWords = ({ startMs, endMs }: RankingView, zone: string): string =>
  startMs === null || endMs === null ? '' : `, from ${instantText(zone, startMs)} until ${instantText(zone, endMs)}`;

const printPlaces = (rows: readonly PlacedRow[], { money }: RankingView, labels: AssetLabels): void =>
  printTable(
    ['place', 'id', 'name', 'score'],
    rows.map(({ place, who, name, score }) => [
      place,
      who,
      name,
      money === null ? score.toLocaleString('en') : amountText(labels, money, score),
    ]),
  );
