/** Server-sent events: what a handler sends goes out as it comes, to whoever reads it and still may. */
import type { Response } from 'express';
import type { EventStream } from './handler.js';

const MOST_UNREAD_BYTES = 1024 * 1024;

/** `isOpen`: false once whoever listens may not any more. */
export function eventStream(
  response: Response,
  isOpen: () => boolean,
  check?: (data: unknown) => void,
): EventStream<unknown> {
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
      if (!isOpen()) {
        response.end();
        return;
      }
      check?.(data);
      start();
      // Who does not read is let go, before what waits for them fills the memory; they can come back where they were.
      if (response.writableLength > MOST_UNREAD_BYTES) response.destroy();
      else response.write(`${id === undefined ? '' : `id: ${id}\n`}event: ${event}\ndata: ${JSON.stringify(data)}\n\n`);
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
