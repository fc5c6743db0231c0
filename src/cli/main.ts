#!/usr/bin/env node
/** `dimestall`: one table of commands, and the one place where failures become exit codes. */
import { readFileSync } from 'node:fs';
import { Command, CommanderError, Help } from 'commander';
import { ApiProblem, Unreachable } from '../client/index.js';
import { EXIT, CommandRefused, UsageProblem } from './context.js';
import { GROUPS } from './groups.js';
import type { Outlined } from './groups.js';
import { complain } from './print.js';

const program = new Command('dimestall')
  .description('Keep, check and balance the economy of a live game.')
  .option('--url <address>', 'where the service is (DIMESTALL_URL)')
  .option('--token <token>', 'access token (DIMESTALL_TOKEN)')
  .option('--json', 'print JSON')
  .showHelpAfterError('Help: dimestall help <command>')
  .exitOverride()
  .enablePositionalOptions(false);

/** Adds every command; those that were not asked for only as the help lists them, so that their files stay unread. */
async function addCommands(asked: string | undefined): Promise<void> {
  const outline = JSON.parse(readFileSync(new URL('./outline.json', import.meta.url), 'utf8')) as Outlined[];
  const wanted = outline.find(({ name }) => name === asked)?.group;
  const terms = new Map<Command, string>();
  program.configureHelp({
    subcommandTerm(command) {
      return terms.get(command) ?? Help.prototype.subcommandTerm.call(this, command);
    },
  });
  for (const [group, load] of Object.entries(GROUPS)) {
    if (group === wanted) (await load())(program);
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
function commandAsked(words: readonly string[]): string | undefined {
  const takesValue = new Set(program.options.filter(({ required }) => required).map(({ long }) => long));
  return words.find((word, index) => !word.startsWith('-') && word !== 'help' && !takesValue.has(words[index - 1]));
}

function exitCodeOf(error: unknown): number {
  if (error instanceof CommanderError) return error.exitCode === 0 ? EXIT.fine : EXIT.usage;
  if (error instanceof CommandRefused) {
    // The demo's service has told its own reason already.
    if (error.message === '') return EXIT.finding;
    if (error.message !== 'refused') complain(error.message);
    return EXIT.finding;
  }
  if (error instanceof UsageProblem) {
    complain(error.message);
    return EXIT.usage;
  }
  if (error instanceof Unreachable) {
    complain(`${error.message}\nStart it with: dimestall serve (or script/demo), or name another with --url.`);
    return EXIT.unreachable;
  }
  if (error instanceof ApiProblem) {
    complainProblem(error);
    return error.status === 401 || error.status === 403 || error.status === 400 ? EXIT.usage : EXIT.finding;
  }
  throw error;
}

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

try {
  await addCommands(commandAsked(process.argv.slice(2)));
  await program.parseAsync();
} catch (error) {
  process.exitCode = exitCodeOf(error);
}
