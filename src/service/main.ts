/** The service's own process: serve, verify, backup, restore, token. The command line starts it; a service manager can too. */
import { chmodSync, existsSync, readFileSync, writeFileSync } from 'node:fs';
import { Command, InvalidArgumentError, Option } from 'commander';
import { DatabaseProblem, StartProblem, integrityCheck, serviceStart } from './index.js';
import { ROLE_NAMES } from '../contract/index.js';
import { DAY_MS } from '../core/schedule/index.js';
import type { Role } from '../contract/index.js';
import { Access } from './access.js';
import { countText } from '../core/issue/index.js';
import { packageVersion } from '../packageRoot.js';
import { WORK_MS_PER_SECOND } from './allowance.js';
import { Backups, DAMAGED, Damaged, checkProcess } from './backups.js';
import { databaseBackup, databaseRestore } from './store/backup.js';
import { pagesDamage } from './store/integrity.js';
import type { Copied } from './store/backup.js';
import { databaseBeside, databaseProblem, databaseRead, databaseRemove, wasCutOff } from './store/database.js';
import { TokenStore } from './store/tokenStore.js';
import { Trail } from './store/trail.js';
import { afterReal } from './timers.js';
import type { Listening } from './index.js';

const HOUR_MS = 3_600_000;

/** Reads an option that is a whole number. */
const wholeFrom =
  (least: number, most: number) =>
  (written: string): number => {
    const number = Number(written);
    if (!Number.isInteger(number) || number < least || number > most)
      throw new InvalidArgumentError(`Write a whole number from ${least} to ${most}.`);
    return number;
  };

interface TokenOptions {
  data: string;
  role: Role;
  name: string;
  days?: number;
  json?: boolean;
}

const data = () =>
  new Option('--data <file>', 'the database file').default('.dimestall/stall.sqlite').env('DIMESTALL_DATA');

interface ServeOptions {
  data: string;
  port: number;
  host: string;
  tokenFile?: string;
  log: string;
  trustProxy?: string;
  workPerSecond: number;
  backupTo?: string;
  backupEvery: number;
  backupKeep: number;
  fresh?: boolean;
}

const program = new Command('dimestall').description('The service of Dime Stall.');

program
  .command('serve')
  .addOption(data())
  .option('--port <number>', 'where to listen; 0 picks a free port', wholeFrom(0, 65_535), 4780)
  .option('--host <address>', 'loopback unless told otherwise', '127.0.0.1')
  .option('--token-file <file>', 'keep a working admin token and the address in this file')
  .option('--log <level>', 'silent, info or debug', 'info')
  .option('--trust-proxy <addresses>', 'believe these proxies about https and callers: loopback, or addresses')
  .option(
    '--work-per-second <ms>',
    "how much of the players' thread each token may use in a second",
    wholeFrom(1, 1_000_000),
    WORK_MS_PER_SECOND,
  )
  .option('--backup-to <folder>', 'make backups in this folder by itself')
  .option('--backup-every <hours>', 'how often', wholeFrom(1, 24 * 365), 6)
  .option('--backup-keep <number>', 'how many of the newest stay', wholeFrom(1, 10_000), 28)
  // Of the demo: the database is begun anew.
  .addOption(new Option('--fresh').hideHelp())
  .action(async (options: ServeOptions) => {
    if (options.fresh) databaseRemove(options.data);
    const isCutOff = wasCutOff(options.data);
    // Before anything is opened: a file that is something else is no place for a token.
    const known = options.tokenFile === undefined ? undefined : tokenIn(options.tokenFile);
    const listening = await serviceStart({
      data: options.data,
      port: options.port,
      host: options.host,
      logLevel: options.log,
      trustProxy: options.trustProxy ?? false,
      workMsPerSecond: options.workPerSecond,
      // Set by the tests of the command line.
      checkAnswers: process.env['DIMESTALL_CHECK_ANSWERS'] === '1',
    });
    // The last resort: what nobody caught is noted, and the others are served on.
    for (const event of ['uncaughtException', 'unhandledRejection'] as const)
      process.on(event, (error: unknown) => listening.service.faults.note(event, error));
    if (options.tokenFile) await keepToken(listening, options.tokenFile, known);
    else if (!listening.service.access.any())
      process.stderr.write(
        `No token exists yet. Make one in another terminal: dimestall token --data ${options.data} --role admin\n`,
      );
    let backups: Backups | undefined;
    try {
      backups = backupsOf(listening, options);
    } catch (error) {
      await listening.close();
      throw error;
    }
    backups?.arm();
    // It is looked at while it sells already: a start does not wait for what is rarely found.
    if (isCutOff)
      checkProcess(options.data).catch((error: Error) => {
        if (!(error instanceof Damaged)) {
          listening.service.faults.note('the look at the database after it was cut off', error);
          return;
        }
        process.stderr.write(`${error.message}\nThe service has stopped: it would sell on what is damaged.\n`);
        backups?.close();
        void listening.close().then(() => process.exit(1));
      });
    const words = `Dime Stall listens on ${listening.url}`;
    // For people, or as a line of the log.
    if (process.stdout.isTTY || options.log === 'silent') process.stdout.write(`${words}\n`);
    else listening.service.log.info({ url: listening.url, version: packageVersion() }, words);
    for (const signal of ['SIGINT', 'SIGTERM'] as const)
      process.once(signal, () => {
        backups?.close();
        void listening.close().then(() => process.exit(0));
      });
  });

program
  .command('verify')
  .description('check balances, stock and purchases against the ledger')
  .addOption(data())
  .option('--json', 'print JSON')
  // Of a start after the service was cut off: SQLite's own look at it, and no sums.
  .addOption(new Option('--pages').hideHelp())
  .action(({ data: file, json, pages }: { data: string; json?: boolean; pages?: boolean }) => {
    const database = databaseRead(file);
    if (pages) {
      const damage = pagesDamage(database);
      database.close();
      if (damage) process.stderr.write(`${damage.message}\n`);
      process.exitCode = damage ? DAMAGED : 0;
      return;
    }
    let report;
    try {
      report = integrityCheck(database);
    } catch (error) {
      throw databaseProblem(file, error);
    } finally {
      database.close();
    }
    process.stdout.write(
      json
        ? `${JSON.stringify(report)}\n`
        : `${countText(report.players, 'player')}, ${countText(report.movements, 'movement')}, ${countText(report.purchases, 'purchase')}: ${report.faults.length === 0 ? 'all agree' : countText(report.faults.length, 'fault')}\n${report.faults.map((fault) => `  ${fault}\n`).join('')}`,
    );
    process.exitCode = report.faults.length === 0 ? 0 : 1;
  });

program
  .command('backup <file>')
  .description('copy the database into a file of its own, also while a service runs on it, and check the copy')
  .addOption(data())
  .option('--json', 'print JSON')
  .action(async (to: string, { data: file, json }: { data: string; json?: boolean }) => {
    const copied = await databaseBackup(file, to);
    process.stdout.write(
      json ? `${JSON.stringify({ file: to, ...copied })}\n` : `Backed up ${file} to ${to}: ${copiedWords(copied)}.\n`,
    );
  });

program
  .command('restore <file>')
  .description('put a backup in the place of the database, on which no service may run, and keep what was there')
  .addOption(data())
  .option('--json', 'print JSON')
  .action(async (from: string, { data: file, json }: { data: string; json?: boolean }) => {
    const { replaced, ...copied } = await databaseRestore(from, file, Date.now());
    const kept = replaced === null ? '' : ` What was there is kept as ${replaced}.`;
    process.stdout.write(
      json
        ? `${JSON.stringify({ file, replaced, ...copied })}\n`
        : `Restored ${from} to ${file}: ${copiedWords(copied)}.${kept}\n`,
    );
  });

const copiedWords = ({ players, movements, purchases, bytes, older }: Copied): string =>
  older
    ? `${(bytes / 1e6).toFixed(1)} MB of an older version, whole as far as SQLite sees; the service brings it along and verify looks into it`
    : `${countText(players, 'player')}, ${countText(movements, 'movement')}, ${countText(purchases, 'purchase')}, ${(bytes / 1e6).toFixed(1)} MB, all agree`;

program
  .command('token')
  .description('make a token; it is shown this once')
  .addOption(data())
  .addOption(new Option('--role <role>', 'what it may do').choices(ROLE_NAMES).default('admin'))
  .option('--name <name>', 'whose it is', 'admin')
  .option('--days <number>', 'how long it is good; until it is revoked otherwise', wholeFrom(1, 3650))
  .option('--json', 'print JSON')
  .action(({ data: file, role, name, days, json }: TokenOptions) => {
    // A service may run on it, which sees the token with the next request.
    const database = databaseBeside(file);
    const token = database.raw
      .transaction(() =>
        tokenIssue(new Access(new TokenStore(database), Date.now), new Trail(database, Date.now), name, role, days),
      )
      .immediate();
    database.close();
    process.stdout.write(`${json ? JSON.stringify({ name, role, token }) : token}\n`);
  });

function backupsOf({ service }: Listening, options: ServeOptions): Backups | undefined {
  const { data: file, backupTo: folder, backupEvery, backupKeep } = options;
  if (folder === undefined) return undefined;
  const plan = { data: file, folder, everyMs: backupEvery * HOUR_MS, keep: backupKeep };
  return new Backups(plan, service.faults, Date.now, afterReal);
}

/** Inside a transaction. */
function tokenIssue(access: Access, trail: Trail, name: string, role: Role, days?: number): string {
  trail.add('operator', 'token.issue', name, role);
  return access.issue(name, role, days === undefined ? undefined : days * DAY_MS);
}

/** The file keeps its token while the database knows it; a new database gets a new one. */
async function keepToken({ service, url }: Listening, file: string, known: string | undefined): Promise<void> {
  const { access, trail, writer } = service;
  const token =
    known !== undefined && access.whoHas(known)
      ? known
      : await writer.submit(() => tokenIssue(access, trail, 'demo', 'admin'));
  writeFileSync(file, `${JSON.stringify({ url, token }, null, 2)}\n`, { mode: 0o600 });
  // Also where the file was there before.
  chmodSync(file, 0o600);
}

function tokenIn(file: string): string | undefined {
  if (!existsSync(file)) return undefined;
  try {
    const { token } = JSON.parse(readFileSync(file, 'utf8')) as { token?: unknown };
    if (typeof token === 'string') return token;
  } catch {
    // Told below: what is no JSON is not what was written there.
  }
  throw new StartProblem(
    `${file} does not hold a token, as --token-file wrote it. Remove it, and a new one is made; or name another file.`,
  );
}

try {
  await program.parseAsync();
} catch (error) {
  if (!(error instanceof StartProblem || error instanceof DatabaseProblem)) throw error;
  process.stderr.write(`${error.message}\n`);
  process.exitCode = 1;
}
