/** The parts of the running service, wired together once. */
import { randomBytes } from 'node:crypto';
import pino from 'pino';
import type { Logger } from 'pino';
import { Access } from './access.js';
import { ChannelStore } from './channelStore.js';
import { EconomyStore } from './economyStore.js';
import { HotFront } from './hotFront.js';
import { Problem } from './problem.js';
import { RunManager } from './runs/runManager.js';
import { databaseOpen } from './store/database.js';
import type { Database } from './store/database.js';
import { PictureStore } from './store/pictureStore.js';
import { PlayerStore } from './store/playerStore.js';
import { Stream } from './stream.js';
import { Writer } from './store/writer.js';
import { Schedule, afterReal } from './timers.js';
import type { After } from './timers.js';
import { Trading } from './trading.js';
import { Trail } from './trail.js';

export interface Service {
  database: Database;
  writer: Writer;
  players: PlayerStore;
  economies: EconomyStore;
  channels: ChannelStore;
  stream: Stream;
  schedule: Schedule;
  pictures: PictureStore;
  trading: Trading;
  access: Access;
  runs: RunManager;
  trail: Trail;
  hotFront: HotFront;
  log: Logger;
  /** Holds every answer against the contract before it goes out: for tests. */
  checkAnswers: boolean;
  /** Epoch milliseconds; the only clock of the service. */
  now(): number;
}

export interface ServiceOptions {
  /** The database file, or `:memory:`. */
  data: string;
  now?: () => number;
  /** `silent`, `info`, `debug`. */
  logLevel?: string;
  /** Waits for scheduled releases; the real clock by default. */
  after?: After;
  checkAnswers?: boolean;
}

export function serviceCreate({
  data,
  now = Date.now,
  logLevel = 'info',
  after = afterReal,
  checkAnswers = false,
}: ServiceOptions): Service {
  const log = pino({
    level: logLevel,
    redact: ['req.headers.authorization', 'req.headers.cookie', 'token', '*.token'],
  });
  const database = databaseOpen(data);
  const players = new PlayerStore(database);
  const trail = new Trail(database, now);
  const pictures = new PictureStore(database, now);
  const start = randomBytes(4).toString('hex');
  const stream = new Stream(start, now);
  const economies: EconomyStore = new EconomyStore(database, pictures, trail, stream, now);
  const channels = new ChannelStore(database, trail, stream, (release) => economies.releaseDocument(release), now);
  economies.use(channels);
  const writer = new Writer(database, {
    isRefusal: (error) => error instanceof Problem,
    onRollback: () => {
      players.forget();
      economies.forget();
      pictures.forget();
      channels.forget();
      stream.undone();
    },
    onCommit: () => stream.committed(),
  });
  const schedule = new Schedule(channels, writer, now, after);
  return {
    database,
    writer,
    players,
    economies,
    channels,
    stream,
    schedule,
    pictures,
    trail,
    log,
    checkAnswers,
    now,
    access: new Access(database, now),
    trading: new Trading(database, writer, players, economies, trail, now),
    runs: new RunManager(database, now, (error) => log.error(error, 'a run failed')),
    hotFront: new HotFront(players, channels, start),
  };
}
