/** The Express application: the prepared storefront first, then every operation of the contract, then the console's files. */
import { existsSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { parseCookie } from 'cookie';
import express from 'express';
import type { ErrorRequestHandler, Express, Request, Response } from 'express';
import helmet from 'helmet';
import type { HelmetOptions } from 'helmet';
import type { IncomingMessage, ServerResponse } from 'node:http';
import {
  CONTRACT,
  KEYS,
  calendarPath,
  isAside,
  methodOf,
  openApiDocument,
  pathOf,
  roleMay,
} from '../contract/index.js';
import type { DraftSaved, Key, Method, Operation, ProblemKind } from '../contract/index.js';
import { DAY_MS } from '../core/schedule/index.js';
import { economyFileJsonSchema, economyJsonSchema } from '../core/document/index.js';
import { SESSION_COOKIE } from './access.js';
import type { Who } from './access.js';
import { Misfit, answerMustFit, eventMustFit, problemMustFit } from './fit.js';
import { HANDLERS } from './handlers/index.js';
import type { EventStream } from './eventStream.js';
import type { Incoming, Reply, Worked } from './handler.js';
import type { Aside } from './aside/aside.js';
import type { Prepared } from './draft/draft.js';
import { incomingOf } from './aside/job.js';
import { Gate } from './gate.js';
import { REQUEST_ID, RequestLog, requestId } from './requestLog.js';
import type { Bill } from './workMeter.js';
import type { Locals } from './gate.js';
import type { FrontAsked, Prepared as PreparedFront } from './hotFront.js';
import { metricsCreate } from './metrics.js';
import type { Metrics } from './metrics.js';
import { packageRoot, packageVersion } from '../packageRoot.js';
import { CallerGone, Problem, notFound } from './problem.js';
import { bodyReaders, requestSent } from './sent.js';
import type { Service } from './service.js';
import { threadOf } from './threads.js';
import type { Threads } from './threads.js';
import { PortionFailure, StorageFailure } from './store/writer.js';

/** A header that only the console's own scripts can send with the session cookie. */
const CONSOLE_HEADER = 'x-dimestall-console';
const SAFE_METHODS = new Set(['GET', 'HEAD']);
const V1 = '/v1';
const SIGN_IN = 'POST /session';

/** `isLoopback`: nobody but this machine is heard, so that what tells of the service needs no token. */
export function createApp(service: Service, threads: Threads, isLoopback: boolean): Express {
  const app = express();
  app.disable('x-powered-by');
  app.disable('etag');
  app.set('trust proxy', service.trustProxy);
  const security = helmet(SECURITY);
  const safe = headersOf(security);
  const metrics = metricsCreate(service, threads);
  const requests = new RequestLog(service.log, service.tracing);
  const gate = new Gate(service, threads, metrics);
  // Before everything else: this read is what games poll.
  app.get('/api/v1/shops/:shop/front', (request, response, next) => {
    const asked = frontAsked(service, request);
    if (!asked) {
      next();
      return;
    }
    const send = (): void => {
      const kept = service.hotFront.kept(asked, service.now());
      if (kept) frontSend(service, safe, request, response, kept.etag, () => kept.whole());
      else {
        response.locals['front'] = asked;
        next();
      }
    };
    // Where many ask at once, those who have just knocked are heard in between.
    const waits = service.meter.turn({ holder: asked.holder, ms: 0 }, send);
    if (waits instanceof Promise) waits.catch(next);
  });
  app.use(security);
  app.use((request, response, next) => {
    const id = requestId(request);
    response.locals['requestId'] = id;
    response.set(REQUEST_ID, id);
    next();
  });
  app.get('/healthz', (_request, response) => {
    response.json({ status: 'up' });
  });
  app.get('/readyz', (_request, response) => {
    const why = service.readiness.problem();
    if (why === undefined) response.json({ status: 'ready' });
    else response.status(503).set('Retry-After', '5').json({ status: 'not ready', why });
  });
  // A calendar program sends no header: the token in its address may read calendars and nothing else.
  app.get(calendarPath(':token'), async (request, response, next) => {
    const who = service.access.whoHas(String(request.params['token']));
    if (who?.role !== 'calendar') {
      await gate.guessed(request);
      throw new Problem(
        'not-found',
        'There is no calendar at this address. It may have been revoked; make a new one with: dimestall calendar --subscribe NAME.',
      );
    }
    response.locals['who'] = who;
    request.url = calendarAsked(request, service.now());
    next();
  });
  // Nobody's body is read before it is known who sends it; only signing in needs no token.
  app.use('/api', async (request, response, next) => {
    const who = (response.locals['who'] as Who | undefined) ?? signIn(service, request);
    if (!who && `${request.method} ${request.path.slice(V1.length)}` !== SIGN_IN) {
      requests.begin(response);
      await gate.stranger(request);
      throw notSignedIn(request);
    }
    response.locals['who'] = who;
    next();
  });
  for (const key of KEYS)
    app[METHODS[methodOf(key)]](
      `/api/v1${pathOf(key).replace(/\{(\w+)\}/g, ':$1')}`,
      // Whoever may not do it, or asks for too much, is told so before their body is read.
      async (request, response, next) => {
        response.locals['key'] = key;
        requests.begin(response);
        response.locals['who'] = admit(CONTRACT[key], response);
        await gate.enter(key, request, response);
        next();
      },
      ...bodyReaders(CONTRACT[key]),
      async (request, response) => {
        try {
          await serve(service, threads, safe, key, request, response);
        } catch (error) {
          if (key === SIGN_IN && (error as Problem).kind === 'not-signed-in') {
            service.log.warn(
              { request: response.locals['requestId'] as string, address: request.ip },
              'a sign-in failed',
            );
            await gate.guessed(request);
          }
          throw error;
        }
      },
    );
  app.use('/api', (request, response) =>
    sendProblem(response, notFound('address', `${request.method} ${request.originalUrl.split('?')[0]}`)),
  );
  // Open to everybody, within what an address may ask for.
  app.use(async (request, _response, next) => {
    await gate.passer(request);
    next();
  });
  app.get('/metrics', async (request, response) => {
    // Routes and names of tokens are for those who may read.
    if (!isLoopback && !signIn(service, request)) throw notSignedIn(request);
    response.type('text/plain; version=0.0.4').send(await metrics.text());
  });
  for (const [path, type, make] of DESCRIPTIONS) {
    // Each is made once, when somebody first asks.
    let bytes: Buffer | undefined;
    app.get(path, (_request, response) => {
      response.type(type).send((bytes ??= Buffer.from(make())));
    });
  }
  serveConsole(app, threads.first);
  app.use(errorHandler(service, metrics));
  return app;
}

/** Days before and after today that a calendar program is told of. */
const TOLD_DAYS = [31, 183] as const;

/** What a calendar program asks, as the operation that answers it: by whole days, so that an hour changes nothing. */
function calendarAsked(request: Request, nowMs: number): string {
  const day = Math.floor(nowMs / DAY_MS);
  const [from, to] = [day - TOLD_DAYS[0], day + TOLD_DAYS[1]].map((one) => new Date(one * DAY_MS).toISOString());
  const query = new URLSearchParams({ from: from!, to: to! });
  for (const name of ['shop', 'player', 'source']) {
    const value = request.query[name];
    if (typeof value === 'string') query.set(name, value);
  }
  return `/api/v1/calendar.ics?${query.toString()}`;
}

const DESCRIPTIONS: readonly [path: string, type: string, make: () => string][] = [
  ['/openapi.json', 'application/json', () => JSON.stringify(openApiDocument(packageVersion()))],
  ['/schemas/economy.json', 'application/schema+json', () => JSON.stringify(economyJsonSchema(), null, 2)],
  ['/schemas/economy-file.json', 'application/schema+json', () => JSON.stringify(economyFileJsonSchema(), null, 2)],
];

/** On every answer. Transport security is left to the proxy that ends TLS, which knows whether all of its host is on https. */
const SECURITY: HelmetOptions = {
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
  // For browsers that nobody uses any more; each would cost every storefront its bytes.
  xDownloadOptions: false,
  xDnsPrefetchControl: false,
  xPermittedCrossDomainPolicies: false,
  xXssProtection: false,
};

/** The headers that a middleware sets on every answer alike, for answers that do not go through it: name, value, name, value. */
function headersOf(middleware: ReturnType<typeof helmet>): string[] {
  const headers: string[] = [];
  const response = {
    setHeader: (name: string, value: string) => headers.push(name, value),
    removeHeader: () => undefined,
  };
  middleware({} as IncomingMessage, response as unknown as ServerResponse, () => undefined);
  return headers;
}

const METHODS = {
  GET: 'get',
  POST: 'post',
  PUT: 'put',
  PATCH: 'patch',
  DELETE: 'delete',
} as const satisfies Record<Method, string>;

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

/** In the words of whoever asks: a person at the console, or a program. */
function notSignedIn({ headers }: Request): Problem {
  const words =
    headers[CONSOLE_HEADER] !== undefined
      ? 'You are not signed in, or not any more. Sign in with a token.'
      : headers.authorization === undefined
        ? 'Send a token: Authorization: Bearer ....'
        : 'This token is not known, or not any more. Send another: Authorization: Bearer ....';
  return new Problem('not-signed-in', words);
}

/** The caller, once it is sure that the operation is open to them. */
function admit({ role }: Operation, response: Response): Who {
  const who = response.locals['who'] as Who | undefined;
  if (role === 'nobody') return who ?? { name: 'nobody', role: 'read' };
  if (!who) throw notSignedIn(response.req);
  if (!roleMay(who.role, role))
    throw new Problem('not-allowed', `The token "${who.name}" has the role ${who.role}; this needs ${role}.`);
  return who;
}

const FRONT = 'GET /shops/{shop}/front';
const FRONT_LANGUAGE = CONTRACT[FRONT].query.language;

/** A question that prepared bytes can answer. What is not quite usual goes the ordinary way, which says what is wrong. */
function frontAsked(service: Service, request: Request): FrontAsked | undefined {
  const { player, language, source = 'live', ...rest } = request.query;
  if (typeof player !== 'string' || Object.keys(rest).length > 0) return undefined;
  if (typeof source !== 'string' || source === 'draft' || /^\d/.test(source)) return undefined;
  if (language !== undefined && (typeof language !== 'string' || !FRONT_LANGUAGE.isValidSync(language)))
    return undefined;
  const who = signIn(service, request);
  if (!who || !roleMay(who.role, 'read')) return undefined;
  return {
    compiled: service.sources.live(source),
    channel: source,
    shopId: String(request.params['shop']),
    playerId: player,
    language,
    holder: who.name,
  };
}

function frontSend(
  service: Service,
  safe: readonly string[],
  request: Request,
  response: Response,
  etag: string,
  whole: () => PreparedFront,
): void {
  if (service.checkAnswers) answerMustFit(FRONT, 200, JSON.parse(whole().bytes.toString('utf8')));
  // Nothing is unpacked for who has it already.
  if (request.headers['if-none-match'] === etag) {
    response.writeHead(304, [...safe, 'ETag', etag]).end();
    return;
  }
  const prepared = whole();
  const { bytes } = prepared;
  // Put together once for all who poll it: sixteen headers cost more than the answer.
  prepared.head ??= [
    ...safe,
    'Content-Type',
    'application/json; charset=utf-8',
    'Content-Length',
    String(bytes.length),
    'ETag',
    etag,
    'Cache-Control',
    'private, no-cache',
  ];
  response.writeHead(200, prepared.head).end(bytes);
}

const ANSWERED = Promise.resolve(undefined);

/** Does what is asked, when it is the holder's turn, and answers. */
async function serve(
  service: Service,
  threads: Threads,
  safe: readonly string[],
  key: Key,
  request: Request,
  response: Response,
): Promise<void> {
  const operation: Operation = CONTRACT[key];
  const { who, bill, front } = response.locals as Locals & { who: Who; bill: Bill };
  const { meter } = service;
  const asked = { key, who, sent: requestSent(request) };
  // What changes something is done once it was accepted, whether its caller waits or not.
  const isWanted = () => operation.saves === true || !response.destroyed;
  const workedAside = async (): Promise<Reply<unknown>> => {
    const outcome = await threadOf(threads, operation).ask(asked, isWanted, (waitMs, asideMs) => {
      Object.assign(response.locals, { waitMs, asideMs });
      const endMs = performance.now();
      const startMs = endMs - asideMs;
      bill.parts?.push(
        { name: 'wait for the thread aside', startMs: startMs - waitMs, endMs: startMs },
        { name: 'worked out aside', startMs, endMs },
      );
    });
    if (!('worked' in outcome)) return outcome.reply;
    const reply = await meter.run(bill, () => write(service, who, outcome.worked));
    if (hasCases(outcome.worked)) casesPlay(threads.second, who);
    return reply;
  };
  /** Nothing where it has answered by itself. */
  const work = (): Promise<Reply<unknown> | undefined> => {
    const prepared = front && service.hotFront.make(front, service.now());
    if (prepared) {
      frontSend(service, safe, request, response, prepared.etag, () => prepared);
      return ANSWERED;
    }
    if (isAside(operation)) return workedAside();
    const incoming = incomingOf(service, asked, isWanted);
    if (typeof operation.aside === 'function' && operation.aside(incoming)) return workedAside();
    // The table of handlers has this key's handler, which takes what was just read by this key's entry.
    const handle = HANDLERS[key] as (
      incoming: Incoming<Key>,
      stream?: EventStream<unknown>,
    ) => Reply<unknown> | Promise<Reply<unknown>>;
    if (!operation.events) return Promise.resolve(handle(incoming));
    const check = service.checkAnswers ? (data: unknown) => eventMustFit(key, data) : undefined;
    const mayListen = () => signIn(service, request) !== undefined;
    const stream = service.streams.stream(who.name, response, mayListen, check);
    // Who asks for the head only is told that there is a stream, and gets none.
    if (request.method === 'HEAD') stream.close();
    else void handle(incoming, stream);
    return ANSWERED;
  };
  const reply = await meter.turn(bill, work);
  if (reply) meter.run(bill, () => send(service, key, response, reply));
}

/** Whether a new state of the draft was saved that has cases. */
const hasCases = (worked: Worked): boolean => {
  const prepared =
    worked.kind === 'save' ? worked.prepared : worked.kind === 'edit' ? worked.save?.prepared : undefined;
  return prepared?.hasCases === true;
};

/** With every save, before anybody asks what came of it. */
function casesPlay(second: Aside, who: Who): void {
  if (second.isBusy) return;
  const sent = { params: {}, query: {}, body: undefined, headers: {}, secure: false };
  // What becomes of it is told to who asks.
  second.ask({ key: 'GET /cases', who, sent }).catch(() => undefined);
}

/** Writes what was worked out, and answers with what came of it. */
async function write(
  { writer, draft, runs, schedule, publish }: Service,
  who: Who,
  worked: Worked,
): Promise<Reply<unknown>> {
  const save = (prepared: Prepared, why: string | undefined) =>
    writer.submit(() => draft.save(prepared, who.name, why));
  const tagged = (saved: DraftSaved | null) => (saved ? { ETag: `"${saved.revision}"` } : {});
  switch (worked.kind) {
    case 'save': {
      const saved = await save(worked.prepared, worked.why);
      return { body: saved, headers: tagged(saved) };
    }
    case 'edit': {
      const saved = worked.save ? await save(worked.save.prepared, worked.save.why) : null;
      return { body: { saved, ...worked.edited }, headers: tagged(saved) };
    }
    case 'publish': {
      const published = await publish(worked.publishing, who.name);
      schedule.arm();
      return { status: 201, body: published, headers: { Location: `/api/v1/releases/${published.number}` } };
    }
    case 'run': {
      const begun = await runs.begin(worked.run, who.name);
      return { status: 202, body: begun, headers: { Location: `/api/v1/runs/${begun.id}` } };
    }
  }
}

function send(service: Service, key: Key, response: Response, reply: Reply<unknown>): void {
  const { status = 200, body, headers = {}, bytes } = reply;
  // What another thread has worked out comes as bytes without their class.
  const content = bytes && bufferOf(bytes.content);
  if (service.checkAnswers)
    answerMustFit(key, status, bytes?.type === 'application/json' ? JSON.parse(String(content)) : body);
  response.status(status).set({ 'Cache-Control': 'no-store', ...headers });
  if (bytes) response.type(bytes.type).send(content);
  else if (body === undefined) response.end();
  else response.json(body);
}

const bufferOf = (content: string | Uint8Array): Buffer =>
  typeof content === 'string'
    ? Buffer.from(content)
    : Buffer.from(content.buffer, content.byteOffset, content.byteLength);

function sendProblem(response: Response, problem: Problem): void {
  const body = { ...problem.body, requestId: response.locals['requestId'] as string | undefined };
  response.status(problem.status).type('application/problem+json').send(JSON.stringify(body));
}

/** After how many seconds it is worth trying again. */
const RETRY_S: Partial<Record<ProblemKind, number>> = { storage: 5, 'too-many': 5 };

/** Turns whatever was thrown into problem details; what nobody foresaw is logged and told without details. */
function errorHandler(service: Service, metrics: Metrics): ErrorRequestHandler {
  return (error: unknown, _request, response, next) => {
    // It is not that anything broke, and nobody is there to be told.
    if (error instanceof CallerGone) {
      response.destroy();
      return;
    }
    if (response.headersSent) {
      next(error);
      return;
    }
    const problem = asProblem(error);
    const codes = codesOf(problem);
    response.locals['code'] = codes.join(' ');
    for (const code of codes) metrics.refused(code);
    const key = response.locals['key'] as Key | undefined;
    if (service.checkAnswers && key !== undefined && !(error instanceof Misfit))
      problemMustFit(key, problem.kind, problem.body);
    if (problem.kind === 'internal' || problem.kind === 'storage')
      service.log.error({ err: error, request: response.locals['requestId'] as string }, 'what broke');
    if (problem.kind === 'not-signed-in') response.set('WWW-Authenticate', 'Bearer');
    const retryS = problem.retryS ?? RETRY_S[problem.kind];
    if (retryS !== undefined) response.set('Retry-After', String(retryS));
    sendProblem(response, problem);
  };
}

/** The problem's own, and of a purchase or an act that is refused what refused it. */
function codesOf({ kind, more }: Problem): string[] {
  const { verdict } = more as { verdict?: { reasons: readonly { code: string }[] } };
  return [kind, ...(verdict?.reasons.map(({ code }) => code) ?? [])];
}

function asProblem(error: unknown): Problem {
  if (error instanceof Problem) return error;
  if (error instanceof Misfit) return new Problem('internal', error.message);
  if (error instanceof PortionFailure) {
    const { kind, message, more, retryS } = asProblem(error.failure);
    const kept = `The first ${error.done} were done and stay so. Send all again with the same ids: nothing is done twice.`;
    return new Problem(kind, `${message} ${kept}`, more, retryS);
  }
  if (error instanceof StorageFailure)
    return new Problem(
      'storage',
      'The storage could not be written, and nothing was changed. Check the disk, then try again.',
    );
  const { type, status, message, limit } = error as {
    type?: string;
    status?: number;
    message?: string;
    limit?: number;
  };
  if (type === 'entity.too.large')
    return new Problem(
      'too-large',
      `The body is larger than the ${Math.floor((limit ?? 0) / 1024)} kB that are taken here.`,
    );
  // What the packages that read requests throw says that it is the caller's; a body that does not unpack, for one.
  if (typeof type === 'string' || error instanceof URIError || (status !== undefined && status >= 400 && status < 500))
    return new Problem('bad-request', `The request cannot be read${message ? `: ${message}` : ''}.`);
  return new Problem(
    'internal',
    'Something broke that should not have. It is in the log; nothing was changed by this request.',
  );
}

/** The built console: its files as they are, and its page for every address of its own. */
function serveConsole(app: Express, aside: Aside): void {
  const folder = join(packageRoot(), 'dist', 'console');
  const page = join(folder, 'index.html');
  // Who loads the console asks about the draft next: the thread that answers is begun meanwhile.
  app.use('/assets', (_request, _response, next) => {
    aside.begin();
    next();
  });
  app.use(express.static(folder, { index: false, maxAge: '1h' }));
  app.use((request, response, next) => {
    if (request.method !== 'GET' || !existsSync(page)) {
      next(new Problem('not-found', `There is nothing at ${request.path}.`));
      return;
    }
    response.set('Cache-Control', 'no-cache').type('html').send(readFileSync(page));
  });
}
