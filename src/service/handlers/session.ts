/** Signing in to the console, who one is, tokens, and who did what. */
import { parseCookie, stringifySetCookie } from 'cookie';
import { DAY_MS } from '../../core/schedule/index.js';
import { SESSION_COOKIE } from '../access.js';
import { DEFAULT_LIMIT, onePage, pageOf } from '../handler.js';
import type { Handlers } from '../handler.js';
import { Problem } from '../problem.js';

const cookie = (value: string, maxAge: number, secure: boolean): string =>
  stringifySetCookie({ name: SESSION_COOKIE, value, path: '/', httpOnly: true, sameSite: 'strict', secure, maxAge });

export const sessionHandlers = {
  'POST /session': async ({ service, body, secure }) => {
    const refused = () =>
      new Problem('not-signed-in', 'This token is not known. Copy it again, or make a new one with: dimestall token.');
    // Guesses cost no write.
    if (!service.access.whoHas(body.token)) throw refused();
    const opened = await service.writer.submit(() => service.access.sessionOpen(body.token));
    if (!opened) throw refused();
    const { session, who, lastsMs } = opened;
    service.log.info({ who: who.name, role: who.role }, 'signed in');
    return { body: who, headers: { 'Set-Cookie': cookie(session, Math.ceil(lastsMs / 1000), secure) } };
  },
  'GET /session': ({ who: { name, role } }) => ({ body: { name, role } }),
  'DELETE /session': async ({ service, who, header, secure }) => {
    const session = parseCookie(header('cookie') ?? '')[SESSION_COOKIE];
    if (session) {
      await service.writer.submit(() => service.access.signOut(session));
      service.log.info({ who: who.name, role: who.role }, 'signed out');
    }
    return { status: 204, headers: { 'Set-Cookie': cookie('', 0, secure) } };
  },
  'POST /tokens': async ({ service, who, body: { name, role, days } }) => {
    const token = await service.writer.submit(() => {
      service.trail.add(who.name, 'token.issue', name, `${role}${days === undefined ? '' : ` for ${days} days`}`);
      return service.access.issue(name, role, days === undefined ? undefined : days * DAY_MS);
    });
    return { status: 201, body: { name, role, token } };
  },
  'GET /tokens': ({ service }) => ({ body: onePage(service.access.list()) }),
  'DELETE /tokens/{token}': async ({ service, who, params }) => ({
    body: await service.writer.submit(() => {
      const ended = service.access.revoke(params.token);
      service.trail.add(who.name, `${ended.kind}.revoke`, ended.name, ended.id);
      return ended;
    }),
  }),
  'GET /trail': ({ service, query: { cursor = Number.MAX_SAFE_INTEGER, limit = DEFAULT_LIMIT } }) => ({
    body: pageOf(service.trail.list(cursor, limit), limit, ({ id }) => id),
  }),
} satisfies Partial<Handlers>;
