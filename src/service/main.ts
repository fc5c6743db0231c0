/** The service's own process: serve, verify, token. The command line starts it; a service manager can too. */
import { existsSync, readFileSync, writeFileSync } from 'node:fs';
import { Command, InvalidArgumentError, Option } from 'commander';
import { DatabaseProblem, StartProblem, databaseOpen, integrityCheck, serviceCreate, serviceStart } from './index.js';
import { ROLE_NAMES } from '../contract/index.js';
import type { Role } from '../contract/index.js';
import type { Listening, Service } from './index.js';

const portOf = (written: string): number => {
  const port = Number(written);
  if (!Number.isInteger(port) || port < 0 || port > 65_535)
    throw new InvalidArgumentError('A port is a whole number from 0 to 65535.');
  return port;
};

const data = () =>
  new Option('--data <file>', 'the database file').default('.dimestall/stall.sqlite').env('DIMESTALL_DATA');

interface ServeOptions {
  data: string;
  port: number;
  host: string;
  tokenFile?: string;
  log: string;
  trustProxy?: string;
}

const program = new Command('dimestall').description('The service of Dime Stall.');

program
  .command('serve')
  .addOption(data())
  .option('--port <number>', 'where to listen; 0 picks a free port', portOf, 4780)
  .option('--host <address>', 'loopback unless told otherwise', '127.0.0.1')
  .option('--token-file <file>', 'keep a working admin token and the address in this file')
  .option('--log <level>', 'silent, info or debug', 'info')
  .option('--trust-proxy <addresses>', 'believe these proxies about https and callers: loopback, or addresses')
  .action(async (options: ServeOptions) => {
    const listening = await serviceStart({
      data: options.data,
      port: options.port,
      host: options.host,
      logLevel: options.log,
      trustProxy: options.trustProxy ?? false,
      // Set by the tests of the command line.
      checkAnswers: process.env['DIMESTALL_CHECK_ANSWERS'] === '1',
    });
    if (options.tokenFile) await keepToken(listening, options.tokenFile);
    else if (!listening.service.access.any())
      process.stderr.write('No token exists yet. Make one in another terminal: dimestall token --role admin\n');
    process.stdout.write(`Dime Stall listens on ${listening.url}\n`);
    for (const signal of ['SIGINT', 'SIGTERM'] as const)
      process.once(signal, () => {
        void listening.close().then(() => process.exit(0));
      });
  });

program
  .command('verify')
  .description('check balances, stock and purchases against the ledger')
  .addOption(data())
  .option('--json', 'print JSON')
  .action(({ data: file, json }: { data: string; json?: boolean }) => {
    if (!existsSync(file)) throw new DatabaseProblem(`There is no database ${file}. Name it with --data.`);
    const database = databaseOpen(file);
    const report = integrityCheck(database);
    database.close();
    process.stdout.write(
      json
        ? `${JSON.stringify(report)}\n`
        : `${report.players} players, ${report.movements} movements, ${report.purchases} purchases: ${report.faults.length === 0 ? 'all agree' : `${report.faults.length} faults`}\n${report.faults.map((fault) => `  ${fault}\n`).join('')}`,
    );
    process.exitCode = report.faults.length === 0 ? 0 : 1;
  });

program
  .command('token')
  .description('make a token; it is shown this once')
  .addOption(data())
  .addOption(new Option('--role <role>', 'what it may do').choices(ROLE_NAMES).default('admin'))
  .option('--name <name>', 'whose it is', 'admin')
  .option('--json', 'print JSON')
  .action(async ({ data: file, role, name, json }: { data: string; role: Role; name: string; json?: boolean }) => {
    const service = serviceCreate({ data: file, logLevel: 'silent' });
    const token = await issue(service, name, role);
    process.stdout.write(`${json ? JSON.stringify({ name, role, token }) : token}\n`);
    service.database.close();
  });

function issue(service: Service, name: string, role: Role): Promise<string> {
  return service.writer.submit(() => {
    service.trail.add('operator', 'token.issue', name, role);
    return service.access.issue(name, role);
  });
}

/** The file keeps its token while the database knows it; a new database gets a new one. */
async function keepToken({ service, url }: Listening, file: string): Promise<void> {
  const known = existsSync(file) ? (JSON.parse(readFileSync(file, 'utf8')) as { token: string }).token : undefined;
  const token = known !== undefined && service.access.whoHas(known) ? known : await issue(service, 'demo', 'admin');
  writeFileSync(file, `${JSON.stringify({ url, token }, null, 2)}\n`, { mode: 0o600 });
}

try {
  await program.parseAsync();
} catch (error) {
  if (!(error instanceof StartProblem || error instanceof DatabaseProblem)) throw error;
  process.stderr.write(`${error.message}\n`);
  process.exitCode = 1;
}
