/** The command line: one table of commands, and the one place where failures become exit codes. */
import { join } from 'node:path';
import { packageRoot } from '../packageRoot.js';
import { existsSync, readFileSync } from 'node:fs';
import { Command, CommanderError, Help } from 'commander';
import { ApiProblem, Unreachable } from '../client/index.js';
import { EXIT, CommandRefused, UsageProblem } from './context.js';
import { GROUPS } from './groups.js';
import type { Outlined } from './groups.js';
import { answersAnew, complain, hasAnswered, printJson } from './print.js';

/** Runs what was typed after `dimestall`, and gives the exit code. */
export async function run(typed: readonly string[]): Promise<number> {
  answersAnew();
  const words = helpWords(typed);
  try {
    const program = programMake();
    await addCommands(program, commandAsked(program, words));
    program.hook('preAction', async (_, command) => {
      const { report } = command.opts<{ report?: string }>();
      if (report === undefined) return;
      // What it says is found by the command's own words: `simulate first_month`.
      const { reportBegin } = await import('./report.js');
      reportBegin(report, [command.name(), ...command.args].join(' '), words.includes('--json'), Date.now());
    });
    await program.parseAsync(words, { from: 'user' });
    if (isReporting(words)) (await import('./report.js')).reportSave();
    return EXIT.fine;
  } catch (caught) {
    const error = await savedAsToo(caught, words);
    const failure = failureOf(error);
    const json = words.includes('--json');
    if (!json) failure.print?.();
    else if (failure.exit !== EXIT.fine && !hasAnswered()) printJson({ problem: failure.problem });
    failure.complain();
    return failure.exit;
  }
}

/** `help csv import` is what `csv import --help` is; `help` alone lists all commands. */
function helpWords(words: readonly string[]): readonly string[] {
  const place = words.findIndex((word) => !word.startsWith('-'));
  if (words[place] !== 'help' || words.slice(place + 1).every((word) => word.startsWith('-'))) return words;
  return [...words.filter((_, index) => index !== place), '--help'];
}

const isReporting = (words: readonly string[]): boolean =>
  words.some((word) => word === '--report' || word.startsWith('--report='));

/** A refusal is in the report as well. What keeps the report from being saved is told in its place. */
async function savedAsToo(error: unknown, words: readonly string[]): Promise<unknown> {
  if (!isReporting(words)) return error;
  const { reportDrop, reportSave } = await import('./report.js');
  if (!(error instanceof CommandRefused) || error.found) {
    reportDrop();
    return error;
  }
  try {
    reportSave(error.message);
    return error;
  } catch (other) {
    return other;
  }
}

const programMake = (): Command =>
  new Command('dimestall')
    .description('Keep, check and balance the economy of a live game.')
    .option('--url <address>', 'where the service is (DIMESTALL_URL)')
    .option('--token <token>', 'access token (DIMESTALL_TOKEN)')
    .option('--json', 'print JSON')
    .showHelpAfterError('Help: dimestall help <command>')
    .exitOverride()
    .enablePositionalOptions(false);

/** What the build wrote down of all commands; before there is any, every command is loaded. */
function outlineRead(): Outlined[] {
  const file = join(packageRoot(), 'dist/cli/outline.json');
  return existsSync(file) ? (JSON.parse(readFileSync(file, 'utf8')) as Outlined[]) : [];
}

/** Adds every command; those that were not asked for only as the help lists them, so that their files stay unread. */
async function addCommands(program: Command, asked: string | undefined): Promise<void> {
  const outline = outlineRead();
  const wanted = outline.find(({ name }) => name === asked)?.group;
  const terms = new Map<Command, string>();
  program.configureHelp({
    subcommandTerm(command) {
      return terms.get(command) ?? Help.prototype.subcommandTerm.call(this, command);
    },
  });
  for (const [group, load] of Object.entries(GROUPS)) {
    if (group === wanted || outline.length === 0) (await load())(program);
    else
      for (const { name, term, description } of outline.filter((one) => one.group === group))
        terms.set(program.command(name).description(description), term);
  }
  for (const command of program.commands)
    command
      .exitOverride()
      .addHelpText(
        'after',
        '\nEvery command takes --json, --url and --token. Exit codes: 0 fine, 1 a finding or a refusal, 2 wrong use, 3 service unreachable.',
      );
}

/** The command in what was typed: the first word that is no option, no option's value, and not `help`. */
function commandAsked(program: Command, words: readonly string[]): string | undefined {
  const takesValue = new Set(program.options.filter(({ required }) => required).map(({ long }) => long));
  return words.find((word, index) => !word.startsWith('-') && word !== 'help' && !takesValue.has(words[index - 1]));
}

/** What went wrong: the exit code, what those who read JSON are told, and the lines for a person. */
interface Failure {
  exit: number;
  /** `title`, `detail` and more, as in the problem details of the service. */
  problem: object;
  /** What was found, one by one, on stdout where no JSON is asked for. */
  print?: () => void;
  /** The sentence on stderr. */
  complain(): void;
}

function failureOf(error: unknown): Failure {
  if (error instanceof CommanderError)
    return {
      exit: error.exitCode === 0 ? EXIT.fine : EXIT.usage,
      problem: { title: 'Wrong use', detail: error.message.replace(/^error: /, '') },
      // Commander has told it.
      complain() {},
    };
  if (error instanceof CommandRefused) {
    const { message, found } = error;
    return {
      exit: EXIT.finding,
      problem: { title: 'Refused', detail: message, ...found?.json },
      ...(found ? { print: found.print } : {}),
      complain() {
        // The demo's service has told its own reason already, a verdict its reasons.
        if (message !== '' && message !== 'refused') complain(message);
      },
    };
  }
  if (error instanceof UsageProblem)
    return {
      exit: EXIT.usage,
      problem: { title: 'Wrong use', detail: error.message },
      complain: () => complain(error.message),
    };
  if (error instanceof Unreachable) {
    const detail = `${error.message}\nStart it with: dimestall serve (or script/demo), or name another with --url.`;
    return {
      exit: EXIT.unreachable,
      problem: { title: 'Service unreachable', detail },
      complain: () => complain(detail),
    };
  }
  if (error instanceof ApiProblem)
    return {
      exit: error.status === 401 || error.status === 403 || error.status === 400 ? EXIT.usage : EXIT.finding,
      problem: error.body,
      complain: () => complainProblem(error),
    };
  const file = fileAdvice(error as NodeJS.ErrnoException);
  if (file === undefined) throw error;
  return { exit: EXIT.usage, problem: { title: 'Wrong use', detail: file }, complain: () => complain(file) };
}

const FILE_ADVICE: Record<string, string> = {
  ENOENT: 'is not there',
  EACCES: 'may not be read or written: check its permissions',
  EPERM: 'may not be read or written: check its permissions',
  EROFS: 'cannot be written: the disk is read-only',
  EISDIR: 'is a folder, and a file is wanted',
  ENOTDIR: 'is no folder',
  ENOSPC: 'cannot be written: the disk is full',
};

/** What the operating system said of a file, with the way out; undefined for anything else. */
const fileAdvice = ({ code = '', path, message }: NodeJS.ErrnoException): string | undefined =>
  path === undefined ? undefined : `"${path}" ${FILE_ADVICE[code] ?? `cannot be used: ${message}`}.`;

function complainProblem(problem: ApiProblem): void {
  const { body, kind } = problem;
  complain(kind === 'not-found' ? body.detail : `${body.title}: ${body.detail}`);
  for (const { pointer, detail, fix } of body.errors ?? [])
    complain(`  ${pointer && `${pointer}: `}${detail === body.detail ? fix : `${detail}. ${fix}`}`);
  const stale = problem.more('stale');
  for (const { words } of stale?.changes ?? []) complain(`  changed: ${words}`);
  for (const { words, pointer } of stale?.mine ?? [])
    complain(`  yours: ${words}${stale?.clashes?.includes(pointer) ? '  (changed by both)' : ''}`);
  if (kind === 'not-signed-in') complain('Give a token with --token or DIMESTALL_TOKEN.');
}
