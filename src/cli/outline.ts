/** Prints the outline of all commands as JSON. The build keeps it beside `main.js`, so it never differs from them. */
import { Command } from 'commander';
import { GROUPS } from './groups.js';
import type { Outlined } from './groups.js';

const outline: Outlined[] = [];
for (const [group, load] of Object.entries(GROUPS)) {
  const program = new Command();
  const help = program.createHelp();
  (await load())(program);
  for (const command of program.commands)
    outline.push({
      group,
      name: command.name(),
      term: help.subcommandTerm(command),
      description: help.subcommandDescription(command),
    });
}
process.stdout.write(`${JSON.stringify(outline)}\n`);
