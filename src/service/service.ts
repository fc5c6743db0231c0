/** The parts of the running service, wired together once. */
import { randomBytes } from 'node:crypto';
import pino from 'pino';
import type { Logger } from 'pino';
import { Access } from './access.js';
import { EconomyStore } from './economyStore.js';
import { HotFront } from './hotFront.js';
import { Problem } from './problem.js';
import { RunManager } from './runs/runManager.js';
import { databaseOpen } from './store/database.js';
import type { Database } from './store/database.js';
import { PictureStore } from './store/pictureStore.js';
import { PlayerStore } from './store/playerStore.js';
import { Writer } from './store/writer.js';
import { Trading } from './trading.js';
import { Trail } from './trail.js';

export interface Service {
  database: Database;
  writer: Writer;
  players: PlayerStore;
  economies: EconomyStore;
  pictures: PictureStore;
  trading: Trading;
  access: Access;
  runs: RunManager;
  trail: Trail;
  hotFront: HotFront;
  log: Logger;
  /** Epoch milliseconds; the only clock of the service. */
  now(): number;
}

export interface ServiceOptions {
  /** The database file, or `:memory:`. */
  data: string;
  now?: () => number;
  /** `silent`, `info`, `debug`. */
  logLevel?: string;
}

export function serviceCreate({ data, now = Date.now, logLevel = 'info' }: ServiceOptions): Service {
  const log = pino({
    level: logLevel,
    redact: ['req.headers.authorization', 'req.headers.cookie', 'token', '*.token'],
  });
  const database = databaseOpen(data);
  const players = new PlayerStore(database);
  const trail = new Trail(database, now);
  const pictures = new PictureStore(database, now);
  const economies = new EconomyStore(database, pictures, trail, now);
  const writer = new Writer(database, {
    isRefusal: (error) => error instanceof Problem,
    onRollback: () => {
      players.forget();
      economies.forget();
      pictures.forget();
    },
  });
  return {
    database,
    writer,
    players,
    economies,
    pictures,
    trail,
    log,
    now,
    access: new Access(database, now),
    trading: new Trading(database, writer, players, economies, trail, now),
    runs: new RunManager(database, now, (error) => log.error(error, 'a run failed')),
    hotFront: new HotFront(players, randomBytes(4).toString('hex')),
  };
}
