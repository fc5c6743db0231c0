/** The parts of the running service, wired together once. */
import { randomBytes } from 'node:crypto';
import pino from 'pino';
import type { Logger } from 'pino';
import type { Published } from '../contract/index.js';
import { Access } from './access.js';
import { Channels } from './channels/channels.js';
import { DraftCases } from './draft/cases.js';
import { Draft } from './draft/draft.js';
import { Faults } from './faults.js';
import { Caches } from './held.js';
import { HotFront } from './hotFront.js';
import { Problem } from './problem.js';
import { Releases, releasePublish } from './releases/releases.js';
import type { Publishing } from './releases/releases.js';
import { EventStreams } from './eventStream.js';
import { ownProcess } from './ownProcess.js';
import { Readiness } from './readiness.js';
import { USUAL_DAYS } from './retention/policy.js';
import type { KeptDays } from './retention/policy.js';
import { Retention } from './retention/retention.js';
import { RankingChanges } from './rankings/changes.js';
import { Rankings } from './rankings/rankings.js';
import { Rotations } from './rotations/rotations.js';
import { RunManager } from './runs/runManager.js';
import { Sources } from './sources.js';
import { ChannelStore } from './store/channelStore.js';
import { databaseOpen, databaseRead } from './store/database.js';
import type { Database } from './store/database.js';
import { DraftStore } from './store/draftStore.js';
import { HandledStore } from './store/handledStore.js';
import { LedgerStore } from './store/ledgerStore.js';
import { PictureStore } from './store/pictureStore.js';
import { PlayerStore } from './store/playerStore.js';
import { RankingStore } from './store/rankingStore.js';
import { RetentionStore, picturesNamed } from './store/retentionStore.js';
import { ReleaseStore } from './store/releaseStore.js';
import { RotationStore } from './store/rotationStore.js';
import { RunStore } from './store/runStore.js';
import { SharedStore } from './store/sharedStore.js';
import { TeamStore } from './store/teamStore.js';
import { TokenStore } from './store/tokenStore.js';
import { Stream } from './stream.js';
import { Writer } from './store/writer.js';
import type { WriterOptions } from './store/writer.js';
import { Schedule, afterReal } from './timers.js';
import type { After } from './timers.js';
import { Acts } from './trading/acts.js';
import { Books } from './trading/books.js';
import { Events } from './trading/events.js';
import { OncePerKey } from './trading/once.js';
import { Purchases } from './trading/purchases.js';
import { Support } from './trading/support.js';
import { Teams } from './trading/teams.js';
import { Trail } from './store/trail.js';
import type { Tracing } from './tracing.js';
import { WorkMeter } from './workMeter.js';

export interface Service {
  database: Database;
  caches: Caches;
  writer: Writer;
  players: PlayerStore;
  shared: SharedStore;
  draft: Draft;
  draftCases: DraftCases;
  releases: Releases;
  channels: Channels;
  rotations: Rotations;
  sources: Sources;
  /** Publishes the draft. */
  publish(publishing: Publishing, who: string): Promise<Published>;
  stream: Stream;
  schedule: Schedule;
  retention: Retention;
  pictures: PictureStore;
  ledger: LedgerStore;
  purchases: Purchases;
  acts: Acts;
  events: Events;
  support: Support;
  teams: Teams;
  /** Of use where the database is in memory, and in the thread that answers for rankings. */
  rankings: Rankings;
  rankingChanges: RankingChanges;
  rankingStore: RankingStore;
  teamStore: TeamStore;
  access: Access;
  runs: RunManager;
  trail: Trail;
  hotFront: HotFront;
  faults: Faults;
  log: Logger;
  /** Holds every answer against the contract before it goes out: for tests. */
  checkAnswers: boolean;
  trustProxy: string | false;
  workMsPerSecond: number | undefined;
  /** Where requests are traced. */
  tracing: Tracing | undefined;
  meter: WorkMeter;
  streams: EventStreams;
  readiness: Readiness;
  /** When the newest backup was made that comes by itself, epoch ms; undefined where there is none. */
  newestBackupMs(): number | undefined;
  /** Epoch milliseconds; the only clock of the service. */
  now(): number;
}

export interface ServiceOptions {
  /** The database file, `:memory:`, or the bytes of a database that is held in memory. */
  data: string | Buffer;
  now?: () => number;
  /** `silent`, `info`, `debug`. */
  logLevel?: string;
  /** Where it writes its lines, where that is not by `logLevel`. */
  log?: Logger;
  /** Waits for scheduled releases; the real clock by default. */
  after?: After;
  checkAnswers?: boolean;
  /** Looks at the database only, beside the service that writes it. */
  readOnly?: boolean;
  /** Addresses of proxies (or `loopback`, say) whose word on the caller's address and on https is taken; none by default. */
  trustProxy?: string | false;
  /** What each holder of a token may use of the players' thread in a second, in ms. */
  workMsPerSecond?: number;
  tracing?: Tracing | undefined;
  /** For how many days what is kept: as `POLICIES` says where nothing is said. */
  keptDays?: Partial<KeptDays>;
}

/** JSON, one line each, on standard output; nothing that lets anybody in is ever written. */
export const loggerOf = (level: string): Logger =>
  pino({ level, redact: ['req.headers.authorization', 'req.headers.cookie', 'token', '*.token'] });

export function serviceCreate({
  data,
  now = Date.now,
  logLevel = 'info',
  after = afterReal,
  checkAnswers = false,
  log = loggerOf(logLevel),
  readOnly = false,
  trustProxy = false,
  workMsPerSecond,
  tracing,
  keptDays = {},
}: ServiceOptions): Service {
  const database = readOnly ? databaseRead(data) : databaseOpen(data);
  const caches = new Caches();
  const teamStore = new TeamStore(database, caches);
  const players = new PlayerStore(database, teamStore, caches);
  const shared = new SharedStore(database, caches);
  const trail = new Trail(database, now, (entry) => log.info(entry, 'done'));
  const pictures = new PictureStore(database, caches, now);
  const start = randomBytes(4).toString('hex');
  const faults = new Faults(log);
  const stream = new Stream(start, faults, now);
  const releaseStore = new ReleaseStore(database);
  const draftStore = new DraftStore(database, caches);
  const draft = new Draft(caches, draftStore, pictures, trail, stream, now);
  const releases = new Releases(caches, releaseStore);
  const channels = new Channels(caches, new ChannelStore(database), trail, stream, now);
  const rotations = new Rotations(
    caches,
    new RotationStore(database),
    channels,
    (release) => releases.shelfRules(release),
    trail,
    stream,
    now,
  );
  const sources = new Sources(draft, releases, channels, rotations, now);
  const meter = new WorkMeter(({ request, what }, ms) =>
    log.warn({ request, route: what, ms: Math.round(ms) }, 'held up the players'),
  );
  const readiness = new Readiness(database);
  const options: WriterOptions = {
    isRefusal: (error) => error instanceof Problem,
    onRollback: () => {
      caches.forget();
      stream.undone();
      trail.undone();
    },
    onCommit: () => {
      stream.committed();
      trail.committed();
    },
    onFailure: () => readiness.storageFailed(),
    isOnDisk: () => database.isOnDisk(),
  };
  const writer = new Writer(database, options, meter);
  const ledger = new LedgerStore(database);
  const rankingStore = new RankingStore(database);
  const rankings = new RankingChanges(rankingStore, caches);
  const books = new Books(players, shared, ledger, rankings, sources, now);
  const handled = new HandledStore(database);
  const once = new OncePerKey(handled);
  const retentionStore = new RetentionStore(database, () => pictures.forget());
  const retention = new Retention(
    { ...USUAL_DAYS, ...keptDays },
    retentionStore,
    writer,
    faults,
    log,
    now,
    after,
    () => database.checkpoint(),
    () => picturesShown(database, draftStore, releaseStore),
  );
  const schedule = new Schedule(channels, (release) => releases.prepare(release), writer, faults, now, after);
  return {
    database,
    caches,
    writer,
    players,
    shared,
    draft,
    draftCases: new DraftCases(caches, draft, draftStore),
    releases,
    channels,
    rotations,
    sources,
    publish: (publishing, who) =>
      releasePublish({ writer, draft, store: releaseStore, releases, channels, trail, stream, now }, publishing, who),
    stream,
    schedule,
    retention,
    pictures,
    trail,
    faults,
    log,
    checkAnswers,
    trustProxy,
    workMsPerSecond,
    tracing,
    meter,
    streams: new EventStreams(),
    readiness,
    newestBackupMs: () => undefined,
    now,
    access: new Access(new TokenStore(database), now, caches),
    ledger,
    purchases: new Purchases(writer, books, once, handled),
    acts: new Acts(writer, books, once),
    events: new Events(writer, books, once),
    teams: new Teams(
      writer,
      books,
      new OncePerKey(teamStore.granted),
      teamStore,
      players,
      rankings,
      sources,
      trail,
      now,
    ),
    rankings: new Rankings(rankingStore),
    rankingChanges: rankings,
    rankingStore,
    teamStore,
    support: new Support(writer, books, once, players, rankings, sources, trail, retentionStore, retention, now),
    runs: new RunManager(new RunStore(database), writer, faults, log, now),
    hotFront: new HotFront(players, shared, channels, start),
  };
}

/** The pictures that the draft and the releases name: all of them are read, which nobody who plays waits for. */
async function picturesShown(
  { path }: Database,
  draft: DraftStore,
  releases: ReleaseStore,
): Promise<ReadonlySet<string>> {
  if (path === ':memory:') return picturesNamed(draft, releases);
  return new Set(JSON.parse(await ownProcess(['pictures-named', '--data', path])) as string[]);
}
