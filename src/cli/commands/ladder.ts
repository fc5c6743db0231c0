/** ladder: prices in the order of their playing time, on the service's economy or a folder. */
import type { Command } from 'commander';
import { issueFinding } from '../../core/audit/index.js';
import type { EconomyDocument } from '../../core/document/index.js';
import { economyCompile } from '../../core/economy/index.js';
import { countText, nearestName } from '../../core/issue/index.js';
import { dayText, durationText, earningsOf, ladderOf, playingTimeText } from '../../core/playtime/index.js';
import type { Ladder, LadderWhere, PersonaEarnings, Rung } from '../../core/playtime/index.js';
import { basketText, documentLabels } from '../../core/texts/amounts.js';
import { UsageProblem, wantsJson } from '../context.js';
import { instantAsked } from '../described.js';
import { printTable, refusedFor } from '../output.js';
import { print, printJson } from '../print.js';
import { withReport } from '../report.js';
import { documentReported } from '../reported.js';

interface LadderOptions extends LadderWhere {
  folder?: string;
  source: string;
  persona?: string;
  at?: string;
}

export function addLadderCommand(program: Command): void {
  withReport(
    program
      .command('ladder')
      .description(
        'what every price takes in playing time, the least first, and how much longer each takes than the one before',
      ),
  )
    .option('--folder <folder>', 'of an economy folder, without a service')
    .option('--source <source>', 'draft, a channel or a release number', 'draft')
    .option('--persona <id>', 'who plays; the first by default')
    .option('--shop <id>', 'only what this shop sells')
    .option('--shelf <shop/shelf>', 'only what this shelf sells, such as pier_stall/frames')
    .option('--group <id>', 'only what gives items of this group')
    .option('--at <instant>', 'when somebody begins to play whom no scenario has; now by default')
    .action(async (options: LadderOptions, command: Command) => {
      const document = await documentReported(options, command);
      const { economy, issues } = economyCompile(document);
      if (issues.length > 0) throw refusedFor(countText(issues.length, 'problem'), issues.map(issueFinding));
      const where = whereAsked(document, options);
      const persona = personaAsked(document, options.persona);
      const earned = earningsOf(economy, persona, instantAsked(economy.zone, options.at));
      if (!earned.ok) throw new UsageProblem(earned.problem);
      const ladder = ladderOf(document, economy, earned.earnings, where);
      if (wantsJson(command)) printJson({ persona, players: earned.earnings.players, ...ladder });
      else printLadder(document, earned.earnings, ladder);
    });
}

/** One of `known`; whoever meant another is told which. */
function oneOf<T extends string>(what: string, written: T, known: readonly string[]): T {
  if (known.includes(written)) return written;
  const near = nearestName(written, known);
  throw new UsageProblem(
    `There is no ${what} "${written}". ${near === undefined ? `There are: ${known.join(', ') || 'none yet'}.` : `Did you mean "${near}"?`}`,
  );
}

function personaAsked({ personas = {} }: EconomyDocument, written: string | undefined): string {
  const known = Object.keys(personas);
  if (written !== undefined) return oneOf('persona', written, known);
  if (known[0] === undefined)
    throw new UsageProblem(
      'There is no persona yet: say who plays, in Simulate or in the section personas, and what they play.',
    );
  return known[0];
}

function whereAsked({ shops = {}, groups = {} }: EconomyDocument, { shop, shelf, group }: LadderOptions): LadderWhere {
  const shelves = Object.entries(shops).flatMap(([id, { shelves: all }]) =>
    Object.keys(all).map((one) => `${id}/${one}`),
  );
  return {
    ...(shop === undefined ? {} : { shop: oneOf('shop', shop, Object.keys(shops)) }),
    ...(shelf === undefined ? {} : { shelf: oneOf('shelf', shelf, shelves) }),
    ...(group === undefined ? {} : { group: oneOf('group', group, Object.keys(groups)) }),
  };
}

function printLadder(document: EconomyDocument, earnings: PersonaEarnings, { rungs, apart }: Ladder): void {
  const labels = documentLabels(document);
  if (rungs.length === 0) print('Nothing on sale is paid for by play.');
  else
    printTable(
      ['offer', 'price', 'minutes of play', 'earned', 'times the one before', 'all so far owned'],
      rungs.map((rung) => [
        rung.name,
        `${basketText(labels, rung.price)}${rung.byFormula ? ' (formula)' : ''}`,
        minutesCell(rung),
        rung.time.kind === 'earned' ? dayText(rung.time) : 'comes by itself',
        rung.factor === undefined ? '' : `x ${rung.factor.toFixed(rung.factor < 10 ? 2 : 0)}`,
        rung.ownedDay === undefined ? 'later' : `day ${rung.ownedDay}`,
      ]),
    );
  const last = rungs.at(-1);
  if (last) print(`${last.name}: ${playingTimeText(last.time, earnings.name, labels)}.`);
  print(saidOf(earnings));
  for (const why of new Set(apart.map((one) => one.why)))
    print(`Not on it, ${why}: ${apart.flatMap((one) => (one.why === why ? [one.name] : [])).join(', ')}.`);
}

function minutesCell({ time }: Rung): string {
  if (time.kind !== 'earned') return time.kind === 'waits' ? durationText(time.ms / 60_000) : '';
  const { mean, low, high } = time.minutes;
  return time.exact
    ? `${durationText(mean)} expected`
    : `${durationText(mean)} (${durationText(low)} to ${high === null ? 'more' : durationText(high)})`;
}

const saidOf = ({ name, players }: PersonaEarnings): string =>
  `For a ${name} who begins with nothing and buys nothing else${players === 0 ? '' : `; the days by which half of ${players} made-up players have earned it`}. Limits, requirements and stock are not in it.`;
