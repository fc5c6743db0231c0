/** Signing in to the console, who one is, tokens, and who did what. */
import { parseCookie, stringifySetCookie } from 'cookie';
import { SESSION_COOKIE, SESSION_MS } from '../access.js';
import { DEFAULT_LIMIT, onePage, pageOf } from '../handler.js';
import type { Handlers } from '../handler.js';
import { Problem } from '../problem.js';

const cookie = (value: string, maxAge: number, secure: boolean): string =>
  stringifySetCookie({ name: SESSION_COOKIE, value, path: '/', httpOnly: true, sameSite: 'strict', secure, maxAge });

export const sessionHandlers = {
  'POST /session': async ({ service, body, secure }) => {
    const who = service.access.whoHas(body.token);
    if (!who)
      throw new Problem(
        'not-signed-in',
        'This token is not known. Copy it again, or make a new one with: dimestall token.',
      );
    const session = await service.writer.submit(() => service.access.issue(who.name, who.role, SESSION_MS));
    return {
      body: { name: who.name, role: who.role },
      headers: { 'Set-Cookie': cookie(session, SESSION_MS / 1000, secure) },
    };
  },
  'GET /session': ({ who: { name, role } }) => ({ body: { name, role } }),
  'DELETE /session': async ({ service, header, secure }) => {
    const session = parseCookie(header('cookie') ?? '')[SESSION_COOKIE];
    if (session) await service.writer.submit(() => service.access.revoke(session));
    return { status: 204, headers: { 'Set-Cookie': cookie('', 0, secure) } };
  },
  'POST /tokens': async ({ service, who, body: { name, role } }) => {
    const token = await service.writer.submit(() => {
      service.trail.add(who.name, 'token.issue', name, role);
      return service.access.issue(name, role);
    });
    return { status: 201, body: { name, role, token } };
  },
  'GET /tokens': ({ service }) => ({ body: onePage(service.access.list()) }),
  'GET /trail': ({ service, query: { cursor = Number.MAX_SAFE_INTEGER, limit = DEFAULT_LIMIT } }) => ({
    body: pageOf(service.trail.list(cursor, limit), limit, ({ id }) => id),
  }),
} satisfies Partial<Handlers>;
