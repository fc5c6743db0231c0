/** The Express application: the prepared storefront first, then the route table, then the console's files. */
import { existsSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { parseCookie } from 'cookie';
import express from 'express';
import type { ErrorRequestHandler, Express, Request, Response } from 'express';
import rateLimit from 'express-rate-limit';
import helmet from 'helmet';
import { economyJsonSchema } from '../core/document/index.js';
import { roleMay } from './access.js';
import type { Who } from './access.js';
import { isDeeperThan } from './economyStore.js';
import { metricsCreate } from './metrics.js';
import { openApiDocument } from './openapi.js';
import { packageRoot } from './packageRoot.js';
import { Problem, notFound } from './problem.js';
import { bodyCheck, languageOf } from './route.js';
import type { EventStream, Incoming, Reply, Route } from './route.js';
import { ROUTES } from './routes/index.js';
import { SESSION_COOKIE } from './routes/session.js';
import type { Service } from './service.js';
import { MAX_PICTURE_BYTES } from './store/pictureStore.js';
import { StorageFailure } from './store/writer.js';

const SIZE_LIMIT = '12mb';
/** A header that only the console's own scripts can send with the session cookie. */
const CONSOLE_HEADER = 'x-dimestall-console';
const SAFE_METHODS = new Set(['GET', 'HEAD']);

export function createApp(service: Service): Express {
  const app = express();
  app.disable('x-powered-by');
  app.disable('etag');
  const metrics = metricsCreate(service);
  // Before everything else: this read is what games poll.
  app.get('/api/v1/shops/:id/front', (request, response, next) => {
    if (!frontHot(service, request, response)) next();
  });
  app.use(
    helmet({
      contentSecurityPolicy: {
        directives: {
          'default-src': ["'self'"],
          'script-src': ["'self'"],
          'style-src': ["'self'", "'unsafe-inline'"],
          'img-src': ["'self'", 'data:'],
          'connect-src': ["'self'"],
          'upgrade-insecure-requests': null,
        },
      },
      strictTransportSecurity: false,
    }),
  );
  app.get('/healthz', (_request, response) => {
    response.json({ status: 'up' });
  });
  app.get('/readyz', (_request, response) => {
    service.database.raw.prepare('SELECT 1').get();
    response.json({ status: 'ready' });
  });
  app.get('/metrics', async (_request, response) => {
    response.type('text/plain; version=0.0.4').send(await metrics.text());
  });
  app.get('/openapi.json', (_request, response) => {
    response.json(openApiDocument(packageVersion()));
  });
  app.get('/schemas/economy.json', (_request, response) => {
    response.type('application/schema+json').send(JSON.stringify(economyJsonSchema(), null, 2));
  });
  app.use(
    '/api/v1/session',
    rateLimit({
      windowMs: 60_000,
      limit: 60,
      standardHeaders: true,
      legacyHeaders: false,
      // Asking who one is needs no guard; guessing tokens does.
      skip: (request) => request.method !== 'POST',
      handler: (_request, response) => {
        sendProblem(response, new Problem('too-many', 'Too many attempts to sign in. Wait a minute.'));
      },
    }),
  );
  // Nobody's body is read before it is known who sends it; only signing in needs no token.
  app.use('/api', (request, response, next) => {
    const who = signIn(service, request);
    if (!who && !(request.method === 'POST' && request.path === '/v1/session')) throw notSignedIn();
    response.locals['who'] = who;
    next();
  });
  app.use(
    '/api',
    express.json({ limit: SIZE_LIMIT, type: ['application/json', 'application/json-patch+json'], strict: false }),
  );
  // Sheets and pictures come as they are.
  app.use('/api', express.raw({ limit: '6mb', type: ['text/csv'] }));
  app.use('/api', express.raw({ limit: MAX_PICTURE_BYTES + 1, type: ['image/*', 'application/octet-stream'] }));
  for (const route of ROUTES)
    app[route.method](`/api/v1${route.path.replace(/\{(\w+)\}/g, ':$1')}`, (request, response) =>
      serve(service, metrics, route, request, response),
    );
  app.use('/api', (request, response) =>
    sendProblem(response, notFound('address', `${request.method} ${request.originalUrl.split('?')[0]}`)),
  );
  serveConsole(app);
  app.use(errorHandler(service));
  return app;
}

function packageVersion(): string {
  return (JSON.parse(readFileSync(join(packageRoot(), 'package.json'), 'utf8')) as { version: string }).version;
}

/** Signs in by bearer token, or by the console's cookie; the cookie alone cannot change anything from another site. */
function signIn(service: Service, request: Request): Who | undefined {
  const { authorization, cookie } = request.headers;
  const bearer = authorization?.startsWith('Bearer ') ? authorization.slice(7).trim() : undefined;
  if (bearer !== undefined) return service.access.whoHas(bearer);
  const session = cookie === undefined ? undefined : parseCookie(cookie)[SESSION_COOKIE];
  if (session === undefined) return undefined;
  if (!SAFE_METHODS.has(request.method) && request.headers[CONSOLE_HEADER] === undefined)
    throw new Problem('cross-site', 'A change with the session cookie must come from the console itself.');
  return service.access.whoHas(session);
}

const notSignedIn = (): Problem => new Problem('not-signed-in', 'Send a token: Authorization: Bearer ....');

/** The caller, once it is sure that the route is open to them. */
function admit({ needs }: Pick<Route, 'needs'>, response: Response): Who {
  const who = response.locals['who'] as Who | undefined;
  if (needs === 'nobody') return who ?? { name: 'nobody', role: 'read' };
  if (!who) throw notSignedIn();
  if (!roleMay(who.role, needs))
    throw new Problem('not-allowed', `The token "${who.name}" has the role ${who.role}; this needs ${needs}.`);
  return who;
}

/** True when the answer was sent from prepared bytes. */
function frontHot(service: Service, request: Request, response: Response): boolean {
  const { player, language, source = 'live', ...rest } = request.query;
  if (typeof player !== 'string' || Object.keys(rest).length > 0) return false;
  if (typeof source !== 'string' || source === 'draft' || /^\d/.test(source)) return false;
  if (language !== undefined && typeof language !== 'string') return false;
  const who = signIn(service, request);
  if (!who || !roleMay(who.role, 'read')) return false;
  const prepared = service.hotFront.get(
    service.economies.live(source),
    source,
    String(request.params['id']),
    player,
    language === undefined ? undefined : languageOf({ language }),
    service.now(),
  );
  if (!prepared) return false;
  const { etag, bytes } = prepared;
  if (request.headers['if-none-match'] === etag) response.writeHead(304, { ETag: etag }).end();
  else
    response
      .writeHead(200, {
        'Content-Type': 'application/json; charset=utf-8',
        'Content-Length': bytes.length,
        ETag: etag,
        'Cache-Control': 'private, no-cache',
      })
      .end(bytes);
  return true;
}

async function serve(
  service: Service,
  metrics: ReturnType<typeof metricsCreate>,
  route: Route,
  request: Request,
  response: Response,
): Promise<void> {
  const done = metrics.begin(route);
  response.on('finish', () => done(response.statusCode));
  const who = admit(route, response);
  if (isDeeperThan(request.body, 200))
    throw new Problem('bad-request', 'The body is nested too deeply: 200 levels are the most.');
  bodyCheck(route, request.body);
  const query: Record<string, string> = {};
  for (const [name, value] of Object.entries(request.query)) {
    if (!route.query || !Object.hasOwn(route.query, name))
      throw new Problem(
        'bad-request',
        `There is no query parameter "${name}" here. Known: ${Object.keys(route.query ?? {}).join(', ') || 'none'}.`,
      );
    if (typeof value !== 'string') throw new Problem('bad-request', `"${name}" must be given once.`);
    query[name] = value;
  }
  const incoming: Incoming = {
    service,
    who,
    params: request.params as Record<string, string>,
    query,
    body: request.body,
    header: (name) => request.get(name),
  };
  if (route.stream) route.stream(incoming, eventStream(response));
  else send(response, await route.handle!(incoming));
}

function send(response: Response, { status = 200, body, headers = {}, bytes }: Reply): void {
  response.status(status).set({ 'Cache-Control': 'no-store', ...headers });
  if (bytes) response.type(bytes.type).send(bytes.content);
  else if (body === undefined) response.end();
  else response.json(body);
}

function eventStream(response: Response): EventStream {
  const start = () => {
    if (!response.headersSent)
      response
        .status(200)
        .set({ 'Content-Type': 'text/event-stream', 'Cache-Control': 'no-store', 'X-Accel-Buffering': 'no' })
        .flushHeaders();
  };
  return {
    open: start,
    send: (event, data, id) => {
      start();
      response.write(`${id === undefined ? '' : `id: ${id}\n`}event: ${event}\ndata: ${JSON.stringify(data)}\n\n`);
    },
    close: () => {
      start();
      response.end();
    },
    onClose: (listener) => {
      response.on('close', listener);
    },
  };
}

function sendProblem(response: Response, problem: Problem): void {
  response.status(problem.status).type('application/problem+json').send(JSON.stringify(problem.body));
}

/** Turns whatever was thrown into problem details; what nobody foresaw is logged and told without details. */
function errorHandler(service: Service): ErrorRequestHandler {
  return (error: unknown, request, response, next) => {
    if (response.headersSent) {
      next(error);
      return;
    }
    const problem = asProblem(error);
    if (problem.kind === 'internal' || problem.kind === 'storage')
      service.log.error({ err: error, method: request.method, path: request.path }, 'request failed');
    if (problem.kind === 'not-signed-in') response.set('WWW-Authenticate', 'Bearer');
    sendProblem(response, problem);
  };
}

function asProblem(error: unknown): Problem {
  if (error instanceof Problem) return error;
  if (error instanceof StorageFailure)
    return new Problem(
      'storage',
      'The storage could not be written, and nothing was changed. Check the disk, then try again.',
    );
  const { type, message, limit } = error as { type?: string; message?: string; limit?: number };
  if (type === 'entity.too.large')
    return new Problem(
      'too-large',
      `The body is larger than the ${Math.floor((limit ?? 0) / 1024)} kB that are taken here.`,
    );
  if (type === 'entity.parse.failed') return new Problem('bad-request', `The body is not JSON: ${message ?? ''}.`);
  if (typeof type === 'string' || error instanceof URIError)
    return new Problem('bad-request', 'The request cannot be read.');
  return new Problem(
    'internal',
    'Something broke that should not have. It is in the log; nothing was changed by this request.',
  );
}

/** The built console: its files as they are, and its page for every address of its own. */
function serveConsole(app: Express): void {
  const folder = join(packageRoot(), 'dist', 'console');
  const page = join(folder, 'index.html');
  app.use(express.static(folder, { index: false, maxAge: '1h' }));
  app.use((request, response, next) => {
    if (request.method !== 'GET' || !existsSync(page)) {
      next(new Problem('not-found', `There is nothing at ${request.path}.`));
      return;
    }
    response.set('Cache-Control', 'no-cache').type('html').send(readFileSync(page));
  });
}
