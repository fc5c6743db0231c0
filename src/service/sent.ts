/** Takes in a request from HTTP as it came, which is all that the thread aside is told of it. */
import express from 'express';
import type { Request, RequestHandler } from 'express';
import { BODY_KB, isMedia } from '../contract/index.js';
import type { Operation } from '../contract/index.js';

/** A request as it came: text and bytes, which can be sent from one thread to another. */
export interface Sent {
  params: Record<string, string>;
  query: Readonly<Record<string, unknown>>;
  body: Uint8Array | undefined;
  /** Those that are listened to. */
  headers: Partial<Record<HeaderName, string>>;
  /** Whether it came by https, to the service itself or to a proxy that it trusts. */
  secure: boolean;
}

export const HEADER_NAMES = ['if-match', 'if-none-match', 'idempotency-key', 'last-event-id', 'cookie'] as const;
export type HeaderName = (typeof HEADER_NAMES)[number];

/** What takes in an operation's body, as large as it may be. */
export function bodyReaders({ body, bodyKb = BODY_KB }: Operation): RequestHandler[] {
  if (body === undefined) return [];
  const type = !isMedia(body)
    ? ['application/json', 'application/json-patch+json']
    : body.media === 'image/*'
      ? ['image/*', 'application/octet-stream']
      : [body.media];
  return [express.raw({ limit: bodyKb * 1024, type })];
}

export function requestSent(request: Request): Sent {
  const { body } = request as { body: unknown };
  return {
    params: request.params as Record<string, string>,
    query: request.query,
    body: Buffer.isBuffer(body) ? body : undefined,
    headers: Object.fromEntries(
      HEADER_NAMES.flatMap((name) => {
        const value = request.get(name);
        return value === undefined ? [] : [[name, value]];
      }),
    ),
    secure: request.secure,
  };
}
