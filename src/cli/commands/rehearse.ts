/** rehearse: a throwaway player does what a file says, step by step, on the service's economy or a folder. */
import type { Command } from 'commander';
import { parse, stringify } from 'yaml';
import { issueFinding } from '../../core/audit/index.js';
import { rehearsalFileSchema } from '../../core/document/index.js';
import type { CaseDocument, EconomyDocument } from '../../core/document/index.js';
import { rehearsalKept } from '../../core/cases/index.js';
import type { Kept } from '../../core/cases/index.js';
import { economyLabels } from '../../core/texts/amounts.js';
import type { AssetLabels } from '../../core/texts/index.js';
import { economyCompile } from '../../core/economy/index.js';
import type { Economy } from '../../core/economy/index.js';
import { countText, pointerOf } from '../../core/issue/index.js';
import type { Profile } from '../../core/player/index.js';
import { rehearsalEnd, rehearse, stepsRead, stepsTold } from '../../core/rehearsal/index.js';
import type { RehearsalEnd, RehearsalFile, StepTold, WrittenStep } from '../../core/rehearsal/index.js';
import { ID_RULE, freeId, idFor, isId, schemaIssues } from '../../core/schema/index.js';
import { instantText } from '../../core/texts/sentence.js';
import { goalWords, trackWords } from '../../core/texts/progress.js';
import { heldText, movedText, stepLines, stepState } from '../../core/texts/rehearsed.js';
import { UNTOUCHED } from '../../core/trade/index.js';
import { runEdit } from '../changing.js';
import { UsageProblem, clientOf, wantsJson } from '../context.js';
import { instantAsked, playerDescribed } from '../described.js';
import { fileText } from '../file.js';
import { printTable, refusedFor } from '../output.js';
import { parseBasket, parseNumber } from '../parse.js';
import { colors, complain, print, printJson } from '../print.js';
import { sourceDocument } from '../source.js';

interface RehearseOptions {
  folder?: string;
  source: string;
  player?: string;
  at?: string;
  seed?: number;
  language?: string;
  asCase?: string | true;
  keep?: boolean;
}

/** What became of it. */
interface Rehearsed {
  steps: StepTold[];
  end: RehearsalEnd;
  kept?: Kept;
}

export function addRehearseCommand(program: Command): void {
  program
    .command('rehearse <file>')
    .description('be a player: buy, sell, use, earn and wait as the steps of a YAML file say; nothing is kept')
    .option('--folder <folder>', 'on an economy folder, without a service')
    .option('--source <source>', 'draft, a channel or a release number', 'draft')
    .option('--player <id>', 'a copy of a real player, as they are now')
    .option('--at <instant>', "when it begins, instead of the file's")
    .option('--seed <n>', "for the luck, instead of the file's", parseNumber(0, 4_294_967_295))
    .option('--language <tag>', 'refusals in the words of a language, such as pt')
    .option('--as-case [id]', "print it as a case for the economy's files, in which what happened must hold")
    .option('--keep', 'with --as-case: put it into the draft or the folder, instead of printing it')
    .action(async (file: string, options: RehearseOptions, command: Command) => {
      if (options.keep && options.asCase === undefined) throw new UsageProblem('--keep goes with --as-case.');
      if (options.keep && options.folder === undefined && options.source !== 'draft')
        throw new UsageProblem('Only the draft or a folder can keep a case.');
      const asked = fileRead(file);
      const { document } = await sourceDocument(options, command);
      const { economy, issues } = economyCompile(document);
      if (issues.length > 0) throw refusedFor(countText(issues.length, 'problem'), issues.map(issueFinding));
      const rehearsed =
        options.folder === undefined
          ? await onService(economy, asked, options, command)
          : onFolder(economy, asked, options, file);
      if (rehearsed.kept && (options.keep || !wantsJson(command))) {
        const made = caseOf(rehearsed.kept, asked, options.asCase, document);
        if (options.keep)
          await runEdit({ kind: 'set', pointer: pointerOf(['cases', made.id]), value: made.case }, options, command);
        else printCase(made);
        complainOf(rehearsed.kept);
      } else if (wantsJson(command)) printJson(rehearsed);
      else printRehearsed(economy, rehearsed);
    });
}

/** Throws what is wrong with the file, all at once. */
function fileRead(file: string): RehearsalFile {
  let raw: unknown;
  try {
    raw = parse(fileText(file));
  } catch (error) {
    throw new UsageProblem(`${file} is no YAML: ${(error as Error).message.split('\n', 1)[0]}`);
  }
  const issues = schemaIssues(rehearsalFileSchema, raw);
  if (issues.length > 0)
    throw refusedFor(`${countText(issues.length, 'problem')} in ${file}`, issues.map(issueFinding));
  return raw as RehearsalFile;
}

const profileOf = ({ player = {} }: RehearsalFile, labels: AssetLabels): Profile => ({
  attributes: (player.attributes ?? {}) as Profile['attributes'] & object,
  holds: parseBasket(pairs(player.holds), labels),
});

const pairs = (amounts: Readonly<Record<string, number>> = {}): string[] =>
  Object.entries(amounts).map((pair) => pair.join('='));

async function onService(
  economy: Economy,
  file: RehearsalFile,
  options: RehearseOptions,
  command: Command,
): Promise<Rehearsed> {
  const labels = economyLabels(economy);
  const { at = file.at, seed = file.seed, language, player, source, asCase } = options;
  const units = (amounts: Readonly<Record<string, number>> | undefined, name: 'give' | 'take') =>
    amounts === undefined ? {} : { [name]: parseBasket(pairs(amounts), labels) };
  return (await clientOf(command).call('POST /rehearsals', {
    body: {
      source,
      ...(player === undefined ? { profile: profileOf(file, labels) } : { player }),
      ...(at === undefined ? {} : { at }),
      ...(seed === undefined ? {} : { seed }),
      ...(language === undefined ? {} : { language }),
      ...(asCase === undefined ? {} : { keep: true }),
      steps: file.steps.map((step) => ({ ...step, ...units(step.give, 'give'), ...units(step.take, 'take') })),
    },
  })) as Rehearsed;
}

function onFolder(
  economy: Economy,
  file: RehearsalFile,
  { player, at = file.at, seed = file.seed, language, asCase }: RehearseOptions,
  path: string,
): Rehearsed {
  if (player !== undefined) throw new UsageProblem('A folder has no players: write one under player: in the file.');
  const atMs = instantAsked(economy.zone, at);
  const read = stepsRead(economy, file.steps as WrittenStep[], 'written');
  if (!read.ok)
    throw refusedFor(
      `${countText(read.problems.length, 'problem')} in ${path}`,
      read.problems.map(({ step, message, fix }) =>
        issueFinding({ code: 'wrong-value', pointer: `/steps/${step}`, message, fix }),
      ),
    );
  const profile = profileOf(file, economyLabels(economy));
  const start = {
    player: playerDescribed(economy, profile, atMs),
    shared: UNTOUCHED,
    atMs,
  };
  const { steps, state } = rehearse(economy, start, read.steps, seed);
  const about = { steps: read.steps, seed, language, profile };
  return {
    steps: stepsTold(economy, read.steps, steps, language),
    end: rehearsalEnd(economy, state),
    ...(asCase === undefined ? {} : { kept: rehearsalKept(economy, start, about, steps) }),
  };
}

interface NamedCase {
  id: string;
  case: CaseDocument;
}

/** With the name of the file, and the id that was asked for or that the name makes. */
function caseOf(
  { case: kept }: Kept,
  { name = kept.name }: RehearsalFile,
  asked: string | true | undefined,
  { cases = {} }: EconomyDocument,
): NamedCase {
  if (typeof asked === 'string' && !isId(asked)) throw new UsageProblem(`"${asked}" is not an id: ${ID_RULE}.`);
  const id = typeof asked === 'string' ? asked : freeId(idFor(name, 'case'), (one) => one in cases);
  return { id, case: { ...kept, name } };
}

/** As a file of an economy has it. */
const printCase = ({ id, case: one }: NamedCase): void =>
  print(stringify({ cases: { [id]: one } }, { lineWidth: 0, aliasDuplicateObjects: false }).trimEnd());

function complainOf({ differs }: Kept): void {
  if (differs.length > 0)
    complain(
      `Step ${differs.join(', ')}: something else comes of it for a player without a history, which is what a case begins with.`,
    );
}

function printRehearsed(economy: Economy, { steps, end }: Rehearsed): void {
  const labels = economyLabels(economy);
  printTable(
    ['', 'at', 'step', '', 'moved'],
    steps.map((step, number) => [
      number + 1,
      instantText(economy.zone, step.atMs),
      step.words,
      (step.done ? colors.green : colors.red)(stepState(step)),
      movedText(labels, step.moved),
    ]),
  );
  for (const [number, step] of steps.entries())
    for (const line of stepLines(labels, step)) print(`${colors.dim(String(number + 1))} ${line}`);
  print(`\n${colors.bold('At the end')}, ${instantText(economy.zone, end.atMs)}`);
  const held = Object.fromEntries(Object.entries(end.holds).filter(([, units]) => units > 0));
  print(Object.keys(held).length === 0 ? 'Nothing is held.' : `Holds ${heldText(labels, held)}.`);
  for (const track of end.tracks) print(trackWords(labels, track));
  for (const goal of end.goals) if (goal.reached || goal.count > 0) print(goalWords(labels, goal));
}
