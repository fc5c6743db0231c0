/** Starts and stops listening, and says in a sentence why it cannot. */
import { createServer } from 'node:http';
import { setTimeout as delay } from 'node:timers/promises';
import type { Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { createApp } from './app.js';
import { Aside } from './aside/aside.js';
import type { Threads } from './aside/aside.js';
import { serviceCreate } from './service.js';
import type { Service, ServiceOptions } from './service.js';

export interface Listening {
  service: Service;
  url: string;
  close(): Promise<void>;
}

const KEEP_ALIVE_MS = 65_000;
/** A request that has not come whole by then is cut off. */
const REQUEST_MS = 30_000;

/** Callers that may knock at once: one more is not heard, and tries again only after a second. */
const BACKLOG = 4096;

/** How long a stop waits for what is being answered. */
const STOP_MS = 10_000;
/** How often it is looked whether all are answered, and how often in a row that must be so. */
const ROUND_MS = 10;
const QUIET_ROUNDS = 2;

const LOOPBACK = ['127.0.0.1', '::1', 'localhost'];

/** Something that keeps the service from starting, as a sentence with the way out. */
export class StartProblem extends Error {}

export interface ListenOptions extends ServiceOptions {
  port: number;
  /** Loopback unless told otherwise. */
  host?: string;
  /** Milliseconds that a request has to come whole. */
  requestMs?: number;
}

/** Starts listening. Port 0 picks a free one. Elsewhere than on loopback it needs a token to exist. */
export async function serviceStart(options: ListenOptions): Promise<Listening> {
  const { host = '127.0.0.1', requestMs = REQUEST_MS } = options;
  const service = serviceCreate(options);
  if (!LOOPBACK.includes(host) && !service.access.any()) {
    service.database.close();
    throw new StartProblem(
      `It will not listen on ${host} while no token is set: anyone could use it. Make one first with: dimestall token --role admin.`,
    );
  }
  await settled(service);
  // Nobody waits for what is live to be compiled.
  await service.sources.warm();
  const threads = { first: new Aside(service), second: new Aside(service) };
  const server = createServer(
    { connectionsCheckingInterval: requestMs / 10 },
    appOf(service, threads, LOOPBACK.includes(host)),
  );
  const asked = { open: 0 };
  server.prependListener('request', (_request, response) => {
    asked.open++;
    response.once('close', () => asked.open--);
    // A connection that stays open would be asked on again while the service stops.
    if (service.readiness.isStopping) response.shouldKeepAlive = false;
  });
  server.requestTimeout = requestMs;
  // Longer than callers keep a connection: one that is closed while a request is on its way looks like a failure.
  server.keepAliveTimeout = KEEP_ALIVE_MS;
  server.headersTimeout = requestMs;
  try {
    await listen(server, options.port, host);
  } catch (error) {
    await service.runs.close();
    service.database.close();
    throw new StartProblem(listenAdvice(error as NodeJS.ErrnoException, options.port, host));
  }
  service.schedule.arm();
  const { port } = server.address() as AddressInfo;
  return {
    service,
    url: `http://${host.includes(':') ? `[${host}]` : host}:${port}`,
    close: () => stop(service, threads, server, asked),
  };
}

/** Before anybody is heard: a run that is begun now is none that the last stop cut off. */
async function settled(service: Service): Promise<void> {
  try {
    await service.runs.endUnfinished();
  } catch (error) {
    service.database.close();
    throw new StartProblem(`The database cannot be written: ${(error as Error).message}. Mend that, then start again.`);
  }
}

function appOf(service: Service, threads: Threads, isLoopback: boolean): ReturnType<typeof createApp> {
  try {
    return createApp(service, threads, isLoopback);
  } catch (error) {
    service.database.close();
    throw new StartProblem(
      `--trust-proxy ${String(service.trustProxy)}: ${(error as Error).message}. Name addresses, or loopback.`,
    );
  }
}

function listen(server: Server, port: number, host: string): Promise<void> {
  return new Promise((resolve, reject) => {
    server.once('error', reject);
    server.listen(port, host, BACKLOG, () => {
      server.off('error', reject);
      resolve();
    });
  });
}

function listenAdvice(error: NodeJS.ErrnoException, port: number, host: string): string {
  const advice: Record<string, string> = {
    EADDRINUSE: `Port ${port} is in use. Stop what uses it, or choose another with --port.`,
    EACCES: `Port ${port} needs more rights. Choose one above 1023 with --port.`,
    EADDRNOTAVAIL: `This machine has no address ${host}. Choose another with --host.`,
  };
  return advice[error.code ?? ''] ?? `It cannot listen on ${host}:${port}: ${error.message}`;
}

/** Nobody new is heard; what was accepted is answered, as far as that takes no longer than `STOP_MS`. */
async function stop(
  service: Service,
  { first, second }: Threads,
  server: Server,
  asked: { readonly open: number },
): Promise<void> {
  service.readiness.isStopping = true;
  const closed = new Promise<void>((resolve) => {
    server.close(() => resolve());
  });
  service.schedule.close();
  service.streams.close();
  // Connections stay open of those who were answered, and of browsers that have yet to ask: nobody waits for them. What
  // is on its way while the last is answered is heard in the next round.
  const untilMs = performance.now() + STOP_MS;
  for (let quiet = 0; quiet < QUIET_ROUNDS && performance.now() < untilMs;) {
    server.closeIdleConnections();
    await delay(ROUND_MS);
    quiet = asked.open === 0 ? quiet + 1 : 0;
  }
  server.closeAllConnections();
  await Promise.all([first.close(), second.close()]);
  await service.runs.close();
  await closed;
  service.database.close();
}
