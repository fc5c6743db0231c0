/** serve, verify, backup, restore, upgrade, rollback, vacuum, token, whoami, tokens: running the service, and access to it. */
import type { Command } from 'commander';
import type { Client } from '../../client/index.js';
import type { TokenView } from '../../contract/index.js';
import { instantText } from '../../core/texts/sentence.js';
import { UsageProblem, clientOf, wantsJson } from '../context.js';
import { printTable } from '../output.js';
import { print, printJson } from '../print.js';
import { exitOf, serviceProcess } from '../process.js';

export function addServiceCommands(program: Command): void {
  // The service is a process of its own: these pass their options on to it.
  for (const [name, description] of [
    ['serve', 'run the service'],
    ['verify', 'check the database against its ledger'],
    ['backup', 'copy the database into a file, also while a service runs on it'],
    ['restore', 'put a backup in the place of the database, also while a service runs on it'],
    ['upgrade', 'bring the database along that an older version made, or tell how long that takes'],
    ['rollback', 'go back to the copy of before the last upgrade'],
    ['vacuum', 'write the database anew, without the room that is free in it'],
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

  program
    .command('tokens [id]')
    .description('tokens and sessions that are good now; end one at once')
    .option('--revoke', 'end it, with every session that was opened with it')
    .action(async (id: string | undefined, { revoke }: { revoke?: boolean }, command: Command) => {
      const client = clientOf(command);
      if ((id === undefined) === (revoke === true))
        throw new UsageProblem('Name the one to end, as "dimestall tokens" lists it: dimestall tokens ID --revoke');
      const items = id === undefined ? (await client.call('GET /tokens')).items : [await revoked(client, id)];
      if (wantsJson(command)) {
        printJson(id === undefined ? items : items[0]);
        return;
      }
      const { timeZone } = (await client.call('GET /draft')).document;
      if (id === undefined) printTokens(items, timeZone);
      else print(`The ${items[0]!.kind} of ${items[0]!.name} (${items[0]!.role}) is revoked.`);
    });
}

const revoked = (client: Client, token: string): Promise<TokenView> =>
  client.call('DELETE /tokens/{token}', { params: { token } });

function printTokens(tokens: readonly TokenView[], zone: string): void {
  printTable(
    ['id', 'kind', 'name', 'role', 'made', 'ends'],
    tokens.map(({ id, kind, name, role, createdMs, expiresMs }) => [
      id,
      kind,
      name,
      role,
      instantText(zone, createdMs),
      expiresMs === null ? 'when revoked' : instantText(zone, expiresMs),
    ]),
  );
}
