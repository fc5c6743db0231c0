/** The Express application: the prepared storefront first, then every operation of the contract, then the console's files. */
import { existsSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { parseCookie } from 'cookie';
import express from 'express';
import type { ErrorRequestHandler, Express, Request, Response } from 'express';
import rateLimit from 'express-rate-limit';
import helmet from 'helmet';
import { CONTRACT, KEYS, methodOf, openApiDocument, pathOf, roleMay } from '../contract/index.js';
import type { Key, Method, Operation } from '../contract/index.js';
import { economyJsonSchema } from '../core/document/index.js';
import { SESSION_COOKIE } from './access.js';
import type { Who } from './access.js';
import { Misfit, answerMustFit, eventMustFit, problemMustFit } from './fit.js';
import { HANDLERS } from './handlers/index.js';
import type { EventStream, Incoming, Reply } from './handler.js';
import { metricsCreate } from './metrics.js';
import { packageRoot } from './packageRoot.js';
import { Problem, notFound } from './problem.js';
import { requestRead } from './request.js';
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
  app.get('/api/v1/shops/:shop/front', (request, response, next) => {
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
  for (const key of KEYS)
    app[METHODS[methodOf(key)]](`/api/v1${pathOf(key).replace(/\{(\w+)\}/g, ':$1')}`, (request, response) =>
      serve(service, metrics, key, request, response),
    );
  app.use('/api', (request, response) =>
    sendProblem(response, notFound('address', `${request.method} ${request.originalUrl.split('?')[0]}`)),
  );
  serveConsole(app);
  app.use(errorHandler(service));
  return app;
}

const METHODS = {
  GET: 'get',
  POST: 'post',
  PUT: 'put',
  PATCH: 'patch',
  DELETE: 'delete',
} as const satisfies Record<Method, string>;

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

/** The caller, once it is sure that the operation is open to them. */
function admit({ role }: Operation, response: Response): Who {
  const who = response.locals['who'] as Who | undefined;
  if (role === 'nobody') return who ?? { name: 'nobody', role: 'read' };
  if (!who) throw notSignedIn();
  if (!roleMay(who.role, role))
    throw new Problem('not-allowed', `The token "${who.name}" has the role ${who.role}; this needs ${role}.`);
  return who;
}

const FRONT = 'GET /shops/{shop}/front';
const FRONT_LANGUAGE = CONTRACT[FRONT].query.language;

/** True when the answer was sent from prepared bytes. What is not quite usual goes the ordinary way, which says what is wrong. */
function frontHot(service: Service, request: Request, response: Response): boolean {
  const { player, language, source = 'live', ...rest } = request.query;
  if (typeof player !== 'string' || Object.keys(rest).length > 0) return false;
  if (typeof source !== 'string' || source === 'draft' || /^\d/.test(source)) return false;
  if (language !== undefined && (typeof language !== 'string' || !FRONT_LANGUAGE.isValidSync(language))) return false;
  const who = signIn(service, request);
  if (!who || !roleMay(who.role, 'read')) return false;
  const prepared = service.hotFront.get(
    service.sources.live(source),
    source,
    String(request.params['shop']),
    player,
    language,
    service.now(),
  );
  if (!prepared) return false;
  if (service.checkAnswers) answerMustFit(FRONT, 200, JSON.parse(prepared.bytes.toString('utf8')));
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
  key: Key,
  request: Request,
  response: Response,
): Promise<void> {
  const operation: Operation = CONTRACT[key];
  const done = metrics.begin(key);
  response.on('finish', () => done(response.statusCode));
  response.locals['key'] = key;
  const who = admit(operation, response);
  const incoming = {
    service,
    who,
    ...requestRead(operation, request),
    header: (name: string) => request.get(name),
  } as Incoming<Key>;
  // The table of handlers has this key's handler, which takes what was just read by this key's entry.
  const handle = HANDLERS[key] as (incoming: Incoming<Key>, stream?: EventStream<unknown>) => Promise<Reply<unknown>>;
  if (operation.events) {
    const check = service.checkAnswers ? (data: unknown) => eventMustFit(key, data) : undefined;
    void handle(incoming, eventStream(response, check));
  } else send(service, key, response, await handle(incoming));
}

function send(service: Service, key: Key, response: Response, reply: Reply<unknown>): void {
  const { status = 200, body, headers = {}, bytes } = reply;
  if (service.checkAnswers)
    answerMustFit(key, status, bytes?.type === 'application/json' ? JSON.parse(String(bytes.content)) : body);
  response.status(status).set({ 'Cache-Control': 'no-store', ...headers });
  if (bytes) response.type(bytes.type).send(bytes.content);
  else if (body === undefined) response.end();
  else response.json(body);
}

function eventStream(response: Response, check?: (data: unknown) => void): EventStream<unknown> {
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
      check?.(data);
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
    const key = response.locals['key'] as Key | undefined;
    if (service.checkAnswers && key !== undefined && !(error instanceof Misfit))
      problemMustFit(key, problem.kind, problem.body);
    if (problem.kind === 'internal' || problem.kind === 'storage')
      service.log.error({ err: error, method: request.method, path: request.path }, 'request failed');
    if (problem.kind === 'not-signed-in') response.set('WWW-Authenticate', 'Bearer');
    sendProblem(response, problem);
  };
}

function asProblem(error: unknown): Problem {
  if (error instanceof Problem) return error;
  if (error instanceof Misfit) return new Problem('internal', error.message);
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
