#!/usr/bin/env node
/** `dimestall`: one table of commands, and the one place where failures become exit codes. */
import { Command, CommanderError } from 'commander';
import { ApiProblem, Unreachable } from '../client/index.js';
import { addActCommands } from './commands/act.js';
import { addCatalogCommands } from './commands/edit.js';
import { addLookCommands } from './commands/look.js';
import { addPictureCommands } from './commands/picture.js';
import { addDraftCommands } from './commands/draft.js';
import { addPlayerCommands } from './commands/player.js';
import { addReleaseCommands } from './commands/release.js';
import { addServiceCommands } from './commands/service.js';
import { addSimulationCommands } from './commands/simulate.js';
import { addTimeCommands } from './commands/time.js';
import { addTradeCommands } from './commands/trade.js';
import { EXIT, CommandRefused, UsageProblem } from './context.js';
import { complain } from './output.js';

const program = new Command('dimestall')
  .description('Keep, check and balance the economy of a live game.')
  .option('--url <address>', 'where the service is (DIMESTALL_URL)')
  .option('--token <token>', 'access token (DIMESTALL_TOKEN)')
  .option('--json', 'print JSON')
  .showHelpAfterError('Help: dimestall help <command>')
  .exitOverride()
  .enablePositionalOptions(false);

for (const add of [
  addServiceCommands,
  addDraftCommands,
  addReleaseCommands,
  addTimeCommands,
  addLookCommands,
  addCatalogCommands,
  addPictureCommands,
  addTradeCommands,
  addActCommands,
  addPlayerCommands,
  addSimulationCommands,
])
  add(program);
for (const command of program.commands)
  command
    .exitOverride()
    .addHelpText(
      'after',
      '\nEvery command takes --json, --url and --token. Exit codes: 0 fine, 1 a finding or a refusal, 2 wrong use, 3 service unreachable.',
    );

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
  complain(`${body.title}: ${body.detail}`);
  for (const { pointer, detail, fix } of body.errors ?? []) complain(`  ${pointer || '(whole)'}: ${detail}. ${fix}`);
  const stale = problem.more('stale');
  for (const { words } of stale?.changes ?? []) complain(`  changed: ${words}`);
  for (const { words, pointer } of stale?.mine ?? [])
    complain(`  yours: ${words}${stale?.clashes?.includes(pointer) ? '  (changed by both)' : ''}`);
  if (kind === 'not-signed-in') complain('Give a token with --token or DIMESTALL_TOKEN.');
}

try {
  await program.parseAsync();
} catch (error) {
  process.exitCode = exitCodeOf(error);
}
