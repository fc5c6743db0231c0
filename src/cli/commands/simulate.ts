/** simulate and compare: on the service, or on a folder and on saved results. */
import { existsSync, writeFileSync } from 'node:fs';
import { freemem } from 'node:os';
import type { Command } from 'commander';
import { unitsFormat } from '../../core/amount/index.js';
import {
  METRIC_WORDS,
  dayShown,
  distanceText,
  figureText,
  flowSums,
  memoryProblem,
  scenarioResolve,
  simulateEngine,
  simulationCompare,
} from '../../core/simulation/index.js';
import type { Difference, ScenarioOptions, SimulationResult } from '../../core/simulation/index.js';
import { issueFinding } from '../../core/audit/index.js';
import { CommandRefused, UsageProblem, clientOf, wantsJson } from '../context.js';
import { fileJson } from '../file.js';
import { folderLoad } from '../folder.js';
import { printTable, progressBar, refusedFor } from '../output.js';
import { colors, print, printJson } from '../print.js';
import { collect, parseNumber, parseOverrides } from '../parse.js';

interface SimulateOptions {
  folder?: string;
  source: string;
  days?: number;
  players?: number;
  seed?: number;
  set?: string[];
  out?: string;
}

export function addSimulationCommands(program: Command): void {
  program
    .command('simulate <scenario>')
    .description('let made-up players play a scenario and see what prices do')
    .option('--folder <folder>', 'run on an economy folder, without a service')
    .option('--source <source>', 'draft, a channel or a release number', 'draft')
    .option('--days <n>', "instead of the scenario's", parseNumber(1, 3650))
    .option('--players <n>', "instead of the scenario's", parseNumber(1, 1_000_000))
    .option('--seed <n>', "instead of the scenario's", parseNumber(0, 4_294_967_295))
    .option(
      '--set <pointer=value>',
      'change one thing for this run, such as /items/storm_frame/worth/shells=900',
      collect,
    )
    .option('--out <file>', 'save the result as JSON')
    .action(async (scenario: string, options: SimulateOptions, command: Command) => {
      const { result, run } =
        options.folder === undefined
          ? await simulateService(scenario, options, command)
          : simulateFolder(scenario, options);
      if (options.out) writeFileSync(options.out, `${JSON.stringify(result)}\n`);
      if (wantsJson(command)) printJson(result);
      else printResult(result, run);
    });

  program
    .command('compare <before> <after>')
    .description(
      'two runs on the same luck, by run number or result file: what differs, and can it be told from chance?',
    )
    .action(async (before: string, after: string, _options: object, command: Command) => {
      const comparison =
        /^\d+$/.test(before) && /^\d+$/.test(after)
          ? await clientOf(command).call('GET /comparisons', {
              query: { before: Number(before), after: Number(after) },
            })
          : simulationCompare(savedResult(before), savedResult(after));
      if (wantsJson(command)) printJson(comparison);
      else if (comparison.comparable) printDifferences(comparison.differences);
      if (!comparison.comparable) throw new CommandRefused(`These runs cannot be compared: ${comparison.why}.`);
    });
}

const scenarioOptions = ({ days, players, seed, set }: SimulateOptions): ScenarioOptions => ({
  ...(days === undefined ? {} : { days }),
  ...(players === undefined ? {} : { players }),
  ...(seed === undefined ? {} : { seed }),
  ...(set ? { set: parseOverrides(set) } : {}),
});

function simulateFolder(scenario: string, options: SimulateOptions): { result: SimulationResult; run?: number } {
  const setup = scenarioResolve(folderLoad(options.folder!).document, scenario, scenarioOptions(options));
  if (!setup.ok) throw refusedFor('the scenario cannot be run', setup.issues.map(issueFinding));
  const tooLarge = memoryProblem(setup.value, freemem());
  if (tooLarge !== undefined) throw new UsageProblem(`${tooLarge}.`);
  const bar = progressBar(setup.value.name, Date.now);
  const result = simulateEngine(setup.value, { onDay: (day, days) => bar.update(day, days) });
  bar.stop();
  return { result };
}

async function simulateService(
  scenario: string,
  options: SimulateOptions,
  command: Command,
): Promise<{ result: SimulationResult; run: number }> {
  const client = clientOf(command);
  const started = await client.call('POST /runs', {
    body: { scenario, ...scenarioOptions(options), source: options.source },
  });
  const bar = progressBar(started.name, Date.now);
  const cancel = () => {
    void client.call('DELETE /runs/{run}', { params: { run: started.id } });
  };
  process.once('SIGINT', cancel);
  const run = await client.watchRun(started.id, ({ day, days }) => bar.update(day, days));
  process.off('SIGINT', cancel);
  bar.stop();
  if (run.status !== 'done')
    throw new CommandRefused(`Run ${run.id} ${run.status}${run.error ? `: ${run.error}` : ''}.`);
  return { result: await client.call('GET /runs/{run}/result', { params: { run: run.id } }), run: run.id };
}

function savedResult(file: string): SimulationResult {
  if (!existsSync(file))
    throw new UsageProblem(`There is no file "${file}". Name two run numbers, or two files written by simulate --out.`);
  const result = fileJson(file) as SimulationResult | null;
  if (result?.version !== 1 || !Array.isArray(result.personas))
    throw new UsageProblem(`"${file}" is not a result of simulate --out.`);
  return result;
}

const whole = (units: number, decimals: number): string => unitsFormat(Math.round(units), decimals);

function printResult(result: SimulationResult, run?: number): void {
  const { totals, personas, days, name, seed } = result;
  print(
    `${colors.bold(name)}${run === undefined ? '' : ` (run ${run})`}: ${personas.reduce((sum, persona) => sum + persona.players, 0)} players, ${days} days, seed ${seed}; ${totals.events} events, ${totals.purchases} purchases`,
  );
  print(`\n${colors.bold('Wallets on the last day')} (5th, 50th and 95th percentile)`);
  printTable(['persona', 'players left', 'currency', 'p5', 'median', 'p95', 'mean'], lastBalances(result));
  print(`\n${colors.bold('Money in and out')} (all players, all days)`);
  printTable(['currency', 'way', 'by', 'sum', 'share'], topFlows(result));
  print(
    `\n${colors.bold('Days until owned')} (median day; the first is day 1; players who leave are not counted as never)`,
  );
  const { items } = result;
  printTable(
    ['item', 'persona', 'owners', 'median', '95% interval'],
    items.item.flatMap((_, row) =>
      items.owners[row]! > 0
        ? [
            [
              items.name[row]!,
              personas[items.persona[row]!]!.name,
              `${items.owners[row]} of ${items.n[row]}`,
              dayCell(items.median[row]!, '-'),
              items.medianLow[row] === null
                ? 'later'
                : `${dayCell(items.medianLow[row]!, '')} to ${dayCell(items.medianHigh[row]!, 'later')}`,
            ],
          ]
        : [],
    ),
  );
  print(`\n${colors.bold('Offers')}`);
  const { offers } = result;
  printTable(
    ['offer', 'bought', 'by players', 'first day', 'wanted but refused (player-days)'],
    offers.offer.map((_, row) => [
      offers.name[row]!,
      offers.times[row]!,
      offers.players[row]!,
      dayCell(offers.firstDay[row]!, '-'),
      Object.entries(offers.refused[row]!)
        .map(([code, count]) => `${code} ${count}`)
        .join(', '),
    ]),
  );
}

const dayCell = (day: number | null, none: string): string | number => (day === null ? none : dayShown(day));

function lastBalances({ balances, personas, currencies, days }: SimulationResult): (string | number)[][] {
  return balances.day.flatMap((day, row) => {
    if (day !== days - 1) return [];
    const currency = currencies[balances.currency[row]!]!;
    const show = (value: number | null) => (value === null ? '-' : whole(value, currency.decimals));
    return [
      [
        personas[balances.persona[row]!]!.name,
        balances.n[row]!,
        currency.name,
        show(balances.p5[row]!),
        show(balances.p50[row]!),
        show(balances.p95[row]!),
        show(balances.mean[row]!),
      ],
    ];
  });
}

/** The five largest ways in and out of each currency. */
function topFlows(result: SimulationResult): (string | number)[][] {
  const rows: (string | number)[][] = [];
  for (const [currency, { name, decimals }] of result.currencies.entries()) {
    for (const direction of ['in', 'out'] as const) {
      const sums = flowSums(result, currency, direction);
      const total = sums.reduce((sum, { units }) => sum + units, 0);
      for (const { cause, units } of sums.slice(0, 5))
        rows.push([name, direction, cause, whole(units, decimals), `${((100 * units) / total).toFixed(1)}%`]);
    }
  }
  return rows;
}

function printDifferences(differences: readonly Difference[]): void {
  const told = differences.filter(({ distinguishable }) => distinguishable);
  if (told.length === 0) {
    print('No difference can be told from chance.');
    return;
  }
  print(
    `${told.length} of ${differences.length} figures differ by more than chance (95% intervals of paired differences):\n`,
  );
  printTable(
    ['persona', 'figure', 'of', 'before', 'after', 'difference', 'from', 'to', 'pairs'],
    told.map((one) => [
      one.persona,
      METRIC_WORDS[one.metric],
      one.subject,
      figureText(one, one.before),
      figureText(one, one.after),
      distanceText(one, one.difference),
      distanceText(one, one.low),
      distanceText(one, one.high),
      one.pairs,
    ]),
  );
}
