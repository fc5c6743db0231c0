/** front, check, buy: what a player sees and may do. */
import { randomUUID } from 'node:crypto';
import type { Command } from 'commander';
import { ApiProblem } from '../../client/index.js';
import { unitsFormat } from '../../core/amount/index.js';
import { basketText, priceText } from '../../core/texts/amounts.js';
import { goalWords, progressSentence, trackWords } from '../../core/texts/progress.js';
import { instantText } from '../../core/texts/sentence.js';
import type { AssetLabels, ExplainedVerdict } from '../../core/texts/index.js';
import type { PurchaseRequest } from '../../core/trade/index.js';
import type { FrontChoice, OfferTold } from '../../core/storefront/index.js';
import type { FrontView, PurchaseAnswer } from '../../contract/index.js';
import { CommandRefused, UsageProblem, clientOf, wantsJson } from '../context.js';
import { printTable } from '../output.js';
import { colors, print, printJson } from '../print.js';
import { collect, parseBasket, parseNumber } from '../parse.js';
import { serviceEconomy } from '../source.js';
import { profileOf, whoOf, withWho } from '../who.js';
import type { WhoOptions } from '../who.js';
import type { Checked } from './checkFolder.js';

export function addTradeCommands(program: Command): void {
  withWho(
    program
      .command('front <shop>')
      .description('a shop as a player sees it, with a verdict for each offer')
      .option('--folder <folder>', 'of an economy folder, without a service')
      .option('--language <tag>', 'in the words of the player, such as en or pt'),
  ).action(async (shop: string, options: FrontOptions, command: Command) => {
    const { front, labels, zone } =
      options.folder === undefined
        ? await frontService(shop, options, command)
        : await frontFiles(shop, options, options.folder);
    if (wantsJson(command)) printJson(front);
    else printFront(front, labels, zone, options.folder);
  });

  withWho(program.command('check <offer>').description('may this player buy this, and why not? Nothing is bought'))
    .option('--times <n>', 'how often at once', parseNumber(1, Number.MAX_SAFE_INTEGER))
    .option('--pay <choice>', 'which price, where there are several')
    .option('--expect <asset=amount>', 'the total that the player was shown', collect)
    .option('--folder <folder>', 'check against an economy folder, without a service')
    .option('--language <tag>', 'the question and the refusals in the words of the player')
    .action(async (offer: string, options: CheckOptions, command: Command) => {
      const { verdict, labels, zone, told } =
        options.folder === undefined
          ? await checkService(offer, options, command)
          : await checkFiles(offer, options, options.folder);
      if (wantsJson(command)) printJson(verdict);
      else printVerdict(verdict, labels, zone);
      if (told && !wantsJson(command))
        for (const line of verdict.allowed ? [told.ask ?? ''] : told.refusals) print(`  "${line}"`);
      if (!verdict.allowed) throw new CommandRefused('refused');
    });

  program
    .command('buy <player> <offer>')
    .description('buy for a player')
    .option('--times <n>', 'how often at once', parseNumber(1, Number.MAX_SAFE_INTEGER))
    .option('--pay <choice>', 'which price, where there are several')
    .option('--expect <asset=amount>', 'refuse if the total is more than this', collect)
    .option('--key <text>', 'repeat with the same key to be sure that it happens once')
    .action(async (player: string, offer: string, options: CheckOptions & { key?: string }, command: Command) => {
      const client = clientOf(command);
      const { labels, zone } = await serviceEconomy(client, 'live');
      const answer = await client
        .call('POST /purchases', {
          body: { player, ...requestOf(offer, options, labels) },
          key: options.key ?? randomUUID(),
        })
        .catch((error: unknown): PurchaseAnswer | ExplainedVerdict => {
          const refused = error instanceof ApiProblem ? error.more('purchase-refused') : undefined;
          if (refused) return refused.verdict;
          throw error;
        });
      const verdict = 'purchase' in answer ? answer.verdict : answer;
      if (wantsJson(command)) printJson(answer);
      else {
        printVerdict(verdict, labels, zone);
        if ('purchase' in answer) {
          print(`Purchase ${answer.purchase}, under release ${answer.release}.`);
          for (const one of answer.progress ?? []) print(progressSentence(labels, one));
        }
      }
      if (!verdict.allowed) throw new CommandRefused('refused');
    });
}

type FrontOptions = WhoOptions & { folder?: string; language?: string };
type CheckOptions = FrontOptions & { times?: number; pay?: string; expect?: string[] };

function requestOf(offer: string, { times, pay, expect }: CheckOptions, labels: AssetLabels): PurchaseRequest {
  return {
    offer,
    ...(times === undefined ? {} : { times }),
    ...(pay === undefined ? {} : { pay }),
    ...(expect ? { expect: parseBasket(expect, labels) } : {}),
  };
}

async function checkService(offer: string, options: CheckOptions, command: Command): Promise<Checked> {
  const client = clientOf(command);
  const { labels, zone } = await serviceEconomy(client, options.source ?? 'live');
  const { verdicts } = await client.call('POST /checks', {
    body: {
      checks: [
        {
          ...requestOf(offer, options, labels),
          ...whoOf(options, labels),
          ...(options.at === undefined ? {} : { at: options.at }),
        },
      ],
      source: options.source,
      language: options.language,
    },
  });
  const { told, ...verdict } = verdicts[0]!;
  return { verdict, told, labels, zone };
}

async function checkFiles(offer: string, options: CheckOptions, folder: string): Promise<Checked> {
  const { checkFolder } = await import('./checkFolder.js');
  return checkFolder(
    folder,
    madeUp(options, (labels) => ({ request: requestOf(offer, options, labels) })),
  );
}

interface FrontAsked {
  front: FrontView;
  labels: AssetLabels;
  zone: string;
}

async function frontService(shop: string, options: FrontOptions, command: Command): Promise<FrontAsked> {
  const client = clientOf(command);
  const { labels, zone } = await serviceEconomy(client, options.source ?? 'live');
  const front = await client.call('GET /shops/{shop}/front', {
    params: { shop },
    query: {
      ...whoOf(options, labels),
      at: options.at,
      source: options.source,
      ...(options.language === undefined ? {} : { language: options.language }),
    },
  });
  return { front, labels, zone };
}

async function frontFiles(shop: string, options: FrontOptions, folder: string): Promise<FrontAsked> {
  const { frontFolder } = await import('./checkFolder.js');
  return frontFolder(
    folder,
    shop,
    madeUp(options, () => ({})),
  );
}

/** A question on files: they have no players, so one is made up. */
function madeUp<T>({ player, at, language, ...options }: FrontOptions, more: (labels: AssetLabels) => T) {
  if (player !== undefined)
    throw new UsageProblem('A folder has no players: describe one with --attribute and --holds.');
  const read = (labels: AssetLabels) => ({ ...more(labels), profile: profileOf(options, labels) });
  return { at, language, read };
}

function printFront(front: FrontView, labels: AssetLabels, zone: string, folder: string | undefined): void {
  const from = folder ?? (front.release === null ? 'draft' : `release ${front.release}`);
  print(
    `${colors.bold(front.name)} for ${front.player === 'profile' ? 'a made-up player' : front.player} at ${instantText(zone, front.atMs)} (${from})`,
  );
  print(`has ${front.wallet ?? basketText(labels, front.balances)}`);
  for (const shelf of front.shelves) {
    print(`\n${colors.bold(shelf.name)}${shelf.rotates ? `, until ${instantText(zone, shelf.rotates.untilMs)}` : ''}`);
    printTable(
      ['offer', 'name', 'price', 'verdict'],
      shelf.offers.map(({ id, name, badge, choices, verdict, told }) => [
        id,
        badge ? `${name} [${badge}]` : name,
        choices.map((choice) => choiceText(labels, choice, told)).join(' or ') || 'no price',
        verdict.allowed
          ? colors.green(told?.ask ?? 'can buy')
          : colors.yellow((told?.refusals ?? verdict.reasons.map(({ sentence }) => sentence)).join(' ')),
      ]),
    );
  }
  print();
  if (front.affordable.length > 0) print(`Can buy now, best first: ${front.affordable.join(', ')}`);
  if (front.nextGoal)
    print(`Next to save for: ${front.nextGoal.offer}, short of ${basketText(labels, front.nextGoal.short)}`);
  for (const track of front.tracks) print(track.told ?? trackWords(labels, track));
  for (const goal of front.goals) if (!goal.reached) print(goal.told ?? goalWords(labels, goal));
}

function choiceText(labels: AssetLabels, choice: FrontChoice, told: OfferTold | undefined): string {
  const now = told?.prices[choice.pay] ?? priceText(labels, choice);
  const before = choice.before && (told?.before[choice.pay] ?? basketText(labels, choice.before));
  return before === undefined ? now : `${now} (instead of ${before})`;
}

function printVerdict(verdict: ExplainedVerdict, labels: AssetLabels, zone: string): void {
  print(
    `${verdict.allowed ? colors.green('Allowed') : colors.red('Refused')}: ${verdict.times > 1 ? `${verdict.times} times ` : ''}${verdict.name}, at ${instantText(zone, verdict.atMs)}`,
  );
  for (const { code, sentence } of verdict.reasons) print(`  ${colors.yellow(code)}: ${sentence}`);
  if (verdict.price) {
    const inputs = verdict.price.inputs.map(({ name, value }) => `${name} = ${String(value)}`).join(', ');
    print(`  price: ${priceText(labels, verdict.price)}${inputs ? ` (${inputs})` : ''}`);
    const { sale, passedOver = [], base, expected } = verdict.price;
    if (expected) print(`  less than was shown: ${basketText(labels, expected)}`);
    if (sale)
      print(
        `  sale: ${sale.name}, ${basketText(labels, sale.price)} instead of ${basketText(labels, base)}${sale.endsMs === null ? '' : `, until ${instantText(zone, sale.endsMs)}`}`,
      );
    for (const other of passedOver)
      print(`  ${other.name} runs too, and would make it ${basketText(labels, other.price)}`);
  } else if (verdict.choices.length > 1)
    for (const choice of verdict.choices) print(`  --pay ${choice.pay}: ${priceText(labels, choice)}`);
  if (Object.keys(verdict.gives).length > 0) print(`  gives: ${basketText(labels, verdict.gives)}`);
  if (Object.keys(verdict.before).length > 0)
    printTable(
      ['', 'before', 'after'],
      Object.keys(verdict.before).map((asset) => [
        `  ${labels(asset)?.name ?? asset}`,
        amountOnly(labels, asset, verdict.before[asset]!),
        amountOnly(labels, asset, verdict.after[asset]!),
      ]),
    );
  for (const { period, most, used, resetsMs } of verdict.limits)
    print(
      `  limit per ${period}: ${used} of ${most} used${resetsMs === null ? '' : `, starts again ${instantText(zone, resetsMs)}`}`,
    );
  if (verdict.stock)
    print(
      `  stock: ${verdict.stock.left} left${verdict.stock.scope === 'player' ? ' for this player' : ''}${verdict.stock.restocksMs === null ? '' : `, more at ${instantText(zone, verdict.stock.restocksMs)}`}`,
    );
}

const amountOnly = (labels: AssetLabels, asset: string, units: number): string =>
  unitsFormat(units, labels(asset)?.decimals ?? 0);
