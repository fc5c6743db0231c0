/** simulate and compare: on the service, or on a folder and on saved results. */
import { existsSync, mkdirSync, writeFileSync } from 'node:fs';
import { basename, join } from 'node:path';
import { csvText } from '../../core/csv/index.js';
import type { Command } from 'commander';
import {
  METRIC_WORDS,
  MOST_VARIANTS,
  RESULT_VERSION,
  dayShown,
  distanceText,
  figureText,
  scenarioResolve,
  RunStopped,
  marksText,
  runDiffersText,
  resultTables,
  targetsMissedText,
  simulationCompare,
} from '../../core/simulation/index.js';
import type { Comparison, ScenarioOptions, SimulationResult } from '../../core/simulation/index.js';
import type { EconomyDocument } from '../../core/document/index.js';
import { runCharts } from '../../core/report/index.js';
import { issueFinding } from '../../core/audit/index.js';
import { CommandRefused, UsageProblem, clientOf, wantsJson } from '../context.js';
import { fileJson } from '../file.js';
import { instantText } from '../../core/texts/sentence.js';
import { printTable, progressBar, refusedFor } from '../output.js';
import { print, printJson } from '../print.js';
import { printResult } from '../resultPrint.js';
import { pictures, reportOf, withReport } from '../report.js';
import { documentReported } from '../reported.js';
import { runPlay } from '../../runs/play.js';
import { collect, parseNumber, parseOverrides } from '../parse.js';

interface SimulateOptions {
  folder?: string;
  source: string;
  days?: number;
  players?: number;
  seed?: number;
  set?: string[];
  out?: string;
  csv?: string;
  name?: string;
  workers?: number;
}

export function addSimulationCommands(program: Command): void {
  withReport(
    program.command('simulate <scenario>').description('let made-up players play a scenario and see what prices do'),
  )
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
    .option('--csv <folder>', 'save each table of the result as CSV')
    .option('--name <text>', "instead of the scenario's, for a run on the service")
    .option('--workers <n>', 'how many threads play, with --folder; the result is the same', parseNumber(1, 64))
    .action(async (scenario: string, options: SimulateOptions, command: Command) => {
      const { result, run, targets } =
        options.folder === undefined
          ? await simulateService(scenario, options, command)
          : await simulateFolder(scenario, options, command);
      reportOf({ seed: result.seed });
      saveResult(result, options);
      if (wantsJson(command)) printJson(result);
      else printResult(result, run);
      pictures(() => runCharts([{ name: '', result }], { targets }));
      const missed = targetsMissedText(result);
      if (missed !== undefined) throw new CommandRefused(missed);
    });

  program
    .command('runs [run]')
    .description('runs on the service, newest first; one of them is shown, saved, named or deleted')
    .option('--rename <text>', 'give it a name of its own')
    .option('--delete', 'cancel it, or delete it with its result once it is over')
    .option('--out <file>', 'save its result as JSON')
    .option('--csv <folder>', 'save each table of its result as CSV')
    .action(async (run: string | undefined, options: RunsOptions, command: Command) => {
      if (run === undefined) await listRuns(command);
      else await oneRun(parseNumber(1, Number.MAX_SAFE_INTEGER)(run), options, command);
    });

  withReport(
    program
      .command('compare <before> <after...>')
      .description(
        'runs on the same luck, by run number or result file: what differs from the first, and can it be told from chance?',
      ),
  ).action(async (before: string, after: string[], { report }: { report?: string }, command: Command) => {
    if (after.length >= MOST_VARIANTS) throw new UsageProblem(`${MOST_VARIANTS} runs are the most.`);
    const names = [before, ...after];
    const areRuns = names.every((one) => /^\d+$/.test(one));
    const comparison = areRuns
      ? await clientOf(command).call('GET /comparisons', {
          query: { before: Number(before), after: after.join(',') },
        })
      : simulationCompare(savedResult(before), after.map(savedResult));
    if (wantsJson(command)) printJson(comparison);
    else if (comparison.comparable) printDifferences(comparison, after);
    if (!comparison.comparable) throw new CommandRefused(`These runs cannot be compared: ${comparison.why}.`);
    if (report === undefined) return;
    const client = areRuns ? clientOf(command) : undefined;
    const results = await Promise.all(
      names.map(async (name) => ({
        name: client ? `run ${name}` : basename(name, '.json'),
        result: client
          ? await client.call('GET /runs/{run}/result', { params: { run: Number(name) } })
          : savedResult(name),
      })),
    );
    reportOf({ seed: results[0]!.result.seed });
    // Runs are of one service, though it may have gone on since; saved results do not say of which economy they are.
    if (client) {
      const { name, timeZone } = (await client.call('GET /draft')).document;
      const runs = await Promise.all(
        names.map((one) => client.call('GET /runs/{run}', { params: { run: Number(one) } })),
      );
      const sources = new Set(runs.map(({ setup }) => setup.source));
      reportOf({ economy: { name, zone: timeZone, from: [...sources].join(' and ') } });
    }
    pictures(() => runCharts(results, comparison));
  });
}

interface RunsOptions {
  rename?: string;
  delete?: boolean;
  out?: string;
  csv?: string;
}

async function listRuns(command: Command): Promise<void> {
  const client = clientOf(command);
  const { items } = await client.call('GET /runs', { query: { limit: 50 } });
  if (wantsJson(command)) printJson(items);
  else if (items.length === 0) print('No runs yet: dimestall simulate SCENARIO.');
  else {
    const { timeZone } = (await client.call('GET /draft')).document;
    printTable(
      ['run', 'name', 'scenario', 'what differs', 'status', 'targets', 'days', 'begun', 'by'],
      items.map(({ id, name, setup, status, marks, day, days, createdMs, createdBy }) => [
        id,
        name,
        setup.scenario,
        runDiffersText(setup),
        status,
        marks ? marksText(marks) : '',
        status === 'running' ? `${day} of ${days}` : days,
        instantText(timeZone, createdMs),
        createdBy,
      ]),
    );
  }
}

async function oneRun(run: number, options: RunsOptions, command: Command): Promise<void> {
  const client = clientOf(command);
  const params = { run };
  if (options.delete) {
    const { name, status } = await client.call('DELETE /runs/{run}', { params });
    print(`${status === 'cancelled' ? 'Cancelled' : 'Deleted'} run ${run}, ${name}.`);
    return;
  }
  if (options.rename !== undefined) {
    const { name } = await client.call('PATCH /runs/{run}', { params, body: { name: options.rename } });
    print(`Run ${run} is ${name}.`);
    return;
  }
  const result = await client.call('GET /runs/{run}/result', { params });
  saveResult(result, options);
  if (wantsJson(command)) printJson(result);
  else printResult(result, run);
}

const scenarioOptions = ({ days, players, seed, set }: SimulateOptions): ScenarioOptions => ({
  ...(days === undefined ? {} : { days }),
  ...(players === undefined ? {} : { players }),
  ...(seed === undefined ? {} : { seed }),
  ...(set ? { set: parseOverrides(set) } : {}),
});

function saveResult(result: SimulationResult, { out, csv }: { out?: string; csv?: string }): void {
  if (out) writeFileSync(out, `${JSON.stringify(result)}\n`);
  if (csv === undefined) return;
  mkdirSync(csv, { recursive: true });
  for (const { name, columns, rows } of resultTables(result))
    // RFC 4180 ends lines with CR LF.
    writeFileSync(join(csv, `${name}.csv`), csvText([columns, ...rows]));
}

/** A result, which run of the service it is, and the targets of the economy. */
interface Simulated {
  result: SimulationResult;
  run?: number;
  targets: EconomyDocument['targets'];
}

async function simulateFolder(scenario: string, options: SimulateOptions, command: Command): Promise<Simulated> {
  const document = await documentReported(options, command);
  const wanted = scenarioOptions(options);
  const setup = scenarioResolve(document, scenario, wanted);
  if (!setup.ok) throw refusedFor('the scenario cannot be run', setup.issues.map(issueFinding));
  const bar = progressBar(setup.value.name, Date.now);
  try {
    const task = { text: JSON.stringify(document), scenario, options: wanted };
    const result = await runPlay(task, { workers: options.workers, onProgress: bar.update });
    return { result, targets: document.targets };
  } catch (error) {
    throw error instanceof RunStopped ? new UsageProblem(`${error.message}.`) : error;
  } finally {
    bar.stop();
  }
}

async function simulateService(scenario: string, options: SimulateOptions, command: Command): Promise<Simulated> {
  const client = clientOf(command);
  const started = await client.call('POST /runs', {
    body: {
      scenario,
      ...scenarioOptions(options),
      source: options.source,
      ...(options.name === undefined ? {} : { name: options.name }),
    },
  });
  const bar = progressBar(started.name, Date.now);
  const cancel = () => {
    void client.call('DELETE /runs/{run}', { params: { run: started.id } });
  };
  process.once('SIGINT', cancel);
  const run = await client.watchRun(started.id, ({ done, days }) => bar.update(done * days, days));
  process.off('SIGINT', cancel);
  bar.stop();
  if (run.status !== 'done')
    throw new CommandRefused(`Run ${run.id} ${run.status}${run.error ? `: ${run.error}` : ''}.`);
  const document = await documentReported(options, command);
  const result = await client.call('GET /runs/{run}/result', { params: { run: run.id } });
  return { result, run: run.id, targets: document.targets };
}

function savedResult(file: string): SimulationResult {
  if (!existsSync(file))
    throw new UsageProblem(`There is no file "${file}". Name two run numbers, or two files written by simulate --out.`);
  const result = fileJson(file) as SimulationResult | null;
  if (!Array.isArray(result?.personas)) throw new UsageProblem(`"${file}" is not a result of simulate --out.`);
  if (result.version !== RESULT_VERSION)
    throw new UsageProblem(
      `"${file}" is a result of version ${String(result.version)}, of which the luck was another. Run it again.`,
    );
  return result;
}

function printDifferences(
  { differences, differsFrom }: Extract<Comparison, { comparable: true }>,
  names: readonly string[],
): void {
  const told = differences.filter(({ distinguishable }) => distinguishable);
  if (told.length === 0) {
    print('No difference can be told from chance.');
    return;
  }
  const several = names.length > 1;
  print(
    `${told.length} of ${differences.length} figures differ by more than chance (paired differences; the intervals hold together in 95 of 100 comparisons).`,
  );
  for (const [variant, day] of differsFrom.entries())
    if (day !== null)
      print(`${several ? `${names[variant]}: the` : 'The'} first difference is on day ${dayShown(day)}.`);
  print('');
  printTable(
    [...(several ? ['in'] : []), 'persona', 'figure', 'of', 'before', 'after', 'difference', 'from', 'to', 'pairs'],
    told.map((one) => [
      ...(several ? [names[one.variant]!] : []),
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
