/** The port: open before there is anything behind it, so that whoever asks meanwhile is told why, and when to come again. */
import { createServer } from 'node:http';
import type { RequestListener, Server } from 'node:http';
import type { AddressInfo, Server as NetServer, Socket } from 'node:net';
import { setTimeout as delay } from 'node:timers/promises';
import { acceptorsAdd } from './acceptors.js';
import { connectionsAllowed } from './openFiles.js';
import { Problem } from './problem.js';

const KEEP_ALIVE_MS = 65_000;
/** A request that has not come whole by then is cut off. */
const REQUEST_MS = 30_000;

/** Callers that may knock at once: one more is not heard, and tries again only after a second. */
const BACKLOG = 4096;

/** How long what is being answered is waited for. */
const LEAVE_MS = 10_000;
/** How often it is looked whether all are answered, and how often in a row that must be so. */
const ROUND_MS = 10;
const QUIET_ROUNDS = 2;

/** After how many seconds it is worth asking again, at least and at most. */
const RETRY_S = [1, 60] as const;

const LOOPBACK = ['127.0.0.1', '::1', 'localhost'];

/** Something that keeps the service from starting, as a sentence with the way out. */
export class StartProblem extends Error {}

export interface DoorOptions {
  port: number;
  /** Loopback unless told otherwise. */
  host?: string;
  /** Milliseconds that a request has to come whole. */
  requestMs?: number;
}

export class Door {
  /** Requests that were let in and are not answered yet. */
  private inside = 0;
  private connections = 0;
  /** Told of each that is taken. */
  onConnection: () => void = () => undefined;
  /** What takes connections beside the server itself. */
  private others: NetServer[] = [];
  private handler: RequestListener | undefined;
  private why = 'it starts';
  /** By the clock of `performance`. */
  private opensMs = 0;
  private isStopping = false;

  private constructor(
    private readonly server: Server,
    readonly host: string,
    private readonly mostConnections: number,
  ) {}

  /** From now on so many more callers are heard in each turn of the event loop. */
  async widen(count: number): Promise<void> {
    this.others = await acceptorsAdd(this.server, count, BACKLOG, (socket) => this.server.emit('connection', socket));
    // It was closed meanwhile.
    if (this.isStopping) for (const other of this.others) other.close();
  }

  private connected(socket: Socket): void {
    this.connections++;
    this.onConnection();
    socket.once('close', () => this.connections--);
    if (this.connections <= this.mostConnections) return;
    // Whoever comes when all places are taken is not heard; those who keep one without asking give it up.
    socket.destroy();
    this.server.closeIdleConnections();
  }

  /** Starts listening. Port 0 picks a free one. Throws `StartProblem`. */
  static async open({ port, host = '127.0.0.1', requestMs = REQUEST_MS }: DoorOptions): Promise<Door> {
    const { most, problem } = connectionsAllowed();
    if (problem !== undefined) throw new StartProblem(problem);
    const server = createServer({ connectionsCheckingInterval: requestMs / 10 });
    const door = new Door(server, host, most);
    server.prependListener('connection', (socket) => door.connected(socket));
    server.on('request', (request, response) => door.enter(request, response));
    server.requestTimeout = requestMs;
    // Longer than callers keep a connection: one that is closed while a request is on its way looks like a failure.
    server.keepAliveTimeout = KEEP_ALIVE_MS;
    server.headersTimeout = requestMs;
    try {
      await new Promise<void>((resolve, reject) => {
        server.once('error', reject);
        server.listen(port, host, BACKLOG, () => {
          server.off('error', reject);
          resolve();
        });
      });
    } catch (error) {
      throw new StartProblem(listenAdvice(error as NodeJS.ErrnoException, port, host));
    }
    return door;
  }

  get isLoopback(): boolean {
    return LOOPBACK.includes(this.host);
  }

  get url(): string {
    const { port } = this.server.address() as AddressInfo;
    return `http://${this.host.includes(':') ? `[${this.host}]` : this.host}:${port}`;
  }

  /** From now on `handler` answers. */
  letIn(handler: RequestListener): void {
    this.handler = handler;
  }

  /** Nobody is let in. `why` is a clause; about how many seconds that lasts is told to who asks. */
  shut(why: string, seconds: number): void {
    this.handler = undefined;
    this.why = why;
    this.opensMs = performance.now() + seconds * 1000;
  }

  /** Waits until all who were let in are answered. Who takes longer than `LEAVE_MS` is cut off. */
  async empty(): Promise<void> {
    const untilMs = performance.now() + LEAVE_MS;
    for (let quiet = 0; quiet < QUIET_ROUNDS && performance.now() < untilMs;) {
      // Connections stay open of those who were answered, and of browsers that have yet to ask: nobody waits for them.
      if (this.isStopping) this.server.closeIdleConnections();
      await delay(ROUND_MS);
      quiet = this.inside === 0 ? quiet + 1 : 0;
    }
    if (this.isStopping || this.inside > 0) this.server.closeAllConnections();
  }

  /** Nobody new is heard; what is on its way while the last is answered still is. Resolves when all have gone. */
  async close(): Promise<void> {
    this.isStopping = true;
    const closed = new Promise<void>((resolve) => {
      this.server.close(() => resolve());
    });
    for (const other of this.others) other.close();
    await this.empty();
    await closed;
  }

  private enter(...[request, response]: Parameters<RequestListener>): void {
    // A connection that stays open would be asked on again while the service stops.
    if (this.isStopping) response.shouldKeepAlive = false;
    if (!this.handler) {
      this.refuse(request, response);
      return;
    }
    this.inside++;
    response.once('close', () => this.inside--);
    this.handler(request, response);
  }

  /** The process lives, and that is all that there is. */
  private refuse(...[{ url = '', headers }, response]: Parameters<RequestListener>): void {
    const { why } = this;
    const send = (status: number, type: string, body: string): void => {
      response.writeHead(status, { 'Content-Type': type, 'Cache-Control': 'no-store' }).end(body);
    };
    if (url === '/healthz') {
      send(200, 'application/json', JSON.stringify({ status: 'up' }));
      return;
    }
    const leftS = Math.ceil((this.opensMs - performance.now()) / 1000);
    const retryS = Math.min(Math.max(leftS, RETRY_S[0]), RETRY_S[1]);
    response.setHeader('Retry-After', String(retryS));
    if (url === '/readyz') {
      send(503, 'application/json', JSON.stringify({ status: 'not ready', why }));
      return;
    }
    const lasts = leftS > 1 ? ` That takes about ${leftS} more seconds.` : '';
    const problem = new Problem(
      'not-open',
      `${why[0]!.toUpperCase()}${why.slice(1)}.${lasts} Nothing was changed; ask again.`,
    );
    if (headers.accept?.includes('text/html')) {
      // A browser looks again by itself.
      response.setHeader('Refresh', String(Math.min(retryS, 5)));
      send(503, 'text/plain; charset=utf-8', `Dime Stall is not open yet. ${problem.message}\n`);
    } else send(503, 'application/problem+json', JSON.stringify(problem.body));
  }
}

function listenAdvice(error: NodeJS.ErrnoException, port: number, host: string): string {
  const advice: Record<string, string> = {
    EADDRINUSE: `Port ${port} is in use. Stop what uses it, or choose another with --port.`,
    EACCES: `Port ${port} needs more rights. Choose one above 1023 with --port.`,
    EADDRNOTAVAIL: `This machine has no address ${host}. Choose another with --host.`,
  };
  return advice[error.code ?? ''] ?? `It cannot listen on ${host}:${port}: ${error.message}`;
}
