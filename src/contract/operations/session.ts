/** Signing in to the console, who one is, tokens, and who did what. */
import {
  about,
  anyText,
  anyWhole,
  choice,
  fields,
  named,
  orNull,
  record,
  text,
  wholeNumber,
} from '../../core/schema/index.js';
import type { ValueOf } from '../../core/schema/index.js';
import { NOTHING, operations } from '../operation.js';
import { ROLE_NAMES, identity } from '../role.js';
import { NUMBERED_PAGE_QUERY, pageOf } from '../shapes/common.js';

const holder = { name: anyText(), role: choice(...ROLE_NAMES) };

const token = named(
  'Token',
  record({
    id: anyText(),
    kind: choice('token', 'session'),
    ...holder,
    createdMs: anyWhole(),
    /** Null for one that lasts until it is revoked. */
    expiresMs: orNull(anyWhole()),
  }),
);
export type TokenView = ValueOf<typeof token>;

export const sessionOperations = operations({
  'POST /session': {
    id: 'signIn',
    role: 'nobody',
    summary: 'Signs the console in with a token; sets a cookie',
    body: fields({ token: text(200).required() }),
    bodyKb: 1,
    answers: { 200: identity },
    problems: ['invalid'],
  },
  'GET /session': {
    id: 'getSession',
    role: 'read',
    summary: 'Who this token or session is',
    answers: { 200: identity },
  },
  'DELETE /session': { id: 'signOut', role: 'read', summary: 'Signs the console out', answers: { 204: NOTHING } },
  'POST /tokens': {
    id: 'createToken',
    role: 'admin',
    summary: 'Makes a token; it can be read this once',
    body: fields({
      name: text(64).required(),
      role: choice(...ROLE_NAMES).required(),
      days: about('How long it is good; until it is revoked where this is left out', wholeNumber(1, 3650)),
    }),
    answers: { 201: named('NewToken', record({ ...holder, token: anyText() })) },
    problems: ['invalid'],
  },
  'GET /tokens': {
    id: 'listTokens',
    role: 'admin',
    summary: 'Tokens and sessions that are good now, without their secrets',
    answers: { 200: pageOf(token) },
  },
  'DELETE /tokens/{token}': {
    id: 'revokeToken',
    role: 'admin',
    summary: 'Revokes a token, with every session that was opened with it, or a session; at once',
    answers: { 200: token },
    problems: ['not-found'],
  },
  'GET /trail': {
    id: 'listTrail',
    role: 'support',
    summary: 'Who did what, when and why; newest first',
    query: NUMBERED_PAGE_QUERY,
    answers: {
      200: pageOf(
        named(
          'TrailEntry',
          record({
            id: anyWhole(),
            atMs: anyWhole(),
            who: anyText(),
            action: anyText(),
            subject: anyText(),
            why: anyText(),
          }),
        ),
      ),
    },
  },
});
