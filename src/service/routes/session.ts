/** Signing in to the console, who one is, and tokens. */
import { choice, fields, text } from '../../core/schema/index.js';
import { ROLES, SESSION_MS } from '../access.js';
import type { Role } from '../access.js';
import { Problem } from '../problem.js';
import { PAGE_QUERY, bodyOf, pageLimit, pageOf, queryNumber } from '../route.js';
import type { Route } from '../route.js';

export const SESSION_COOKIE = 'dimestall_session';

const cookie = (value: string, maxAgeS: number): string =>
  `${SESSION_COOKIE}=${value}; Path=/; HttpOnly; SameSite=Strict; Max-Age=${maxAgeS}`;

export const sessionRoutes: Route[] = [
  {
    method: 'post',
    path: '/session',
    needs: 'nobody',
    summary: 'Signs the console in with a token; sets a cookie',
    body: fields({ token: text(200).required() }),
    handle: async (incoming) => {
      const { service } = incoming;
      const who = service.access.whoHas(bodyOf<{ token: string }>(incoming).token);
      if (!who)
        throw new Problem(
          'not-signed-in',
          'This token is not known. Copy it again, or make a new one with: dimestall token.',
        );
      const session = await service.writer.submit(() => service.access.issue(who.name, who.role, SESSION_MS));
      return { body: who, headers: { 'Set-Cookie': cookie(session, SESSION_MS / 1000) } };
    },
  },
  {
    method: 'get',
    path: '/session',
    needs: 'read',
    summary: 'Who this token or session is',
    handle: ({ who }) => ({ body: who }),
  },
  {
    method: 'delete',
    path: '/session',
    needs: 'read',
    summary: 'Signs the console out',
    handle: async ({ service, header }) => {
      const session = header('cookie')?.match(new RegExp(`${SESSION_COOKIE}=([^;]+)`))?.[1];
      if (session) await service.writer.submit(() => service.access.revoke(session));
      return { status: 204, headers: { 'Set-Cookie': cookie('', 0) } };
    },
  },
  {
    method: 'post',
    path: '/tokens',
    needs: 'admin',
    summary: 'Makes a token; it can be read this once',
    body: fields({ name: text(64).required(), role: choice(...(Object.keys(ROLES) as [Role, ...Role[]])).required() }),
    handle: async (incoming) => {
      const { service, who } = incoming;
      const { name, role } = bodyOf<{ name: string; role: Role }>(incoming);
      const token = await service.writer.submit(() => {
        service.trail.add(who.name, 'token.issue', name, role);
        return service.access.issue(name, role);
      });
      return { status: 201, body: { name, role, token } };
    },
  },
  {
    method: 'get',
    path: '/tokens',
    needs: 'admin',
    summary: 'Tokens by name and role, without their secrets',
    handle: ({ service }) => ({ body: { items: service.access.list(), next: null } }),
  },
  {
    method: 'get',
    path: '/trail',
    needs: 'support',
    summary: 'Who did what, when and why; newest first',
    query: PAGE_QUERY,
    handle: ({ service, query }) => {
      const limit = pageLimit(query);
      return {
        body: pageOf(
          service.trail.list(queryNumber(query, 'cursor', Number.MAX_SAFE_INTEGER, 0, Number.MAX_SAFE_INTEGER), limit),
          limit,
          ({ id }) => id,
        ),
      };
    },
  },
];
