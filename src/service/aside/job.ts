/** A request that is worked out aside, and what came of it: all of it can be sent from one thread to another. */
import { CONTRACT } from '../../contract/index.js';
import type { Key, Operation, ProblemKind } from '../../contract/index.js';
import type { Who } from '../access.js';
import type { Incoming, Reply, Worked } from '../handler.js';
import { HANDLERS } from '../handlers/index.js';
import { CallerGone, Problem } from '../problem.js';
import { requestRead } from '../request.js';
import type { Sent } from '../sent.js';
import type { Service } from '../service.js';

export interface Job {
  key: Key;
  who: Who;
  sent: Sent;
  /** Of the service's clock. */
  nowMs: number;
}

export type Outcome =
  | { kind: 'reply'; reply: Reply<unknown> }
  | { kind: 'worked'; worked: Worked }
  | { kind: 'problem'; problem: ProblemKind; detail: string; more: object }
  | { kind: 'failed'; message: string }
  /** Nobody waits for it any more. */
  | { kind: 'gone' };

/** What a handler is called with. */
export const incomingOf = (
  service: Service,
  { key, who, sent }: Omit<Job, 'nowMs'>,
  isWanted: () => boolean = () => true,
): Incoming<Key> =>
  ({
    service,
    who,
    ...requestRead(CONTRACT[key], sent),
    header: (name: keyof Sent['headers']) => sent.headers[name],
    secure: sent.secure,
    isWanted,
  }) as Incoming<Key>;

/** Reads the request, and does what its operation does, up to what has to be written. */
export async function jobDo(service: Service, job: Job, isWanted?: () => boolean): Promise<Outcome> {
  try {
    const operation: Operation = CONTRACT[job.key];
    // The table of handlers has this key's handler, which takes what is read by this key's entry.
    const handle = HANDLERS[job.key] as (incoming: Incoming<Key>) => unknown;
    const done = await handle(incomingOf(service, job, isWanted));
    return operation.saves
      ? { kind: 'worked', worked: done as Worked }
      : { kind: 'reply', reply: done as Reply<unknown> };
  } catch (error) {
    if (error instanceof Problem)
      return { kind: 'problem', problem: error.kind, detail: error.message, more: error.more };
    if (error instanceof CallerGone) return { kind: 'gone' };
    return { kind: 'failed', message: (error as Error).stack ?? String(error) };
  }
}

export type Done = { reply: Reply<unknown> } | { worked: Worked };

/** What it came to. Throws the problem that it ended with. */
export function outcomeDone(outcome: Outcome): Done {
  switch (outcome.kind) {
    case 'reply':
    case 'worked':
      return outcome;
    case 'problem':
      throw new Problem(outcome.problem, outcome.detail, outcome.more);
    case 'gone':
      throw new CallerGone();
    case 'failed':
      throw new Error(outcome.message);
  }
}

/** An answer as bytes, so that they can be handed from thread to thread without being copied or read. */
export function jobTold(outcome: Outcome): Outcome {
  if (outcome.kind !== 'reply') return outcome;
  const { body, bytes, ...reply } = outcome.reply;
  if (body !== undefined) return told(reply, 'application/json', Buffer.from(JSON.stringify(body)));
  return typeof bytes?.content === 'string' ? told(reply, bytes.type, Buffer.from(bytes.content)) : outcome;
}

const told = (reply: Reply<unknown>, type: string, content: Buffer): Outcome => ({
  kind: 'reply',
  reply: { ...reply, bytes: { type, content } },
});

/** The bytes that another thread is given and that are not copied: where nothing else shares their buffer. */
export function handsOver(bytes: unknown): ArrayBuffer[] {
  if (!(bytes instanceof Uint8Array)) return [];
  const { buffer, byteLength } = bytes;
  // Small buffers share one with others.
  return buffer instanceof ArrayBuffer && buffer.byteLength === byteLength ? [buffer] : [];
}
