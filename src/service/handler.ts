/** What a handler gets and gives: typed by its operation's entry in the contract, and checked before it is called. */
import type {
  Answer,
  Body,
  Contract,
  EditAnswer,
  EventOf,
  Key,
  Media,
  Page,
  Params,
  Query,
  SaveKey,
  StreamKey,
} from '../contract/index.js';
import type { Who } from './access.js';
import type { EventStream } from './eventStream.js';
import type { Prepared } from './draft/draft.js';
import type { Publishing } from './releases/releases.js';
import type { RunAsked } from './runs/runManager.js';
import type { Once } from './trading/once.js';
import type { Service } from './service.js';

/** What was sent: JSON that fits its schema, or bytes. */
type Sent<K extends Key> = Contract[K] extends { body: Media } ? Buffer : Body<K>;
type Header<W, T> = W extends 'always' ? T : T | undefined;
type WhenOf<K extends Key, Name extends string> = Contract[K] extends Record<Name, infer W> ? W : undefined;

export interface Incoming<K extends Key> {
  service: Service;
  who: Who;
  params: Params<K>;
  query: Query<K>;
  body: Sent<K>;
  /** The revision that the caller started from; undefined where only a preview is asked for. */
  revision: Header<WhenOf<K, 'revision'>, number>;
  /** The key under which a player's press is done once; undefined where only a preview is asked for. */
  key: Header<WhenOf<K, 'key'>, string>;
  header(name: string): string | undefined;
  /** False once the caller has gone: what takes long is given up then. */
  isWanted(): boolean;
  /** Whether it came by https, to the service itself or to a proxy that it trusts. */
  secure: boolean;
}

export interface Reply<T> {
  status?: number;
  body?: T;
  headers?: Record<string, string | undefined>;
  /** Bytes that are ready to send, with their content type. */
  bytes?: { type: string; content: Buffer | string };
}

/** What came of working something out aside: what is to be written, and what is answered beside that. */
export type Worked =
  /** A new state of the draft; without a `why` the changes say it in the history. */
  | { kind: 'save'; prepared: Prepared; why: string | undefined }
  /** An edit, with the state that it makes; without, its changes are only shown, or there are none. */
  | { kind: 'edit'; edited: Omit<EditAnswer, 'saved'>; save?: { prepared: Prepared; why: string | undefined } }
  | { kind: 'publish'; publishing: Publishing }
  | { kind: 'run'; run: RunAsked };

export type Handlers = {
  [K in Key]: K extends StreamKey
    ? (incoming: Incoming<K>, stream: EventStream<EventOf<K>>) => void
    : K extends SaveKey
      ? (incoming: Incoming<K>) => Worked
      : (incoming: Incoming<K>) => Reply<Answer<K>> | Promise<Reply<Answer<K>>>;
};

export const DEFAULT_LIMIT = 50;

/** A page of what was read with `limit`: full pages may have more behind them. */
export function pageOf<T>(items: T[], limit: number, cursorOf: (item: T) => string | number): Page<T> {
  return { items, next: items.length === limit ? String(cursorOf(items.at(-1)!)) : null };
}

/** A list that is never long enough for pages. */
export const onePage = <T>(items: T[]): Page<T> => ({ items, next: null });

/** 201 for what was done now, 200 for what had been. */
export const onceReply = <T>({ answer, repeated }: Once<T>): Reply<T> => ({
  status: repeated ? 200 : 201,
  body: answer,
  headers: repeated ? { 'Idempotency-Replayed': 'true' } : {},
});
