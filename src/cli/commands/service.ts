/** serve, verify, token, whoami: running the service, and access to it. */
import type { Command } from 'commander';
import { clientOf, wantsJson } from '../context.js';
import { print, printJson } from '../print.js';
import { exitOf, serviceProcess } from '../process.js';

export function addServiceCommands(program: Command): void {
  // The service is a process of its own: these pass their options on to it.
  for (const [name, description] of [
    ['serve', 'run the service'],
    ['verify', 'check the database against its ledger'],
    ['token', 'make an access token in the database'],
  ] as const) {
    program
      .command(name)
      .description(`${description} (--help lists its options)`)
      .allowUnknownOption()
      .allowExcessArguments()
      .helpOption(false)
      .action(async (_options: object, command: Command) => {
        process.exitCode = await exitOf(
          serviceProcess(
            [name, ...command.args, ...(wantsJson(command) && name !== 'serve' ? ['--json'] : [])],
            'inherit',
          ),
        );
      });
  }

  program
    .command('whoami')
    .description('whose token this is, and what it may do')
    .action(async (_options: object, command: Command) => {
      const { name, role } = await clientOf(command).call('GET /session');
      if (wantsJson(command)) printJson({ name, role });
      else print(`${name}, with the role ${role}`);
    });
}
