/** Serves until it is stopped: brings the database along, looks whether it is whole, and steps aside for a restore. */
import { chmodSync, existsSync, readFileSync, statSync, writeFileSync } from 'node:fs';
import { setTimeout as delay } from 'node:timers/promises';
import type { Logger } from 'pino';
import type { Role } from '../contract/index.js';
import { DAY_MS } from '../core/schedule/index.js';
import { packageVersion } from '../packageRoot.js';
import type { Access } from './access.js';
import { Backups } from './backups.js';
import { Door, StartProblem } from './door.js';
import { serviceOpen } from './listen.js';
import type { Opened } from './listen.js';
import { Damaged, checkProcess, ownProcess } from './ownProcess.js';
import { Archive } from './retention/archive.js';
import type { KeptDays } from './retention/policy.js';
import { loggerOf } from './service.js';
import type { Service } from './service.js';
import type { Archived } from './store/archiveStore.js';
import { databaseRemove, databaseUpgradePlan, isLocked, wasCutOff } from './store/database.js';
import { DatabaseProblem } from './store/databaseProblem.js';
import { damageSeenAtOnce } from './store/integrity.js';
import { restoreLock } from './store/restore.js';
import { isRestoreAsked, markRemove, moveCutOff } from './store/restoreMark.js';
import type { Trail } from './store/trail.js';
import { upgradeLock } from './store/upgrade.js';
import { afterReal } from './timers.js';
import { tracingStart } from './tracing.js';
import type { Tracing } from './tracing.js';

const HOUR_MS = 3_600_000;

/** Connections that are taken in each turn of the event loop, beside the one that Node takes. */
const ACCEPTORS = 64;

/** How long a start after a cut-off waits for the look at a large file, before it sells while that goes on. */
const LOOK_MS = 3000;
/** A database that takes longer to be brought along is brought along by a process of its own. */
const ASIDE_S = 1;
/** How often it is looked whether somebody wants to restore, and whether they are done. */
const RESTORE_LOOK_MS = 250;
const BROUGHT_ALONG = 'its database is being brought along from an older version';
/** About how long a restore keeps the service shut. */
const RESTORE_S = 5;

export interface ServeOptions {
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
  keep: Partial<KeptDays>;
  archiveTo?: string;
  fresh?: boolean;
}

/** Resolves once it answers; the process ends when it is told to. Throws `StartProblem` or `DatabaseProblem`. */
export async function serve(options: ServeOptions): Promise<void> {
  // Before anything is opened: a file that is something else is no place for a token.
  const known = options.tokenFile === undefined ? undefined : tokenIn(options.tokenFile);
  const door = await Door.open(options);
  // Nobody waits for it: it is begun beside the rest.
  void door.widen(ACCEPTORS);
  const log = loggerOf(options.log);
  const stall = new Stall(door, options, log, await tracingStart(log), known);
  for (const signal of ['SIGINT', 'SIGTERM'] as const) process.once(signal, () => void stall.end(0));
  // The last resort: what nobody caught is noted, and the others are served on.
  for (const event of ['uncaughtException', 'unhandledRejection'] as const)
    process.on(event, (error: unknown) => stall.note(event, error));
  try {
    if (options.fresh) databaseRemove(options.data);
    await stall.open();
  } catch (error) {
    // Whoever stopped it meanwhile is not told that it did not start.
    if (stall.isEnding) return;
    await door.close();
    throw error;
  }
  stall.watch();
}

class Stall {
  isEnding = false;
  private opened: Opened | undefined;
  /** What is done by itself while it is open. */
  private routines: (Backups | Archive)[] = [];
  private readonly ending = new AbortController();
  /** Ends the look at the database that goes on while it sells. */
  private looking = new AbortController();

  constructor(
    private readonly door: Door,
    private readonly options: ServeOptions,
    private readonly log: Logger,
    private readonly tracing: Tracing | undefined,
    /** The token in the token file. */
    private known: string | undefined,
  ) {}

  async open(): Promise<void> {
    const { options, door } = this;
    const isCutOff = wasCutOff(options.data);
    await this.bringAlong();
    const opened = await serviceOpen(
      door,
      {
        data: options.data,
        log: this.log,
        tracing: this.tracing,
        trustProxy: options.trustProxy ?? false,
        workMsPerSecond: options.workPerSecond,
        keptDays: options.keep,
        // Set by the tests of the command line.
        checkAnswers: process.env['DIMESTALL_CHECK_ANSWERS'] === '1',
      },
      async (service) => {
        await this.mustBeWhole(service, isCutOff);
        await this.keepToken(service);
      },
    );
    this.opened = opened;
    try {
      this.routines = [...backupsOf(opened, options), ...archiveOf(opened, options)];
    } catch (error) {
      await opened.stop();
      throw error;
    }
    for (const routine of this.routines) routine.arm();
    const words = `Dime Stall listens on ${door.url}`;
    // For people, or as a line of the log.
    if (process.stdout.isTTY || options.log === 'silent') process.stdout.write(`${words}\n`);
    else this.log.info({ url: door.url, version: packageVersion() }, words);
  }

  note(where: string, error: unknown): void {
    if (this.opened) this.opened.service.faults.note(where, error);
    else this.log.error({ err: error, where }, 'something failed while nobody waited for it');
  }

  /** Stops, and ends the process. */
  async end(code: number): Promise<void> {
    if (this.isEnding) return;
    this.isEnding = true;
    this.ending.abort();
    this.rest();
    await (this.opened?.stop() ?? this.door.close());
    await this.tracing?.close();
    process.exit(code);
  }

  /** Looks for those who want to restore. */
  watch(): void {
    const again = (): void => void setTimeout(() => void look(), RESTORE_LOOK_MS).unref();
    const look = async (): Promise<void> => {
      try {
        if (isRestoreAsked(this.options.data)) await this.stepAside();
      } catch (error) {
        if (this.isEnding) return;
        process.stderr.write(`${(error as Error).message}\nThe service has stopped.\n`);
        await this.end(1);
      }
      again();
    };
    again();
  }

  /** Nothing is done by itself any more. */
  private rest(): void {
    this.looking.abort();
    for (const routine of this.routines.splice(0)) routine.close();
  }

  /** Lets go of the database until it is restored. */
  private async stepAside(): Promise<void> {
    const { data } = this.options;
    const isAtIt = () => isRestoreAsked(data) && isLocked(restoreLock(data));
    if (isAtIt()) {
      this.log.info('steps aside for a restore');
      this.rest();
      const { opened } = this;
      this.opened = undefined;
      await opened?.leave('a backup is being restored', RESTORE_S);
      while (isAtIt()) await delay(RESTORE_LOOK_MS);
    }
    // Who asked has ended before anything was moved.
    if (moveCutOff(data) === undefined) markRemove(data);
    if (!this.opened && !this.isEnding) await this.open();
  }

  /** An older database of some size is brought along by another process, while who asks is told to wait. */
  private async bringAlong(): Promise<void> {
    const { data } = this.options;
    if (!existsSync(data) || statSync(data).size === 0) return;
    // One that was killed may have left the process behind that was at it.
    while (isLocked(upgradeLock(data)) && !this.isEnding) {
      this.door.shut(BROUGHT_ALONG, ASIDE_S);
      await delay(RESTORE_LOOK_MS);
    }
    const { changes, bytes, seconds, copy } = databaseUpgradePlan(data);
    if (seconds <= ASIDE_S) return;
    this.door.shut(BROUGHT_ALONG, seconds);
    this.log.info({ changes, bytes, seconds, copy }, 'the database is brought along');
    if (this.options.log === 'silent')
      process.stderr.write(
        `The database is of an older version. It is copied to ${copy} and brought along, which takes about ${seconds} seconds.\n`,
      );
    const begun = performance.now();
    try {
      await ownProcess(['upgrade', '--data', data], this.ending.signal);
    } catch (error) {
      throw new DatabaseProblem((error as Error).message, { cause: error });
    }
    this.log.info({ ms: Math.round(performance.now() - begun) }, 'the database is up to date');
  }

  /** Throws where damage is seen at once. The rest of a large file is looked at while it sells already. */
  private async mustBeWhole({ database, faults }: Service, isCutOff: boolean): Promise<void> {
    const { damage, isWhole } = damageSeenAtOnce(database);
    if (damage) throw damage;
    if (isWhole) return;
    let sells = false;
    this.looking = new AbortController();
    const { signal } = this.looking;
    const looked = checkProcess(database.path, signal).then(
      () => undefined,
      (error: Error) => {
        if (signal.aborted) return;
        if (!(error instanceof Damaged)) faults.note('the look at the database', error);
        else if (!sells) throw new DatabaseProblem(error.message, { cause: error });
        else {
          process.stderr.write(`${error.message}\nThe service has stopped: it would sell on what is damaged.\n`);
          void this.end(1);
        }
      },
    );
    if (isCutOff) await Promise.race([looked, delay(LOOK_MS)]);
    sells = true;
  }

  /** The file keeps its token while the database knows it; a new database gets a new one. */
  private async keepToken({ access, trail, writer }: Service): Promise<void> {
    const { tokenFile, data } = this.options;
    if (tokenFile === undefined) {
      if (!access.any())
        process.stderr.write(
          `No token exists yet. Make one in another terminal: dimestall token --data ${data} --role admin\n`,
        );
      return;
    }
    const { known } = this;
    this.known =
      known !== undefined && access.whoHas(known)
        ? known
        : await writer.submit(() => tokenIssue(access, trail, 'demo', 'admin'));
    writeFileSync(tokenFile, `${JSON.stringify({ url: this.door.url, token: this.known }, null, 2)}\n`, {
      mode: 0o600,
    });
    // Also where the file was there before.
    chmodSync(tokenFile, 0o600);
  }
}

function backupsOf({ service }: Opened, options: ServeOptions): Backups[] {
  const { data: file, backupTo: folder, backupEvery, backupKeep } = options;
  if (folder === undefined) return [];
  const plan = { data: file, folder, everyMs: backupEvery * HOUR_MS, keep: backupKeep };
  const backups = new Backups(plan, service.faults, service.log, Date.now, afterReal);
  service.newestBackupMs = () => backups.newestMs();
  return [backups];
}

function archiveOf({ service }: Opened, { data: file, archiveTo }: ServeOptions): Archive[] {
  if (archiveTo === undefined) return [];
  const archive = new Archive(archiveTo, file, service, afterReal, async (folder, asked) => {
    const printed = await ownProcess(['archive-month', folder, JSON.stringify(asked), '--data', file]);
    return (JSON.parse(printed) as Archived | null) ?? undefined;
  });
  return [archive];
}

/** Inside a transaction. */
export function tokenIssue(access: Access, trail: Trail, name: string, role: Role, days?: number): string {
  trail.add('operator', 'token.issue', name, role);
  return access.issue(name, role, days === undefined ? undefined : days * DAY_MS);
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
