/**
 * A route is data: method, path, the role it needs, the shapes of what comes in, and a handler. The
 * application, openapi.json and the test that walks every endpoint with every role all read the same table.
 */
import { schemaIssues } from '../core/schema/index.js';
import type { AnySchema } from '../core/schema/index.js';
import { instantRead, instantWritten } from '../core/schedule/index.js';
import type { Page } from '../core/wire/index.js';
import type { Role, Who } from './access.js';
import { Problem, invalid } from './problem.js';
import type { Service } from './service.js';

export interface Incoming {
  service: Service;
  who: Who;
  params: Record<string, string>;
  query: Record<string, string>;
  body: unknown;
  header(name: string): string | undefined;
}

export interface Reply {
  status?: number;
  body?: unknown;
  headers?: Record<string, string | undefined>;
  /** Bytes that are ready to send, with their content type. */ bytes?: { type: string; content: Buffer | string };
}

/** A stream of server-sent events: `send` until `close`; `onClose` runs when the caller has gone. */
export interface EventStream {
  /** Sends the head of the answer, so that the caller knows that it is heard. */
  open(): void;
  send(event: string, data: unknown, id?: string): void;
  close(): void;
  onClose(listener: () => void): void;
}

export interface Route {
  method: 'get' | 'post' | 'put' | 'patch' | 'delete';
  /** As in OpenAPI: `/players/{id}`. */
  path: string;
  needs: Role | 'nobody';
  summary: string;
  query?: Record<string, string>;
  body?: AnySchema;
  /** The media type of a body that is no JSON. */
  consumes?: string;
  handle?: (incoming: Incoming) => Reply | Promise<Reply>;
  stream?: (incoming: Incoming, stream: EventStream) => void;
}

/** The body, checked against the route's schema. */
export function bodyOf<T>(incoming: Incoming): T {
  return incoming.body as T;
}

export function bodyCheck(route: Route, body: unknown): void {
  if (!route.body) return;
  const issues = schemaIssues(route.body.required(), body ?? undefined);
  if (issues.length > 0) throw invalid('The body does not fit.', issues);
}

/** Which channel a game is on. */
export const CHANNEL_QUERY = { channel: 'The channel that the game is on; live by default' };

export const PAGE_QUERY = {
  cursor: 'Where the last page ended (its `next`)',
  limit: 'How many, 1 to 500; 50 by default',
};

export function pageLimit(query: Record<string, string>): number {
  return queryNumber(query, 'limit', 50, 1, 500);
}

export function pageOf<T>(items: T[], limit: number, cursorOf: (item: T) => string | number): Page<T> {
  return { items, next: items.length === limit ? String(cursorOf(items.at(-1)!)) : null };
}

/** A whole number in the query, or `otherwise` when it is absent. */
export function queryNumber(
  query: Record<string, string>,
  name: string,
  otherwise: number,
  least: number,
  most: number,
): number {
  const written = query[name];
  if (written === undefined) return otherwise;
  const value = Number(written);
  if (Number.isInteger(value) && value >= least && value <= most) return value;
  throw new Problem('bad-request', `"${name}" must be a whole number from ${least} to ${most}, not "${written}".`);
}

/**
 * An instant written in ISO 8601; without an offset it is in `zone`. What clocks jump over or show twice is refused:
 * guessing would be right half of the time.
 */
export function instantOf(written: string | undefined, zone: string, nowMs: number): number {
  if (written === undefined || written === 'now') return nowMs;
  const read = /^\d{4}-/.test(written) ? instantRead(zone, written) : undefined;
  if (!read)
    throw new Problem(
      'bad-request',
      `"${written}" is not an instant. Write it as 2027-03-01T09:00, with an offset such as Z if it is not in ${zone}.`,
    );
  if (read.times === 0)
    throw new Problem(
      'bad-request',
      `Clocks in ${zone} jump over ${written}. Write another time, such as ${instantWritten(zone, read.ms)}.`,
    );
  if (read.times === 2)
    throw new Problem(
      'bad-request',
      `Clocks in ${zone} show ${written} twice. Write which you mean: ${instantWritten(zone, read.ms)} or ${instantWritten(zone, read.secondMs!)}.`,
    );
  return read.ms;
}

/** A BCP 47 tag in the query; undefined where none is asked for. */
export function languageOf({ language }: Record<string, string>): string | undefined {
  if (language === undefined || /^[a-z]{2,3}(-[A-Za-z0-9]{2,8}){0,3}$/.test(language)) return language;
  throw new Problem('bad-request', `"${language}" is not a language. Write a tag such as en, pt or pt-BR.`);
}

/** The revision in an If-Match header such as `"3"`. */
export function revisionOf(incoming: Incoming): number {
  const header = incoming.header('if-match');
  const match = /^(?:W\/)?"?(\d+)"?$/.exec(header ?? '');
  if (!match)
    throw new Problem('revision-needed', 'Send the revision that you started from in If-Match, such as If-Match: "3".');
  return Number(match[1]);
}
