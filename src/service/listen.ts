/** Puts the service behind its door, and takes it away again. */
import { createApp } from './app.js';
import { Door, StartProblem } from './door.js';
import type { DoorOptions } from './door.js';
import { serviceCreate } from './service.js';
import type { Service, ServiceOptions } from './service.js';
import { threadsOf } from './threads.js';
import type { Threads } from './threads.js';

/** From this size of the database on the thread for rankings is begun before anybody asks. */
const LARGE_BYTES = 2 ** 25;

/** A service that answers. */
export interface Opened {
  service: Service;
  /** Nobody is let in any more, for the reason that is given; all that was let in is answered, then it lets go of its database. */
  leave(why: string, seconds: number): Promise<void>;
  /** The same, with the door closed. */
  stop(): Promise<void>;
}

export interface Listening {
  service: Service;
  url: string;
  close(): Promise<void>;
}

/** Starts listening, with the service behind it at once. Elsewhere than on loopback it needs a token to exist. */
export async function serviceStart(options: DoorOptions & ServiceOptions): Promise<Listening> {
  const door = await Door.open(options);
  try {
    const { service, stop } = await serviceOpen(door, options);
    return { service, url: door.url, close: stop };
  } catch (error) {
    await door.close();
    throw error;
  }
}

/** Opens the database, and lets callers in. Throws `StartProblem` or `DatabaseProblem`, and then nothing is open but the door. */
export async function serviceOpen(
  door: Door,
  options: ServiceOptions,
  mayOpen: (service: Service) => Promise<void> = () => Promise.resolve(),
): Promise<Opened> {
  const service = serviceCreate(options);
  let threads: Threads | undefined;
  try {
    await mayOpen(service);
    if (!door.isLoopback && !service.access.any())
      throw new StartProblem(
        `It will not listen on ${door.host} while no token is set: anyone could use it. Make one first with: dimestall token --role admin.`,
      );
    await settled(service);
    // Nobody waits for what is live to be compiled.
    await service.sources.warm();
    threads = threadsOf(service);
    door.letIn(appOf(service, threads, door.isLoopback));
    // Of few players the first ranking is told soon enough.
    if (service.database.size() > LARGE_BYTES && service.sources.hasRankings()) threads.rankings.begin();
  } catch (error) {
    await service.runs.close();
    service.database.close();
    throw error;
  }
  service.schedule.arm();
  service.retention.arm();
  const all = threads;
  const leave = (gone: Promise<void>): Promise<void> => letGo(service, all, gone);
  return {
    service,
    leave: (why, seconds) => {
      door.shut(why, seconds);
      return leave(door.empty());
    },
    stop: () => {
      service.readiness.isStopping = true;
      return leave(door.close());
    },
  };
}

/** Before anybody is heard: a run that is begun now is none that the last stop cut off. */
async function settled(service: Service): Promise<void> {
  try {
    await service.runs.endUnfinished();
  } catch (error) {
    throw new StartProblem(`The database cannot be written: ${(error as Error).message}. Mend that, then start again.`);
  }
}

function appOf(service: Service, threads: Threads, isLoopback: boolean): ReturnType<typeof createApp> {
  try {
    return createApp(service, threads, isLoopback);
  } catch (error) {
    throw new StartProblem(
      `--trust-proxy ${String(service.trustProxy)}: ${(error as Error).message}. Name addresses, or loopback.`,
    );
  }
}

/** Ends what goes on by itself, waits until all are `gone`, and closes the database. */
async function letGo(service: Service, threads: Threads, gone: Promise<void>): Promise<void> {
  service.schedule.close();
  service.retention.close();
  service.streams.close();
  await gone;
  await Promise.all(Object.values(threads).map((thread) => thread.close()));
  await service.runs.close();
  service.database.close();
}
