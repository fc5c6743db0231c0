/** Errors that a caller can cause, as RFC 9457 problem details. One table gives each kind its status. */
import { anyText, anyWhole, listOf, maybe, named, record } from '../core/schema/index.js';
import type { RecordOf, Shape, ValueOf } from '../core/schema/index.js';
import { caseResult } from './shapes/cases.js';
import { change, finding, use } from './shapes/draft.js';
import { actVerdict, verdict } from './shapes/trade.js';
import { MANY } from './shapes/common.js';

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
  'broken-cases': [422, 'Cases do not hold'],
  'edit-refused': [422, 'The edit cannot be made'],
  'bad-picture': [422, 'The picture cannot be taken'],
  'act-refused': [409, 'It was refused'],
  'purchase-refused': [409, 'The purchase was refused'],
  'team-refused': [409, 'The team cannot do that'],
  'too-large': [413, 'The request is too large'],
  'too-much-work': [422, 'It takes too long'],
  'too-many': [429, 'Too many requests'],
  storage: [503, 'The storage failed; nothing was changed'],
  'not-open': [503, 'The service is not open yet'],
  internal: [500, 'Something broke that should not have'],
} as const;
export type ProblemKind = keyof typeof PROBLEMS;

/** Those that any operation may answer with. */
export const COMMON_PROBLEMS: readonly ProblemKind[] = [
  'bad-request',
  'not-signed-in',
  'not-allowed',
  'cross-site',
  'too-large',
  'too-much-work',
  'too-many',
  'storage',
  'not-open',
  'internal',
];

const problemError = named(
  'ProblemError',
  record({
    /** Of the field, RFC 6901. */
    pointer: anyText(),
    code: anyText(),
    detail: anyText(),
    fix: anyText(),
    /** Of a file or a sheet, counted from 1. */
    place: maybe(record({ file: anyText(), line: anyWhole(), column: anyWhole() })),
    line: maybe(anyWhole()),
    column: maybe(anyText()),
  }),
);
export type ProblemError = ValueOf<typeof problemError>;

const verdictTold = { verdict };
/** What some kinds say beside what all say. */
const MORE = {
  stale: {
    revision: anyWhole(),
    savedBy: anyText(),
    savedMs: anyWhole(),
    changes: listOf(change, { most: MANY, of: 'changes' }),
    /** What the caller wanted to change, where that can be read, and the pointers where it meets what others did. */
    mine: maybe(listOf(change, { most: MANY, of: 'changes' })),
    clashes: maybe(listOf(anyText(), { most: MANY, of: 'pointers' })),
  },
  'audit-errors': { findings: listOf(finding, { most: MANY, of: 'findings' }) },
  'broken-cases': { cases: listOf(caseResult, { most: MANY, of: 'cases' }) },
  'edit-refused': { uses: maybe(listOf(use, { most: MANY, of: 'uses' })) },
  'purchase-refused': verdictTold,
  'act-refused': { verdict: actVerdict },
} as const;
type More = typeof MORE;

const problemFields = {
  type: anyText(),
  title: anyText(),
  status: anyWhole(),
  detail: anyText(),
  /** By which it is found in the log of the service. */
  requestId: maybe(anyText()),
  errors: maybe(listOf(problemError, { most: MANY, of: 'errors' })),
};

/** Each kind's problem details; every problem of the request is told at once. */
export const problemSchemas = Object.fromEntries(
  Object.keys(PROBLEMS).map((kind) => {
    const more = (MORE as Readonly<Record<string, Readonly<Record<string, Shape<unknown>>>>>)[kind];
    const name = more
      ? `${kind.replace(/(^|-)(\w)/g, (_, __, letter: string) => letter.toUpperCase())}Problem`
      : 'Problem';
    return [kind, named(name, record({ ...problemFields, ...more }))];
  }),
) as unknown as Record<ProblemKind, Shape<unknown>>;

/** RFC 9457 problem details. */
export type ProblemBody = RecordOf<typeof problemFields> & Record<string, unknown>;

/** What problem details of one kind say beside what all say. */
export type ProblemMore<K extends ProblemKind> = K extends keyof More ? RecordOf<More[K]> : object;
