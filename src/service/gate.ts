/** What stands before every request: what its caller may ask for, of work and of memory, is taken before its body is read. */
import type { Request, Response } from 'express';
import { CONTRACT, isAside } from '../contract/index.js';
import type { Key, Operation } from '../contract/index.js';
import type { Who } from './access.js';
import { Allowance, bodyKbOf } from './allowance.js';
import { BodyPool } from './bodyPool.js';
import type { FrontAsked } from './hotFront.js';
import type { Metrics } from './metrics.js';
import type { Service } from './service.js';
import { threadOf } from './threads.js';
import type { Threads } from './threads.js';
import type { Bill } from './workMeter.js';

/** What is known of a request on its way. */
export interface Locals {
  key: Key;
  requestId: string;
  who?: Who;
  bill?: Bill;
  /** Of its problem, or of what refused it. */
  code?: string;
  front?: FrontAsked;
  /** How long it waited for another thread, and how long that took, in ms. */
  waitMs?: number;
  asideMs?: number;
}

/** Of a body that another thread reads, this thread only passes on the bytes: it costs so much less. */
const PASSED_ON = 0.02;

export class Gate {
  private readonly allowance: Allowance;
  private readonly bodies = new BodyPool();

  constructor(
    private readonly service: Service,
    private readonly threads: Threads,
    private readonly metrics: Metrics,
  ) {
    this.allowance = new Allowance(service.workMsPerSecond);
  }

  /** Throws a problem where the caller must wait. What was taken is settled when the answer is gone. */
  async enter(key: Key, request: Request, response: Response): Promise<void> {
    const operation: Operation = CONTRACT[key];
    const locals = response.locals as Locals;
    const done = this.metrics.begin(key);
    response.once('finish', () => done(response.statusCode));
    // Whoever signs in is not known yet.
    const holder = operation.role === 'nobody' ? addressOf(request) : locals.who!.name;
    const bill: Bill = {
      holder,
      ms: 0,
      request: locals.requestId,
      what: key,
      ...(this.service.tracing ? { parts: [] } : {}),
    };
    locals.bill = bill;
    if (isAside(operation)) threadOf(this.threads, operation).mustHaveRoom(holder);
    const kb = operation.body === undefined ? 0 : bodyKbOf(operation, request.headers);
    const settle = await this.allowance.take(holder, key, isAside(operation) ? kb * PASSED_ON : kb);
    const giveBack = this.bodies.take(holder, kb);
    response.once('close', () => {
      settle(bill.ms);
      giveBack();
      this.metrics.worked(holder, bill.ms);
    });
  }

  /** Asked for something of the service without a token that is known. */
  async stranger(request: Request): Promise<void> {
    await this.passer(request);
    const { authorization, cookie } = request.headers;
    if (authorization !== undefined || cookie !== undefined) await this.allowance.guessed(request.ip ?? '');
  }

  /** Tried to sign in with a token that is not known. */
  guessed(request: Request): Promise<void> {
    return this.allowance.guessed(request.ip ?? '');
  }

  /** Asks for what is open to everybody. */
  async passer(request: Request): Promise<void> {
    await this.allowance.take(addressOf(request), 'open', 0);
  }
}

const addressOf = ({ ip = '' }: Request): string => `address ${ip}`;
