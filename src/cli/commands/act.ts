/** sell, use, open, collect: what players do with what they hold. */
import { randomUUID } from 'node:crypto';
import type { Command } from 'commander';
import { ApiProblem } from '../../client/index.js';
import type { Client } from '../../client/index.js';
import { ITEM_ACTS } from '../../core/document/itemKinds.js';
import { basketText } from '../../core/texts/amounts.js';
import { progressSentence } from '../../core/texts/progress.js';
import type { AssetLabels } from '../../core/texts/index.js';
import type { ActVerdict } from '../../core/trade/index.js';
import type { ActAnswer } from '../../contract/index.js';
import { CommandRefused, clientOf, wantsJson } from '../context.js';
import { colors, print, printJson } from '../print.js';
import { collect, parseBasket, parseNumber } from '../parse.js';
import { serviceEconomy } from '../source.js';

interface ActOptions {
  times?: number;
  expect?: string[];
  key?: string;
  preview?: boolean;
}
/** What was done, or the verdict that refused it. */
type Answer = ActAnswer | Pick<ActAnswer, 'verdict'>;

const times = parseNumber(1, Number.MAX_SAFE_INTEGER);

/** The answer, or the verdict of a refusal. */
async function answered(promise: Promise<Answer>): Promise<Answer> {
  return promise.catch((error: unknown) => {
    const refused = error instanceof ApiProblem ? error.more('act-refused') : undefined;
    if (refused) return { verdict: refused.verdict };
    throw error;
  });
}

async function finish(client: Client, promise: Promise<Answer>, command: Command): Promise<void> {
  const answer = await answered(promise);
  if (wantsJson(command)) printJson(answer);
  else printAct(answer, (await serviceEconomy(client, 'live')).labels);
  if (!answer.verdict.allowed) throw new CommandRefused('refused');
}

function doneWords(act: ActVerdict['act']): string {
  const { done } = { sell: { done: 'sold' }, ...ITEM_ACTS }[act];
  return `${done[0]!.toUpperCase()}${done.slice(1)}`;
}

function printAct(answer: Answer, labels: AssetLabels): void {
  const { verdict } = answer;
  const what = `${verdict.times > 1 ? `${verdict.times} ` : ''}${verdict.name}`;
  if (!verdict.allowed) {
    print(`${colors.red('Refused')}: ${verdict.act} ${what}`);
    for (const { code, sentence } of verdict.reasons) print(`  ${colors.yellow(code)}: ${sentence}`);
    return;
  }
  // Of a preview nothing is known but what would come for certain.
  const done = 'act' in answer && answer.act > 0 ? answer : undefined;
  print(
    done ? `${colors.green(doneWords(verdict.act))} ${what}` : `${colors.green('Allowed')}: ${verdict.act} ${what}`,
  );
  if (Object.keys(verdict.takes).length > 0) print(`  takes: ${basketText(labels, verdict.takes)}`);
  if (verdict.expected) print(`  more than was shown: ${basketText(labels, verdict.expected)}`);
  const gives = done?.given ?? verdict.gives;
  if (Object.keys(gives).length > 0) print(`  gives: ${basketText(labels, gives)}`);
  for (const { sentence } of done?.keptOut ?? []) print(`  ${sentence}`);
  for (const one of done?.progress ?? []) print(`  ${progressSentence(labels, one)}`);
  for (const [attribute, value] of Object.entries(done?.set ?? {})) print(`  ${attribute} is now ${String(value)}`);
}

export function addActCommands(program: Command): void {
  program
    .command('sell <player> <item> <shop>')
    .description('sell what a player holds back to a shop')
    .option('--times <n>', 'how many', times)
    .option('--expect <asset=amount>', 'refuse if it pays less than this', collect)
    .option('--preview', 'what it would pay; nothing is sold')
    .option('--key <text>', 'repeat with the same key to be sure that it happens once')
    .action(async (player: string, item: string, shop: string, options: ActOptions, command: Command) => {
      const client = clientOf(command);
      const { labels } = await serviceEconomy(client, 'live');
      const body = {
        player,
        item,
        shop,
        ...(options.times === undefined ? {} : { times: options.times }),
        ...(options.expect ? { expect: parseBasket(options.expect, labels) } : {}),
      };
      await finish(
        client,
        options.preview
          ? client.call('POST /buybacks', { body, query: { preview: true } })
          : client.call('POST /buybacks', { body, key: options.key ?? randomUUID() }),
        command,
      );
    });

  program
    .command('use <player> <item>')
    .description('use something: uses are counted, attributes and roles change, what it gives arrives')
    .option('--times <n>', 'how often', times)
    .option('--key <text>', 'repeat with the same key to be sure that it counts once')
    .action(async (player: string, item: string, options: ActOptions, command: Command) => {
      const client = clientOf(command);
      const use = { id: options.key ?? randomUUID(), item, ...(options.times ? { times: options.times } : {}) };
      await finish(
        client,
        client.call('POST /uses', { body: { player, uses: [use] } }).then(({ uses }) => uses[0]!),
        command,
      );
    });

  program
    .command('open <player> <item>')
    .description('open boxes')
    .option('--times <n>', 'how many', times)
    .option('--key <text>', 'repeat with the same key to be sure that it happens once')
    .action(async (player: string, item: string, options: ActOptions, command: Command) => {
      const client = clientOf(command);
      const request = { item, ...(options.times ? { times: options.times } : {}) };
      await finish(
        client,
        client.call('POST /openings', { body: { player, ...request }, key: options.key ?? randomUUID() }),
        command,
      );
    });

  program
    .command('collect <player> <item>')
    .description('collect what an item has yielded')
    .option('--key <text>', 'repeat with the same key to be sure that it happens once')
    .action(async (player: string, item: string, options: ActOptions, command: Command) => {
      const client = clientOf(command);
      await finish(
        client,
        client.call('POST /collections', { body: { player, item }, key: options.key ?? randomUUID() }),
        command,
      );
    });
}
