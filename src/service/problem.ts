/** Errors that a caller can cause, as RFC 9457 problem details. One table gives each kind its status. */
import type { Issue } from '../core/issue/index.js';
import type { ProblemBody } from '../core/wire/index.js';

/** Kind to HTTP status and title. The kind is the stable part of `type`: `urn:dimestall:KIND`. */
export const PROBLEMS = {
  'not-found': [404, 'There is no such thing'],
  'bad-request': [400, 'The request cannot be read'],
  invalid: [422, 'The content does not fit its shape'],
  'not-signed-in': [401, 'A token is needed'],
  'not-allowed': [403, 'This token may not do that'],
  'cross-site': [403, 'The request did not come from the console'],
  stale: [412, 'Someone saved in between'],
  'revision-needed': [428, 'Say which revision you started from'],
  'already-there': [409, 'That exists already'],
  'channel-in-use': [409, 'The channel is in use'],
  'key-needed': [400, 'An Idempotency-Key is needed'],
  'key-reused': [422, 'This key belongs to another request'],
  'nothing-published': [409, 'Nothing is published yet'],
  'audit-errors': [422, 'The audit has errors'],
  'edit-refused': [422, 'The edit cannot be made'],
  'bad-picture': [422, 'The picture cannot be taken'],
  'act-refused': [409, 'It was refused'],
  'purchase-refused': [409, 'The purchase was refused'],
  'too-large': [413, 'The request is too large'],
  'too-many': [429, 'Too many requests'],
  storage: [503, 'The storage failed; nothing was changed'],
  internal: [500, 'Something broke that should not have'],
} as const;
export type ProblemKind = keyof typeof PROBLEMS;

/** Thrown by handlers; the application turns it into the answer. */
export class Problem extends Error {
  constructor(
    readonly kind: ProblemKind,
    detail: string,
    readonly extra: Record<string, unknown> = {},
  ) {
    super(detail);
  }

  get status(): number {
    return PROBLEMS[this.kind][0];
  }

  get body(): ProblemBody {
    const [status, title] = PROBLEMS[this.kind];
    return { type: `urn:dimestall:${this.kind}`, title, status, detail: this.message, ...this.extra };
  }
}

/** All issues of a body or document at once. */
export function invalid(detail: string, issues: readonly Issue[]): Problem {
  return new Problem('invalid', detail, {
    errors: issues.map(({ pointer, code, message, fix }) => ({ pointer, code, detail: message, fix })),
  });
}

export const notFound = (what: string, id: string): Problem => new Problem('not-found', `There is no ${what} "${id}".`);
