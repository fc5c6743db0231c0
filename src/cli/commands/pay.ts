/** pay: what every way of playing pays a minute, on the service's economy or a folder. */
import { attributesChecked } from '../described.js';
import type { Command } from 'commander';
import { countText } from '../../core/issue/index.js';
import { issueFinding } from '../../core/audit/index.js';
import { economyCompile } from '../../core/economy/index.js';
import type { Economy } from '../../core/economy/index.js';
import { activityWays, payScope, wayRows } from '../../core/simulation/index.js';
import type { WayRow } from '../../core/simulation/index.js';
import { amountText, documentLabels } from '../../core/texts/amounts.js';
import type { AssetLabels } from '../../core/texts/index.js';
import { wantsJson } from '../context.js';
import { withReport } from '../report.js';
import { documentReported } from '../reported.js';
import { printTable, refusedFor } from '../output.js';
import { collect, parseFields } from '../parse.js';
import { print, printJson } from '../print.js';

interface PayOptions {
  folder?: string;
  source: string;
  attribute?: string[];
}

export function addPayCommand(program: Command): void {
  withReport(
    program
      .command('pay')
      .description('what every way of playing pays a minute, the best first: choices, giving up early'),
  )
    .option('--folder <folder>', 'of an economy folder, without a service')
    .option('--source <source>', 'draft, a channel or a release number', 'draft')
    .option('--attribute <name=value>', 'of the player who plays, such as level=3', collect)
    .action(async ({ attribute = [], ...options }: PayOptions, command: Command) => {
      const document = await documentReported(options, command);
      const { economy, issues } = economyCompile(document);
      if (issues.length > 0) throw refusedFor(countText(issues.length, 'problem'), issues.map(issueFinding));
      const attributes = parseFields<string | number | boolean>(attribute);
      attributesChecked(economy, attributes);
      const scope = payScope(economy, attributes);
      const ways = [...economy.activities.values()].flatMap((activity) => activityWays(economy, activity, scope));
      const rows = wayRows(ways, [...economy.currencies.keys(), ...economy.items.keys()]);
      if (wantsJson(command)) printJson(rows);
      else if (rows.length === 0) print('No activity pays anything that can be earned again and again.');
      else {
        printWays(rows, documentLabels(document));
        printShared(economy, rows);
      }
    });
}

function printWays(rows: readonly WayRow[], labels: AssetLabels): void {
  const amount = ({ asset }: WayRow, units: number): string => amountText(labels, asset, Number(units.toPrecision(3)));
  printTable(
    ['activity', 'way', 'a minute, again and again', 'between', 'while limits last', 'limits', 'against its best way'],
    rows.map((row) => [
      row.activity,
      row.way,
      amount(row, row.mean),
      row.exact || row.mean === 0 ? '' : `${amount(row, row.low)} and ${amount(row, row.high)}`,
      amount(row, row.first),
      row.limited.join(', '),
      row.behind === 1 ? '' : `1 of ${row.behind.toFixed(1)}`,
    ]),
  );
}

/** What a team's share does to the figures. */
function printShared({ earning, teamKinds }: Economy, rows: readonly WayRow[]): void {
  for (const id of new Set(rows.flatMap(({ shared }) => shared))) {
    const { name, share } = earning.get(id)!;
    const parts = [...share].map(
      ([team, { numerator, denominator }]) =>
        `${(100 * Number(numerator)) / Number(denominator)} % of it goes to the ${teamKinds.get(team)!.name}`,
    );
    print(`${name} is told as for a player in no team; of a player in one, ${parts.join(', ')}.`);
  }
}
