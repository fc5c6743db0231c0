/** Server-sent events: what a handler sends goes out as it comes, to whoever reads it and still may. */
import type { Response } from 'express';
import { Problem } from './problem.js';

/** A stream of server-sent events: `send` until `close`; `onClose` runs when the caller has gone. */
export interface EventStream<T> {
  /** Sends the head of the answer, so that the caller knows that it is heard. */
  open(): void;
  send(event: string, data: T, id?: string): void;
  close(): void;
  onClose(listener: () => void): void;
}

const MOST_UNREAD_BYTES = 1024 * 1024;
/** Streams that are open at once, of all and of one holder of a token. */
const MOST_OPEN = 1000;
const MOST_OPEN_EACH = 100;
/** A stream is never silent for longer, in ms: proxies close what is silent, and who has gone is noticed. */
const SILENT_MS = 15_000;

interface Open {
  holder: string;
  response: Response;
  /** False once whoever listens may not any more. */
  isOpen: () => boolean;
}

export class EventStreams {
  private readonly open = new Set<Open>();
  private readonly timer = setInterval(() => this.beat(), SILENT_MS).unref();

  get count(): number {
    return this.open.size;
  }

  /** Throws where too many are open. `check` looks at what is sent. */
  stream(
    holder: string,
    response: Response,
    isOpen: () => boolean,
    check?: (data: unknown) => void,
  ): EventStream<unknown> {
    const own = [...this.open].filter((one) => one.holder === holder).length;
    if (this.open.size >= MOST_OPEN || own >= MOST_OPEN_EACH)
      throw new Problem(
        'too-many',
        `${this.open.size} streams are open, ${own} of them of "${holder}": ${MOST_OPEN} and ${MOST_OPEN_EACH} are the most. Close some.`,
      );
    const one = { holder, response, isOpen };
    this.open.add(one);
    response.on('close', () => this.open.delete(one));
    const start = () => {
      if (!response.headersSent)
        response
          .status(200)
          .set({ 'Content-Type': 'text/event-stream', 'Cache-Control': 'no-store', 'X-Accel-Buffering': 'no' })
          .flushHeaders();
    };
    return {
      open: start,
      send: (event, data, id) => {
        check?.(data);
        if (isOpen()) start();
        write(one, `${id === undefined ? '' : `id: ${id}\n`}event: ${event}\ndata: ${JSON.stringify(data)}\n\n`);
      },
      close: () => {
        start();
        response.end();
      },
      onClose: (listener) => {
        response.on('close', listener);
      },
    };
  }

  /** A comment to all of them, which says that the service is there. */
  beat(): void {
    for (const one of this.open) if (one.response.headersSent) write(one, ': here\n\n');
  }

  /** Ends all: the service stops. Who listens comes back. */
  close(): void {
    clearInterval(this.timer);
    for (const { response } of this.open) response.end();
  }
}

function write({ response, isOpen }: Open, text: string): void {
  if (!isOpen()) response.end();
  // Who does not read is let go, before what waits for them fills the memory; they can come back where they were.
  else if (response.writableLength > MOST_UNREAD_BYTES) response.destroy();
  else response.write(text);
}
