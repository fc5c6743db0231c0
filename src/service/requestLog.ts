/** What was asked, by whom, how it ended and how long it took: one line of JSON each, without secrets and names of players. */
import { randomBytes } from 'node:crypto';
import type { Request, Response } from 'express';
import type { Logger } from 'pino';
import { pathOf } from '../contract/index.js';
import type { Locals } from './gate.js';
import type { Tracing } from './tracing.js';

export const REQUEST_ID = 'X-Request-Id';

/** What a proxy before it has given may look like. */
const GIVEN = /^[\w.:-]{1,100}$/;
/** So many requests are told in a second, of those that went well and of those that failed or were slow. */
const MOST_WELL = 50;
const MOST_OTHERS = 200;
const SLOW_MS = 1000;

/** The id by which a request is found in the log, in the answer and in a problem. */
export function requestId(request: Request): string {
  const given = request.get(REQUEST_ID);
  return given !== undefined && GIVEN.test(given) ? given : randomBytes(8).toString('hex');
}

export class RequestLog {
  private second = 0;
  private readonly told = { well: 0, others: 0 };
  private left = 0;

  constructor(
    private readonly log: Logger,
    private readonly tracing: Tracing | undefined,
  ) {}

  /** Notes a request of the API once it is over. */
  begin(response: Response): void {
    const start = performance.now();
    response.once('close', () => {
      const { key, who, bill, requestId: id, code, waitMs, asideMs } = response.locals as Partial<Locals>;
      const end = performance.now();
      const ms = end - start;
      const { method, headers } = response.req;
      const route = key === undefined ? undefined : pathOf(key);
      const traceId = this.tracing?.request({
        name: key ?? method,
        method,
        route,
        status: response.statusCode,
        startMs: start,
        endMs: end,
        parts: bill?.parts ?? [],
        requestId: id,
        role: who?.role,
        code,
        headers,
      });
      const isWell = response.writableFinished && response.statusCode < 400 && ms < SLOW_MS;
      if (!this.mayTell(isWell)) return;
      const line = {
        request: id,
        method,
        // Whoever is not known is not told by their address, which may hold anything.
        ...(route === undefined ? {} : { route }),
        status: response.statusCode,
        ms: Math.round(ms),
        // What it cost the thread that serves players; the rest of the time it waited.
        workMs: Math.round(bill?.ms ?? 0),
        ...(waitMs === undefined ? {} : { waitMs: Math.round(waitMs), asideMs: Math.round(asideMs ?? 0) }),
        bytes: Number(response.get('Content-Length') ?? 0),
        ...(who?.token === undefined ? {} : { tokenId: who.token, role: who.role }),
        ...(code === undefined ? {} : { code }),
        ...(response.writableFinished ? {} : { cut: true }),
        ...(traceId === undefined ? {} : { traceId }),
      };
      if (response.statusCode >= 500) this.log.error(line, 'request failed');
      else if (ms >= SLOW_MS) this.log.warn(line, 'slow request');
      else this.log.info(line, 'request');
    });
  }

  private mayTell(isWell: boolean): boolean {
    const second = Math.floor(performance.now() / 1000);
    if (second !== this.second) {
      if (this.left > 0) this.log.info({ count: this.left }, 'requests that are not told one by one');
      Object.assign(this.told, { well: 0, others: 0 });
      [this.second, this.left] = [second, 0];
    }
    if (isWell ? this.told.well++ < MOST_WELL : this.told.others++ < MOST_OTHERS) return true;
    this.left++;
    return false;
  }
}
