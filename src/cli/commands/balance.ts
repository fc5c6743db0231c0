/** tune, sensitivity: levers against targets, on the service's draft or a folder. */
import { writeFileSync } from 'node:fs';
import type { Command } from 'commander';
import { issueFinding } from '../../core/audit/index.js';
import { runCharts } from '../../core/report/index.js';
import { sensitivity, tune } from '../../core/balance/index.js';
import type { LeverMoved, SensitivityResult, TuneAnswer, TuneProgress, TuneResult } from '../../core/balance/index.js';
import { overridesApply } from '../../core/document/index.js';
import type { EconomyDocument } from '../../core/document/index.js';
import type { Target } from '../../core/economy/index.js';
import { countText, nearestName } from '../../core/issue/index.js';
import { leversNamed } from '../../core/levers/index.js';
import type { Lever } from '../../core/levers/index.js';
import {
  METRIC_WORDS,
  RunStopped,
  distanceText,
  figureText,
  crowdSize,
  scenarioResolve,
  targetsOf,
} from '../../core/simulation/index.js';
import type { RunSetup, ScenarioOptions, SimulationResult } from '../../core/simulation/index.js';
import { pictures, reportOf, withReport } from '../report.js';
import { documentReported } from '../reported.js';
import { Tries } from '../../runs/tries.js';
import { edited, printShown } from '../changing.js';
import type { Shown } from '../changing.js';
import { CommandRefused, UsageProblem, wantsJson } from '../context.js';
import { printTable, progressBar, refusedFor } from '../output.js';
import { collect, parseNumber, parseOverrides } from '../parse.js';
import { colors, print, printJson } from '../print.js';
import { targetCells } from '../resultPrint.js';

interface BalanceOptions {
  folder?: string;
  source: string;
  lever?: string[];
  target?: string[];
  days?: number;
  players?: number;
  seed?: number;
  set?: string[];
  workers?: number;
  out?: string;
}

interface TuneOptions extends BalanceOptions {
  take?: boolean;
}

/** Of small runs: enough that each persona of a mix has some dozens. */
const SMALL = 240;
/** What runs at the end have at least, where nobody says how many. */
const FULL = 1000;

export function addBalanceCommands(program: Command): void {
  withScenario(
    program
      .command('tune <scenario>')
      .description('look for places of levers at which the targets are met, by many small runs on the same luck'),
    'in the runs at the end',
  )
    .option('--take', 'put the best answer into the draft or the folder')
    .action(async (scenario: string, options: TuneOptions, command: Command) => {
      if (options.take && options.folder === undefined && options.source !== 'draft')
        throw new UsageProblem(`Only the draft can be changed, and this would be of ${options.source}.`);
      const asked = await askedFor(scenario, options, command);
      const result = await tuned(asked, options, command);
      if (options.out) writeFileSync(options.out, `${JSON.stringify(result)}\n`);
      const isJson = wantsJson(command);
      if (!isJson) printTuned(asked, result);
      // Whoever stopped it has not seen what would be saved.
      const mayTake = options.take && result.outcome !== 'none' && !result.stopped;
      const saved = mayTake ? await taken(result, `tuned ${scenario}`, options, command) : undefined;
      if (isJson) printJson({ ...result, ...(saved ? { saved } : {}) });
      else if (saved) printShown(saved, false, command);
      if (result.outcome === 'none') throw new CommandRefused(noAnswer(result));
    });

  withScenario(
    program.command('sensitivity <scenario>').description('which lever moves which target, and by how much a step'),
    'in each run',
  ).action(async (scenario: string, options: BalanceOptions, command: Command) => {
    const asked = await askedFor(scenario, options, command);
    const result = await withTries(asked, options, (tries, bar) =>
      sensitivity({ ...asked, play: tries.play, players: asked.players.full, onProgress: bar.update }),
    );
    if (options.out) writeFileSync(options.out, `${JSON.stringify(result)}\n`);
    if (wantsJson(command)) printJson(result);
    else printSensitivity(result);
  });
}

const withScenario = (command: Command, where: string): Command =>
  withReport(command)
    .option('--folder <folder>', 'on an economy folder, without a service')
    .option('--source <source>', 'draft, a channel or a release number', 'draft')
    .option(
      '--lever <lever>',
      'a lever of the economy, or one written out, such as /items/storm_frame/worth/shells=600..1400:20 or group:frames*0.8..1.2; all of the economy otherwise',
      collect,
    )
    .option('--target <id>', 'a target that counts; all of the scenario otherwise', collect)
    .option('--days <n>', "instead of the scenario's", parseNumber(1, 3650))
    .option('--players <n>', where, parseNumber(2, 1_000_000))
    .option('--seed <n>', "instead of the scenario's", parseNumber(0, 4_294_967_295))
    .option('--set <pointer=value>', 'change one thing in all runs', collect)
    .option('--workers <n>', 'how many threads play; the answer is the same', parseNumber(1, 64))
    .option('--out <file>', 'save the answer as JSON');

interface Asked {
  name: string;
  scenario: string;
  options: ScenarioOptions;
  /** With what is set in all runs. */
  document: EconomyDocument;
  setup: RunSetup;
  levers: Lever[];
  targets: Target[];
  players: { small: number; full: number };
}

async function askedFor(scenario: string, options: BalanceOptions, command: Command): Promise<Asked> {
  const { days, players, seed, set } = options;
  const written = await documentReported(options, command);
  // Levers begin where the scenario has their numbers, which may be elsewhere than in the economy.
  const own = written.scenarios?.[scenario]?.set;
  const changed = overridesApply(written, { ...own, ...(set ? parseOverrides(set) : {}) });
  if (!changed.ok) throw refusedFor('that cannot be set', changed.issues.map(issueFinding));
  const document = changed.value;
  const sized: ScenarioOptions = { ...(days === undefined ? {} : { days }), ...(seed === undefined ? {} : { seed }) };
  const setup = scenarioResolve(document, scenario, { ...sized, ...(players === undefined ? {} : { players }) });
  if (!setup.ok) throw refusedFor('the scenario cannot be run', setup.issues.map(issueFinding));
  reportOf({ seed: setup.value.seed });
  const names = options.lever ?? Object.keys(document.levers ?? {});
  if (names.length === 0)
    throw new UsageProblem(
      'The economy has no levers. Name a number that may move, such as --lever /items/storm_frame/worth/shells=600..1400:20.',
    );
  const levers = leversNamed(document, names);
  if (!levers.ok) throw refusedFor(countText(levers.issues.length, 'problem'), levers.issues.map(issueFinding));
  const full = players ?? Math.max(FULL, crowdSize(setup.value));
  return {
    name: setup.value.name,
    scenario,
    options: sized,
    document,
    setup: setup.value,
    levers: levers.value,
    targets: targetsAsked(setup.value, options.target),
    players: { small: Math.min(SMALL, full), full },
  };
}

function targetsAsked(setup: RunSetup, wanted: readonly string[] | undefined): Target[] {
  const all = targetsOf(setup);
  if (all.length === 0)
    throw new UsageProblem(
      `No target of the economy is meant for ${setup.name}, or none is complete. Write what a run should come to under targets:.`,
    );
  if (!wanted) return all;
  return wanted.map((id) => {
    const target = all.find((one) => one.id === id);
    if (target) return target;
    const near = nearestName(
      id,
      all.map((one) => one.id),
    );
    throw new UsageProblem(
      `${setup.name} has no target "${id}". ${near ? `Did you mean "${near}"?` : `Targets: ${all.map((one) => one.id).join(', ')}.`}`,
    );
  });
}

async function withTries<T>(
  { name, document, scenario, options }: Asked,
  { workers }: BalanceOptions,
  work: (tries: Tries, bar: ReturnType<typeof progressBar>) => Promise<T>,
): Promise<T> {
  const tries = new Tries({ text: JSON.stringify(document), scenario, options }, workers);
  const bar = progressBar(name, Date.now, 'runs');
  try {
    return await work(tries, bar);
  } catch (error) {
    throw error instanceof RunStopped ? new UsageProblem(`${error.message}.`) : error;
  } finally {
    bar.stop();
    await tries.close();
  }
}

/** Ctrl+C ends the search with the best so far. */
async function tuned(asked: Asked, options: TuneOptions, command: Command): Promise<TuneResult> {
  let stopped = false;
  const stop = (): void => {
    stopped = true;
  };
  process.once('SIGINT', stop);
  try {
    return await withTries(asked, options, async (tries, bar) => {
      const result = await tune({
        ...asked,
        play: tries.play,
        stopped: () => stopped,
        onAnswers: (before, answers) =>
          pictures(() =>
            runCharts(
              [before, ...answers].map((result, place) => ({
                name: place === 0 ? 'as it is' : `answer ${place}`,
                result,
              })),
              { targets: asked.document.targets },
            ),
          ),
        onProgress: ({ done, of, best }) => bar.update(done, of, wantsJson(command) ? '' : bestText(best)),
      });
      bar.update(result.runs, result.runs);
      return result;
    });
  } finally {
    process.off('SIGINT', stop);
  }
}

const settingText = ({ name, moves, after }: LeverMoved): string => `${name} ${moves === 'factor' ? 'x ' : ''}${after}`;

function bestText({ settings, targets }: TuneProgress['best']): string {
  const met = targets.filter(({ mark }) => mark === 'met').length;
  return `best so far: ${settings.map(settingText).join(', ')} (${met} of ${targets.length} met)`;
}

function noAnswer({ inTheWay, before }: TuneResult): string {
  const names = inTheWay.map((name) => `"${name}"`).join(', or without ');
  const mend = 'Widen the bounds, add levers, or ask less.';
  if (names) return `No answer within the bounds: without ${names}, the rest can be met. ${mend}`;
  return before.length === 1
    ? `No answer within the bounds. ${mend}`
    : `No answer within the bounds, and leaving out one target alone would not do. ${mend}`;
}

const OUTCOMES: Readonly<Record<TuneResult['outcome'], string>> = {
  met: 'Every target can be met.',
  likely: 'No target is missed, but not all are decided: more players would tell.',
  none: 'Nothing meets all targets; this comes nearest.',
};

function printTuned({ name, setup, levers }: Asked, result: TuneResult): void {
  const { answers, before, runs, players, outcome, stopped } = result;
  print(
    `${colors.bold(name)}: ${runs} runs of ${countText(levers.length, 'lever')}; ${players.small} players while searching, ${players.full} at the end`,
  );
  print(`${stopped ? 'Stopped before its time, so this is of small runs. ' : ''}${OUTCOMES[outcome]}`);
  if (result.unmoved.length > 0) print(`No lever here moves ${result.unmoved.map((one) => `"${one}"`).join(' or ')}.`);
  const currencies = [...setup.economy.currencies.values()].map(({ id, name: word, decimals }) => ({
    id,
    name: word,
    decimals,
  }));
  const targetTable = (rows: SimulationResult['targets']): void =>
    printTable(['', 'target', 'wanted', 'comes to', 'to decide it'], targetCells({ targets: rows, currencies }));
  print(`\n${colors.bold('As it is')}`);
  targetTable(before);
  answers.forEach(({ settings, targets, elsewhere, range }, number) => {
    print(`\n${colors.bold(`Answer ${number + 1}`)}`);
    printTable(
      ['lever', 'now', 'then'],
      settings.map((one) => [one.name, leverText(one, one.before), leverText(one, one.after)]),
    );
    if (range) print(rangeText(range, settings[0]!));
    print('');
    targetTable(targets);
    if (elsewhere.length === 0) return;
    print('\nElsewhere, by more than chance:');
    printTable(
      ['persona', 'figure', 'of', 'before', 'after', 'difference'],
      elsewhere.map((one) => [
        one.persona,
        METRIC_WORDS[one.metric],
        one.subject,
        figureText(one, one.before),
        figureText(one, one.after),
        distanceText(one, one.difference),
      ]),
    );
  });
}

const rangeText = ({ low, high }: NonNullable<TuneAnswer['range']>, lever: LeverMoved): string =>
  low === high
    ? 'One step up or down is not as well.'
    : `As well from ${leverText(lever, low)} to ${leverText(lever, high)}.`;

const leverText = ({ moves }: LeverMoved, value: number): string => `${moves === 'factor' ? 'x ' : ''}${value}`;

const HELPS = { '-1': 'away', 0: '', 1: 'towards it' } as const;
const PER: Record<SensitivityResult['targets'][number]['unit'], string> = {
  days: 'days',
  percent: 'points',
  money: '',
  times: 'times',
};

function printSensitivity({ levers, targets, effects, players }: SensitivityResult): void {
  print(`What one step of each lever does (${players} players, 95% intervals)\n`);
  const number = (value: number): string => String(Number(value.toPrecision(3)));
  printTable(
    ['lever', 'one step', 'target', 'changes by', 'from', 'to', 'which is'],
    levers.flatMap((lever) =>
      targets.map((target) => {
        const effect = effects.find((one) => one.lever === lever.id && one.target === target.id)!;
        const { perStep, low, high, helps, distinguishable } = effect;
        const show = (value: number | null): string =>
          value === null ? '?' : `${value > 0 ? '+' : ''}${number(value)} ${PER[target.unit]}`.trim();
        const told = perStep !== null && distinguishable;
        return [
          lever.name,
          `${lever.moves === 'factor' ? 'x ' : ''}${lever.step}`,
          target.name,
          perStep === null ? 'not seen within the run' : told ? show(perStep) : 'nothing that can be told',
          told ? show(low) : '',
          told ? show(high) : '',
          HELPS[helps],
        ];
      }),
    ),
  );
}

/** The best answer as one step of the draft, or of the folder's files; nothing where it is what there is already. */
async function taken(
  { answers }: TuneResult,
  why: string,
  { folder }: TuneOptions,
  command: Command,
): Promise<Shown | undefined> {
  const { set } = answers[0]!;
  return Object.keys(set).length === 0 ? undefined : edited({ kind: 'adjust', set }, { folder }, command, why);
}
