/** The service's own process: serve, verify, backup, restore, upgrade, rollback, vacuum, token. The command line starts it; a service manager can too. */
import { rmSync, statSync } from 'node:fs';
import { Command, InvalidArgumentError, Option } from 'commander';
import { DatabaseProblem, StartProblem, integrityCheck } from './index.js';
import { ROLE_NAMES } from '../contract/index.js';
import type { Role } from '../contract/index.js';
import { Access } from './access.js';
import { countText } from '../core/issue/index.js';
import { WORK_MS_PER_SECOND } from './allowance.js';
import { DAMAGED } from './ownProcess.js';
import type { MonthAsked } from './retention/archive.js';
import { archiveCheck, archiveWrite } from './retention/archiveFile.js';
import { POLICIES, keptDaysRead } from './retention/policy.js';
import type { KeptDays } from './retention/policy.js';
import { Caches } from './held.js';
import { DraftStore } from './store/draftStore.js';
import { ReleaseStore } from './store/releaseStore.js';
import { picturesNamed } from './store/retentionStore.js';
import { databaseBackup } from './store/backup.js';
import { pagesDamage } from './store/integrity.js';
import type { Copied } from './store/backup.js';
import {
  databaseBeside,
  databaseMustExist,
  databaseOpen,
  databaseRead,
  databaseUpgradePlan,
  lockTake,
} from './store/database.js';
import { databaseProblem } from './store/databaseProblem.js';
import { databaseRestore, databaseRollback } from './store/restore.js';
import type { Restored } from './store/restore.js';
import { upgradeLock } from './store/upgrade.js';
import type { UpgradePlan } from './store/upgrade.js';
import { TokenStore } from './store/tokenStore.js';
import { Trail } from './store/trail.js';
import { serve, tokenIssue } from './serve.js';

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
  .addOption(
    new Option('--keep <kind=days>', `how long ${Object.keys(POLICIES).join(', ')} are kept, or always`)
      .argParser(keptRead)
      .default({}, 'see docs/operations.md'),
  )
  .option('--archive-to <folder>', 'write movements of old months to files in this folder, and keep their sums')
  // Of the demo: the database is begun anew.
  .addOption(new Option('--fresh').hideHelp())
  .action(serve);

interface VerifyOptions {
  data: string;
  json?: boolean;
  pages?: boolean;
  archive?: string;
}

/** What is looked at next, for whoever watches: years of movements take minutes. */
function tellProgress(what: string): void {
  if (process.stderr.isTTY) process.stderr.write(`Looking at ${what} ...\n`);
}

program
  .command('verify')
  .description('check balances, stock and purchases against the ledger')
  .addOption(data())
  .option('--json', 'print JSON')
  // Of a start after the service was cut off: SQLite's own look at it, and no sums.
  .addOption(new Option('--pages').hideHelp())
  .option('--archive <folder>', 'the files of archived movements too')
  .action(async ({ data: file, json, pages, archive }: VerifyOptions) => {
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
      report = integrityCheck(database, tellProgress);
      if (archive !== undefined) report.faults.push(...(await archiveCheck(database, archive, tellProgress)));
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

// What follows is work of the service, done by a process of its own.
program
  .command('pictures-named', { hidden: true })
  .addOption(data())
  .action(({ data: file }: { data: string }) => {
    const database = databaseRead(file);
    const named = picturesNamed(new DraftStore(database, new Caches()), new ReleaseStore(database));
    process.stdout.write(JSON.stringify([...named]));
    database.close();
  });
program
  .command('archive-month <folder> <month>', { hidden: true })
  .addOption(data())
  .action(async (folder: string, month: string, { data: file }: { data: string }) => {
    const database = databaseRead(file);
    const archived = await archiveWrite(database, folder, JSON.parse(month) as MonthAsked);
    process.stdout.write(JSON.stringify(archived ?? null));
    database.close();
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
  .description(
    'put a backup in the place of the database, and keep what was there; a service that runs on it steps aside meanwhile',
  )
  .addOption(data())
  .option('--json', 'print JSON')
  .action(async (from: string, { data: file, json }: { data: string; json?: boolean }) => {
    const restored = await databaseRestore(from, file, Date.now());
    tell(json, { file, ...restored }, `Restored ${from} to ${file}: ${restoredWords(restored)}`);
  });

program
  .command('rollback')
  .description('go back to the copy of before the last upgrade, for a version before this one')
  .addOption(data())
  .option('--anyway', 'also where something was written since, which is lost')
  .option('--json', 'print JSON')
  .action(async ({ data: file, anyway, json }: { data: string; anyway?: boolean; json?: boolean }) => {
    const { copy, ...restored } = await databaseRollback(file, Date.now(), anyway === true);
    tell(
      json,
      { file, copy, ...restored },
      `${file} is as it was before the upgrade, from ${copy}: ${restoredWords(restored)} Start the version that you had before: this one would bring it along again.`,
    );
  });

program
  .command('upgrade')
  .description('bring the database along that an older version made; a start does so by itself')
  .addOption(data())
  .option('--dry-run', 'tell what is to be done and about how long it takes')
  .option('--json', 'print JSON')
  .action(({ data: file, dryRun, json }: { data: string; dryRun?: boolean; json?: boolean }) => {
    databaseMustExist(file);
    const plan = databaseUpgradePlan(file);
    const begun = performance.now();
    if (plan.changes > 0 && !dryRun) {
      const lock = lockTake(upgradeLock(file));
      databaseOpen(file).close();
      lock.close();
      rmSync(`${upgradeLock(file)}.lock`, { force: true });
    }
    const took = `${((performance.now() - begun) / 1000).toFixed(1)} s`;
    const todo = `${countText(plan.changes, 'change')} to ${megabytes(plan.bytes)}, after a copy (${plan.copy})`;
    let words = `${file} is up to date.`;
    if (plan.changes > 0)
      words = dryRun
        ? `${file} is of an older version. To be done: ${todo}. That takes about ${countText(plan.seconds, 'second')}, in which a service that starts tells callers to wait. ${roomWords(plan)}`
        : `${file} is brought along: ${todo}. It took ${took}.`;
    tell(json, { file, ...plan }, words);
  });

/** Prints what came of it, for people or for programs. */
function tell(json: boolean | undefined, answer: object, words: string): void {
  process.stdout.write(json ? `${JSON.stringify(answer)}\n` : `${words}\n`);
}

const roomWords = ({ bytes, freeBytes }: UpgradePlan): string =>
  freeBytes > bytes
    ? `There is room for the copy: ${megabytes(freeBytes)}.`
    : `There is no room for the copy: ${megabytes(freeBytes)} are free, ${megabytes(bytes)} are needed.`;

program
  .command('vacuum')
  .description('write the database, on which no service may run, anew, without the room that is free in it')
  .addOption(data())
  .option('--json', 'print JSON')
  .action(({ data: file, json }: { data: string; json?: boolean }) => {
    const before = databaseMustExist(file);
    const database = databaseOpen(file);
    try {
      database.raw.exec('VACUUM');
      database.checkpoint();
    } catch (error) {
      throw databaseProblem(file, error);
    } finally {
      database.close();
    }
    const bytes = statSync(file).size;
    process.stdout.write(
      json
        ? `${JSON.stringify({ file, before, bytes })}\n`
        : `${file} has ${megabytes(bytes)}; before it had ${megabytes(before)}.\n`,
    );
  });

const megabytes = (bytes: number): string => `${(bytes / 1e6).toFixed(1)} MB`;

const restoredWords = ({ replaced, ...copied }: Restored): string =>
  `${copiedWords(copied)}.${replaced === null ? '' : ` What was there is kept as ${replaced}.`}`;

const copiedWords = ({ players, movements, purchases, bytes, older }: Copied): string =>
  older
    ? `${megabytes(bytes)} of an older version, whole as far as SQLite sees; the service brings it along and verify looks into it`
    : `${countText(players, 'player')}, ${countText(movements, 'movement')}, ${countText(purchases, 'purchase')}, ${megabytes(bytes)}, all agree`;

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

/** Adds one `--keep` to those before it. */
function keptRead(written: string, before: Partial<KeptDays>): Partial<KeptDays> {
  try {
    const { kind, days } = keptDaysRead(written);
    return { ...before, [kind]: days };
  } catch (error) {
    throw new InvalidArgumentError((error as Error).message);
  }
}

try {
  await program.parseAsync();
} catch (error) {
  if (!(error instanceof StartProblem || error instanceof DatabaseProblem)) throw error;
  process.stderr.write(`${error.message}\n`);
  process.exitCode = 1;
}
