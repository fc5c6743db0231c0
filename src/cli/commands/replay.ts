/** replay: recorded purchases against the draft or a folder: what would be refused now, and what each would cost. */
import { writeFileSync } from 'node:fs';
import type { Command } from 'commander';
import { countText } from '../../core/issue/index.js';
import { issueFinding } from '../../core/audit/index.js';
import { purchasesRecorded } from '../../client/index.js';
import { economyCompile } from '../../core/economy/index.js';
import { purchasesRead } from '../../core/log/index.js';
import { replayCsv, replayExamples, replayPurchases } from '../../core/replay/index.js';
import type { OfferReplayed, ReplayResult, Replayed } from '../../core/replay/index.js';
import { amountText, documentLabels } from '../../core/texts/amounts.js';
import type { AssetLabels } from '../../core/texts/index.js';
import { CommandRefused, clientOf, wantsJson } from '../context.js';
import { withReport } from '../report.js';
import { documentReported } from '../reported.js';
import { printTable, refusedFor } from '../output.js';
import { logText, wholeLog } from '../logFile.js';
import { print, printJson } from '../print.js';

interface ReplayOptions {
  folder?: string;
  source: string;
  by?: string;
  csv?: string;
  skipBroken?: boolean;
}

export function addReplayCommand(program: Command): void {
  withReport(
    program
      .command('replay [log]')
      .description(
        'recorded purchases on other prices: what would be refused now and why, and what it would cost; of a log (CSV or NDJSON), or those that the service keeps',
      ),
  )
    .option('--folder <folder>', 'against an economy folder, without a service')
    .option('--source <source>', 'against the draft, a channel or a release number', 'draft')
    .option('--by <attribute>', 'sums by the value of this attribute of the players too')
    .option('--csv <file>', 'save what becomes of each purchase')
    .option('--skip-broken', 'leave out lines that cannot be read; otherwise nothing is replayed')
    .action(async (log: string | undefined, options: ReplayOptions, command: Command) => {
      const { by, csv, skipBroken = false } = options;
      const document = await documentReported(options, command);
      const { economy, issues } = economyCompile(document);
      if (issues.length > 0) throw refusedFor(countText(issues.length, 'problem'), issues.map(issueFinding));
      const { purchases, broken, others } =
        log === undefined
          ? { purchases: await purchasesRecorded(clientOf(command)), broken: [], others: 0 }
          : wholeLog(log, purchasesRead(logText(log), document), skipBroken);
      if (purchases.length === 0)
        throw new CommandRefused(
          log === undefined
            ? 'Nothing was bought from this service yet. To replay another log, name its file.'
            : `${log} holds no purchase${others > 0 ? `: ${countText(others, 'line')} without an offer` : ''}. A purchase has player, at and offer.`,
        );
      const each: Replayed[] = [];
      const result = replayPurchases(economy, purchases, {
        ...(by === undefined ? {} : { by }),
        onEach: (one) => each.push(one),
      });
      if (csv !== undefined) writeFileSync(csv, replayCsv(economy, each));
      if (wantsJson(command)) printJson({ ...result, skipped: broken.length, others });
      else {
        const examples = replayExamples(economy, each, log === undefined ? 'purchase' : 'line');
        printReplay(documentLabels(document), result, examples, broken.length);
      }
      if (result.refused > 0)
        throw new CommandRefused(
          `${result.refused} of ${countText(result.purchases, 'purchase')} would be refused now.`,
        );
    });
}

function printReplay(
  labels: AssetLabels,
  { purchases, players, refused, offers, groups }: ReplayResult,
  examples: readonly string[],
  skipped: number,
): void {
  print(
    `${countText(purchases, 'purchase')} by ${countText(players, 'player')}: ${purchases - refused} would go through, ${refused} would be refused${skipped > 0 ? `; ${countText(skipped, 'line')} left out` : ''}.\n`,
  );
  const amounts = (basket: Readonly<Record<string, number>>): string =>
    Object.entries(basket)
      .map(([asset, units]) => amountText(labels, asset, units))
      .join(', ');
  const cells = (one: Omit<OfferReplayed, 'offer' | 'name'>): (string | number)[] => [
    one.recorded,
    Object.entries(one.refused)
      .map(([code, times]) => `${times} ${code}`)
      .join(', '),
    amounts(one.paid),
    amounts(one.cost),
    one.dearer,
    one.cheaper,
    one.same,
  ];
  const head = ['recorded', 'refused now', 'was paid', 'would cost', 'dearer', 'cheaper', 'same'];
  printTable(
    ['offer', ...head],
    offers.map((one) => [one.name, ...cells(one)]),
  );
  if (groups.length > 0) {
    print('');
    printTable(
      ['players', 'how many', ...head],
      groups.map((one) => [one.group, one.players, ...cells(one)]),
    );
  }
  if (examples.length > 0) print(`\nFor example:\n${examples.join('\n')}`);
}
