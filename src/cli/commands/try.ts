/** try: what events would do for a player, each rule, goal and track, and what an hour of it comes to. Nothing is kept. */
import { instantAsked, playerDescribed } from '../described.js';
import type { Command } from 'commander';
import { MOST_TRIED } from '../../contract/index.js';
import { unitsFormat } from '../../core/amount/index.js';
import { eventProblems, eventsTry } from '../../core/earning/index.js';
import type { Tried, TriedEvent } from '../../core/earning/index.js';
import type { Value } from '../../core/formula/index.js';
import { tryLineRead } from '../../core/earning/tryText.js';
import { countText, nearestName } from '../../core/issue/index.js';
import { documentLabels } from '../../core/texts/amounts.js';
import { goalWords, progressSentence, trackWords } from '../../core/texts/progress.js';
import { triedColumns, triedOtherwise } from '../../core/texts/tried.js';
import type { AssetLabels } from '../../core/texts/index.js';
import { UsageProblem, clientOf, wantsJson } from '../context.js';
import { folderLoad } from '../folder.js';
import { printTable } from '../output.js';
import { collect, parseFields, parseNumber } from '../parse.js';
import { colors, print, printJson } from '../print.js';
import { serviceEconomy } from '../source.js';
import { profileOf, whoOf, withWho } from '../who.js';
import type { WhoOptions } from '../who.js';

type TryOptions = WhoOptions & { times: number; then?: string[]; seed?: number; folder?: string };

export function addTryCommand(program: Command): void {
  withWho(
    program
      .command('try <event> [fields...]')
      .description(
        'what an event would do, such as: try race_finished place=3 difficulty=2 --times 20; nothing is kept',
      ),
  )
    .option('--times <n>', 'so often', parseNumber(1, MOST_TRIED), 1)
    .option('--then <event>', 'and another one after it, such as "beach_combed finds=2 x5"', collect)
    .option('--seed <n>', 'for the luck', parseNumber(0, 4_294_967_295))
    .option('--folder <folder>', 'on an economy folder, without a service')
    .action(async (event: string, fields: string[], options: TryOptions, command: Command) => {
      const { times, then = [] } = options;
      const events = [{ name: event, fields: parseFields(fields), times }, ...then.map(thenRead)];
      const { tried, labels } =
        options.folder === undefined
          ? await tryService(events, options, command)
          : tryFolder(events, options, options.folder);
      if (wantsJson(command)) printJson(tried);
      else printTried(tried, labels);
    });
}

function thenRead(text: string): TriedEvent {
  const { name, fields, times } = tryLineRead(text);
  return { name, fields: parseFields(Object.entries(fields).map((field) => field.join('='))), times };
}

interface Answer {
  tried: Tried;
  labels: AssetLabels;
}

async function tryService(events: TriedEvent[], options: TryOptions, command: Command): Promise<Answer> {
  const client = clientOf(command);
  const { source = 'live', at, seed } = options;
  const { labels } = await serviceEconomy(client, source);
  const tried = await client.call('POST /tries', {
    body: {
      events: events.map(({ name, fields, times }) => ({ name, fields: { ...fields }, times })),
      source,
      ...whoOf(options, labels),
      ...(at === undefined ? {} : { at }),
      ...(seed === undefined ? {} : { seed }),
    },
  });
  return { tried, labels };
}

function tryFolder(events: TriedEvent[], options: TryOptions, folder: string): Answer {
  if (options.player !== undefined)
    throw new UsageProblem('A folder has no players: describe one with --attribute and --holds.');
  const { document, economy } = folderLoad(folder);
  const labels = documentLabels(document);
  for (const { name, fields } of events) {
    const [problem] = eventProblems(economy, name, fields as Record<string, Value>);
    if (problem === undefined) continue;
    const near = economy.events.has(name) ? undefined : nearestName(name, economy.events.keys());
    throw new UsageProblem(`${name}: ${problem}.${near === undefined ? '' : ` Did you mean "${near}"?`}`);
  }
  const atMs = instantAsked(document.timeZone, options.at);
  const player = playerDescribed(economy, profileOf(options, labels), atMs);
  return { tried: eventsTry(economy, player, events, atMs, options.seed), labels };
}

function printTried(tried: Tried, labels: AssetLabels): void {
  const { events, minutes, rules, progress, net, perHour, goals, tracks } = tried;
  print(`${countText(events, 'event')}${minutes === null ? '' : `, ${Number(minutes.toFixed(1))} minutes of play`}\n`);
  if (rules.length === 0) print('No rule listens to these events.');
  else {
    const columns = triedColumns(labels, rules);
    printTable(
      ['rule', 'paid', ...columns.map(({ head }) => head), 'otherwise'],
      rules.map((rule) => [rule.name, rule.paid, ...columns.map(({ text }) => text(rule)), triedOtherwise(rule)]),
    );
  }
  if (progress.length > 0) print('');
  for (const one of progress) print(progressSentence(labels, one));
  print(`\n${colors.bold('It comes to')}`);
  printTable(
    ['', 'in all', ...(perHour ? ['an hour'] : [])],
    Object.entries(net).map(([asset, units]) => {
      const decimals = labels(asset)?.decimals ?? 0;
      return [
        labels(asset)?.name ?? asset,
        unitsFormat(units, decimals),
        ...(perHour ? [Number((perHour[asset]! / 10 ** decimals).toFixed(2))] : []),
      ];
    }),
  );
  const standing = [...tracks.map((one) => trackWords(labels, one)), ...goals.map((one) => goalWords(labels, one))];
  if (standing.length > 0) print(`\n${colors.bold('Afterwards')}\n${standing.join('\n')}`);
}
