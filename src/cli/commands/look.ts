/** odds, where, flow, money: looking at the catalog from another side. */
import { playerDescribed } from '../described.js';
import { Argument } from 'commander';
import type { Command } from 'commander';
import { unitsFormat } from '../../core/amount/index.js';
import { THING_KINDS, usesOf } from '../../core/document/index.js';
import { assetFlow, moneyRows } from '../../core/catalog/index.js';
import type { AssetFlow, MoneyRow } from '../../core/catalog/index.js';
import type { ThingKind, Use } from '../../core/document/index.js';
import { moneyText } from '../../core/texts/index.js';
import type { AssetLabels } from '../../core/texts/index.js';
import { countText } from '../../core/issue/index.js';
import { boxOdds, lootOdds, togetherProblem } from '../../core/loot/index.js';
import type { LootOdds, OpeningsNeeded } from '../../core/loot/index.js';
import { playerScope } from '../../core/player/index.js';
import { documentLabels } from '../../core/texts/amounts.js';
import { UsageProblem, clientOf, wantsJson } from '../context.js';
import { folderLoad, notThere } from '../folder.js';
import { printTable } from '../output.js';
import { colors, print, printJson } from '../print.js';
import { collect, parseBasket, parseFields, parseOverrides } from '../parse.js';
import { serviceEconomy } from '../source.js';

interface OddsOptions {
  folder?: string;
  source?: string;
  player?: string;
  attribute?: string[];
  holds?: string[];
  set?: string[];
  together?: string[];
}

function folderOdds(folder: string, id: string, options: OddsOptions): { odds: LootOdds; labels: AssetLabels } {
  const { document, economy } = folderLoad(folder);
  const labels = documentLabels(document);
  const profile = { attributes: parseFields(options.attribute ?? []), holds: parseBasket(options.holds ?? [], labels) };
  const scope = playerScope(economy, playerDescribed(economy, profile, 0), 0);
  const table = economy.loot.get(id);
  const together = options.together ?? [];
  const wrong = togetherProblem(economy, together);
  if (wrong) throw new UsageProblem(`--together: ${wrong.problem}. ${wrong.fix}`);
  if (table) return { odds: lootOdds(economy, table, scope, {}, together), labels };
  const box = economy.items.get(id);
  if (box?.kind !== 'box') throw notThere('loot table or box', id, [...economy.loot.keys(), ...economy.items.keys()]);
  return { odds: boxOdds(economy, box, scope, together), labels };
}

const percent = (share: number): string => `${Number((share * 100).toPrecision(5))}%`;

const neededCells = ({ mean, half, nine, most }: OpeningsNeeded): (string | number)[] => [
  mean === null ? 'never' : Number(mean.toPrecision(5)),
  ...[half, nine, most].map((openings) => openings ?? 'never'),
];

function printOdds(odds: LootOdds, labels: AssetLabels): void {
  const { from, to } = odds.picks;
  print(
    `${colors.bold(odds.name)}: ${from === to ? countText(from, 'pick') : `${from} to ${to} picks`} an opening; nothing at all: ${percent(odds.nothing)}`,
  );
  if (odds.guarantee)
    print(
      `${odds.guarantee.entry} comes at the latest in opening ${odds.guarantee.within} without it; the long run counts that`,
    );
  if (odds.once.length > 0)
    print(`${odds.once.join(', ')}: once for each player; the long run is of the openings after that`);
  const expected = (asset: string, units: number) => {
    const decimals = labels(asset)?.decimals ?? 0;
    return decimals === 0 ? Number(units.toPrecision(5)) : unitsFormat(Math.round(units), decimals);
  };
  printTable(
    ['asset', 'chance', 'expected', 'long-run chance', 'long-run expected', 'openings: mean', '50%', '90%', '99%'],
    odds.assets.map(({ asset, chance, expected: mean, longRunChance, longRunExpected, openings }) => [
      labels(asset)?.name ?? asset,
      percent(chance),
      expected(asset, mean),
      percent(longRunChance),
      expected(asset, longRunExpected),
      ...neededCells(openings),
    ]),
  );
  if (!odds.together) return;
  const names = odds.together.assets.map((asset) => labels(asset)?.name ?? asset);
  print(`\n${colors.bold(`Until all are had: ${names.join(', ')}`)}`);
  printTable(['openings: mean', '50%', '90%', '99%'], [neededCells(odds.together)]);
}

/** What is priced and paid is found by the kind `asset`, whichever of them it is. */
const ASSETS = ['currency', 'item'] as const;
const isAsset = (kind: string): kind is (typeof ASSETS)[number] => ASSETS.some((one) => one === kind);

interface WhereOptions {
  folder?: string;
}

export function addLookCommands(program: Command): void {
  program
    .command('odds <table>')
    .description('the exact odds of a loot table or box, and how many openings players need')
    .option('--folder <folder>', 'of an economy folder, without a service')
    .option('--source <source>', 'draft, a channel or a release number', 'draft')
    .option('--player <id>', 'for a real player, whose conditions count')
    .option('--attribute <name=value>', 'of a made-up player', collect)
    .option('--holds <asset=amount>', 'what a made-up player has', collect)
    .option('--together <asset...>', 'and until all of these are had, such as --together silk_tail paper_tail')
    .option('--set <pointer=value>', 'with another weight, such as /loot/tide_finds/entries/rare/weight=30', collect)
    .action(async (id: string, options: OddsOptions, command: Command) => {
      const { odds, labels } =
        options.folder === undefined
          ? await serviceOdds(id, options, command)
          : folderOdds(options.folder, id, options);
      if (wantsJson(command)) printJson(odds);
      else printOdds(odds, labels);
    });

  program
    .command('where')
    .description('where a thing is used')
    .addArgument(new Argument('<kind>', 'what it is').choices([...THING_KINDS, ...ASSETS]))
    .argument('<id>')
    .option('--folder <folder>', 'in an economy folder instead of the draft')
    .action(
      async (named: ThingKind | (typeof ASSETS)[number], id: string, { folder }: WhereOptions, command: Command) => {
        const kind = isAsset(named) ? 'asset' : named;
        const uses: Use[] =
          folder === undefined
            ? (await clientOf(command).call('GET /draft/uses/{kind}/{id}', { params: { kind, id } })).items
            : usesOf(folderLoad(folder).document, { kind, id });
        if (wantsJson(command)) printJson(uses);
        else if (uses.length === 0) print('It is used nowhere.');
        else for (const { words, pointer } of uses) print(`${words}  ${colors.dim(pointer)}`);
      },
    );

  program
    .command('money')
    .description('real-money prices: gross, tax, what the store keeps, net')
    .option('--folder <folder>', 'of an economy folder, without a service')
    .option('--source <source>', 'draft, a channel or a release number', 'draft')
    .action(async ({ folder, source }: { folder?: string; source: string }, command: Command) => {
      const rows =
        folder === undefined
          ? (await clientOf(command).call('GET /money', { query: { source } })).items
          : moneyRows(folderLoad(folder).economy);
      if (wantsJson(command)) printJson(rows);
      else if (rows.length === 0) print('Nothing is sold for real money.');
      else printMoney(rows);
    });

  program
    .command('flow <asset>')
    .description('where a currency or item comes from, where it goes, what it buys')
    .option('--folder <folder>', 'of an economy folder, without a service')
    .option('--source <source>', 'draft, a channel or a release number', 'draft')
    .action(async (asset: string, { folder, source }: { folder?: string; source: string }, command: Command) => {
      const flow =
        folder === undefined
          ? await clientOf(command).call('GET /flows/{asset}', { params: { asset }, query: { source } })
          : folderFlow(folder, asset);
      if (wantsJson(command)) printJson(flow);
      else printFlow(flow);
    });
}

function folderFlow(folder: string, asset: string): AssetFlow {
  const { document, economy } = folderLoad(folder);
  const known = [...economy.currencies.keys(), ...economy.items.keys()];
  if (!known.includes(asset)) throw notThere('currency or item', asset, known);
  return assetFlow(document, economy, asset);
}

function printMoney(rows: readonly MoneyRow[]): void {
  printTable(
    ['offer', 'store', 'product', 'gross', 'tax', 'store keeps', 'net'],
    rows.map(({ offer, store, product, code, gross, tax, fee, net }) => [
      offer,
      store ?? 'none',
      product ?? '',
      ...[gross, tax, fee, net].map((units) => moneyText(code, units)),
    ]),
  );
  print('Tax, and what the store keeps unless its rounding says otherwise, are rounded up to the smallest unit.');
}

function printFlow({ name, sources, sinks, buys }: AssetFlow): void {
  for (const [title, lines] of [
    [`${name} comes from`, sources],
    ['goes to', sinks],
    ['buys', buys],
  ] as const) {
    print(`${colors.bold(title)}${lines.length === 0 ? ': nothing' : ''}`);
    for (const line of lines) print(`  ${line.name}: ${line.words}`);
  }
}

async function serviceOdds(
  id: string,
  options: OddsOptions,
  command: Command,
): Promise<{ odds: LootOdds; labels: AssetLabels }> {
  const client = clientOf(command);
  const source = options.source ?? 'draft';
  const { labels } = await serviceEconomy(client, source);
  const profile = { attributes: parseFields(options.attribute ?? []), holds: parseBasket(options.holds ?? [], labels) };
  const odds = await client.call('POST /odds', {
    body: {
      id,
      source,
      ...(options.player === undefined ? { profile } : { player: options.player }),
      ...(options.set ? { set: parseOverrides(options.set) } : {}),
      ...(options.together ? { together: options.together } : {}),
    },
  });
  return { odds, labels };
}
