/**
 * What an operation of the service is: who may use it, what comes in, what goes out, and what may go wrong. Handlers,
 * the client, openapi.json and the tests all read the same entry; the method and the path are its key.
 */
import type { Shape, ValueOf } from '../core/schema/index.js';
import type { ActKind } from '../core/trade/index.js';
import type { ProblemKind } from './problem.js';
import type { Role } from './role.js';

/** How large a body may be that holds one thing, in kB. */
export const BODY_KB = 64;
/** The same where it holds many, each of them small. */
export const BATCH_KB = 512;

/** The same for a whole economy. */
export const DOCUMENT_KB = 12 * 1024;
/** The largest picture: an icon is small, and every player would load it. */
export const PICTURE_KB = 512;
/** What a picture can be called: it is the name of a file wherever it is kept. */
export const PICTURE_NAME = /^[a-z0-9][a-z0-9_-]{0,59}\.(png|jpg|jpeg|webp|gif)$/;

/** A body that is no JSON. */
export interface Media {
  media: string;
}
/** An answer without a body. */
export const NOTHING = { media: '' } as const;
export const media = <const T extends string>(type: T): { media: T } => ({ media: type });

/** `always`, or only where the query does not ask for a preview. */
export type When = 'always' | 'unless-preview';

export interface Operation {
  /** What a generated client calls it. */
  id: string;
  role: Role | 'nobody';
  summary: string;
  /** What stands in braces in the path; a text unless it is described here. */
  params?: Readonly<Record<string, Shape<unknown>>>;
  query?: Readonly<Record<string, Shape<unknown>>>;
  /** JSON, or, with a media type, the bytes as they are. */
  body?: Shape<unknown> | Media;
  /** How large a body may be, in kB; `BODY_KB` unless it says otherwise. It is looked at before anything is read. */
  bodyKb?: number;
  /**
   * It is worked out beside the thread that serves players: always, or where what is asked for is long; or in a third
   * thread, so that no save waits behind it; or where rankings are kept.
   */
  aside?: true | 'behind-no-save' | 'rankings' | ((asked: Asked) => boolean);
  /** What it works out aside is written then: a new state of the draft, a release, or a run. */
  saves?: true;
  /** The handler checks the body itself, with a word on what the failure means. */
  bodyCheckedLater?: true;
  /** If-Match names the revision that the caller started from. */
  revision?: When;
  /** Idempotency-Key makes a repeat harmless. */
  key?: When;
  /** What is done with a thing that a player holds, by the way that all such acts go. */
  act?: ActKind;
  /** By status. */
  answers: Readonly<Partial<Record<Status, Shape<unknown> | Media>>>;
  /** Server-sent events, instead of an answer; each holds this. */
  events?: Shape<unknown>;
  /** What was missed is sent first, to who names the last event that came. */
  resumes?: true;
  /** Beside those that any operation may answer with. */
  problems?: readonly ProblemKind[];
}
/** What a request asks for, by which is told whether it is long. */
export interface Asked {
  query: object;
  body: unknown;
}

export type Status = 200 | 201 | 202 | 204 | 304;

export type Method = 'GET' | 'POST' | 'PUT' | 'PATCH' | 'DELETE';
/** `GET /shops/{shop}/front`, below /api/v1. */
export type OperationKey = `${Method} /${string}`;

/** Entries of the contract, with their literal types kept. */
export const operations = <const T extends Readonly<Record<OperationKey, Operation>>>(table: T): T => table;

export const methodOf = (key: string): Method => key.slice(0, key.indexOf(' ')) as Method;
export const pathOf = (key: string): string => key.slice(key.indexOf(' ') + 1);
interface AboutSource {
  source?: string;
  at?: string;
  checks?: readonly { at?: string }[];
}

/** Whether a question is about something else than what a channel points at now, which is held compiled anyway. */
export function unlessLive({ query, body }: Asked): boolean {
  const { source = 'live', at, checks = [] } = { ...query, ...(body as object | undefined) } as AboutSource;
  const isNow = [at, ...checks.map((check) => check.at)].every((time) => time === undefined || time === 'now');
  return !isNow || source === 'draft' || /^\d+$/.test(source);
}

/** Whether it is never worked out in the thread that serves players. */
export const isAside = ({ aside, saves }: Operation): boolean =>
  aside === true || typeof aside === 'string' || saves === true;
export const isMedia = (body: object | undefined): body is Media => body !== undefined && 'media' in body;

// --- what TypeScript reads from an entry

type Flat<T> = { [K in keyof T]: T[K] };
type ParamNames<Path extends string> = Path extends `${string}{${infer Name}}${infer Rest}`
  ? Name | ParamNames<Rest>
  : never;
type Described<O extends Operation> =
  O['params'] extends Readonly<Record<string, Shape<unknown>>> ? O['params'] : object;

/** What stands in the path. */
export type Params<Key extends string, O extends Operation> = {
  [Name in ParamNames<Key>]: Name extends keyof Described<O>
    ? Described<O>[Name] extends Shape<unknown>
      ? ValueOf<Described<O>[Name]>
      : string
    : string;
};
export type Query<O extends Operation> =
  O['query'] extends Readonly<Record<string, Shape<unknown>>>
    ? { -readonly [Name in keyof O['query']]?: ValueOf<O['query'][Name]> }
    : object;
export type Body<O extends Operation> = O['body'] extends Shape<unknown> ? ValueOf<O['body']> : undefined;

/** Text, or any other bytes. */
type MediaValue<T extends string> = T extends '' ? undefined : T extends `text/${string}` ? string : ArrayBuffer;
type AnswerValue<A> =
  A extends Shape<unknown> ? ValueOf<A> : A extends { media: infer T extends string } ? MediaValue<T> : never;
/** What an operation answers with when it succeeds. */
export type Answer<O extends Operation> = {
  [S in keyof O['answers']]: S extends 304 ? never : AnswerValue<O['answers'][S]>;
}[keyof O['answers']];
export type EventOf<O extends Operation> = O['events'] extends Shape<unknown> ? ValueOf<O['events']> : never;

/** What may be sent as it is. */
export type RawContent = string | Blob | ArrayBuffer;
/** A whole family of types is told apart by its bytes. */
type MediaType<T extends string> = T extends `${string}/*` ? string : T;

type OptionalIfEmpty<Name extends string, T> = [keyof T] extends [never]
  ? object
  : Partial<T> extends T
    ? { [K in Name]?: T }
    : { [K in Name]: T };
type BodyInput<B> =
  B extends Shape<unknown>
    ? { body: ValueOf<B> }
    : B extends { media: infer T extends string }
      ? { body: RawContent; type: MediaType<T> }
      : object;
type WhenInput<W, Name extends string, T> = W extends 'always'
  ? { [K in Name]: T }
  : W extends 'unless-preview'
    ? { [K in Name]: T } | { query: { preview: true } }
    : object;
/** What a caller says. */
export type Input<Key extends string, O extends Operation> = Flat<
  OptionalIfEmpty<'params', Params<Key, O>> &
    OptionalIfEmpty<'query', Query<O>> &
    BodyInput<O['body']> &
    WhenInput<O['revision'], 'revision', number> &
    WhenInput<O['key'], 'key', string>
>;
