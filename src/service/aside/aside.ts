/**
 * Work that may take long, done one after the other in a thread of its own, so that nobody who plays waits for it: saves
 * are read, compiled and audited there, and questions about the draft are answered. Each holder of a token has a turn
 * after the other. What takes too long is given up.
 */
import { join } from 'node:path';
import { Worker } from 'node:worker_threads';
import { countText } from '../../core/issue/index.js';
import { packageRoot } from '../../packageRoot.js';
import { FairQueue } from '../fairQueue.js';
import { CallerGone, Problem } from '../problem.js';
import type { Service } from '../service.js';
import { MOST_HEAP_MB } from './heap.js';
import { handsOver, jobDo, outcomeDone } from './job.js';
import type { Done, Job, Outcome } from './job.js';

/** By the clock: on a busy machine the same work takes a few times as long. */
const LONGEST_MS = 60_000;
const MOST_WAITING = 128;
/** Of one holder of a token: nobody fills the queue for all. */
const MOST_WAITING_EACH = 32;
/** What a piece of work is expected to take before any was done, and how much each changes what is expected. */
const FIRST_MS = 200;
const WEIGHT = 0.2;

interface Waiting {
  job: Job;
  isWanted: () => boolean;
  sinceMs: number;
  tell: Tell;
  resolve: (outcome: Outcome) => void;
  reject: (error: Error) => void;
}

/** Is told how long a request has waited for its turn, and how long it took then, in ms. */
export type Tell = (waitMs: number, asideMs: number) => void;

export class Aside {
  private worker: Worker | undefined;
  private readonly queue = new FairQueue<Waiting>();
  private active: Waiting | undefined;
  private activeSince = 0;
  /** What one piece of work took of late, in ms: by this is told how long somebody has to wait. */
  private usualMs = FIRST_MS;
  private timer: NodeJS.Timeout | undefined;

  /** `service` does the work itself where its database is in memory, where no other thread can see it. */
  private readonly isHere: boolean;

  constructor(private readonly service: Service) {
    this.isHere = service.database.path === ':memory:';
  }

  /** Whether something waits behind what it is at. */
  get isBusy(): boolean {
    return this.queue.size > 0;
  }

  get waiting(): number {
    return this.queue.size;
  }

  /** Has the thread load what it needs before it is asked. */
  begin(): void {
    if (!this.isHere) this.worker ??= this.start();
  }

  /** Throws the problem that the work ended with. It is not begun where the caller has gone while it waited. */
  async ask(
    job: Omit<Job, 'nowMs'>,
    isWanted: () => boolean = () => true,
    tell: Tell = () => undefined,
  ): Promise<Done> {
    const { service } = this;
    const whole = { ...job, nowMs: service.now() };
    return outcomeDone(this.isHere ? await jobDo(service, whole) : await this.submit(whole, isWanted, tell));
  }

  /** Throws where too much waits to take in more of this holder: asked before a body is read. */
  mustHaveRoom(holder: string): void {
    const own = this.queue.sizeOf(holder);
    if (this.queue.size < MOST_WAITING && own < MOST_WAITING_EACH) return;
    const waitS = Math.ceil((own * this.usualMs) / 1000);
    throw new Problem(
      'too-many',
      `Too much waits to be worked out: ${this.queue.size} requests, ${own} of them of "${holder}". Try again in about ${countText(Math.max(1, waitS), 'second')}.`,
      {},
      Math.max(1, waitS),
    );
  }

  private submit(job: Job, isWanted: () => boolean, tell: Tell): Promise<Outcome> {
    this.mustHaveRoom(job.who.name);
    return new Promise((resolve, reject) => {
      this.queue.push(job.who.name, { job, isWanted, sinceMs: performance.now(), tell, resolve, reject });
      this.next();
    });
  }

  private next(): void {
    if (this.active) return;
    this.active = this.queue.shift();
    for (; this.active && !this.active.isWanted(); this.active = this.queue.shift())
      this.active.reject(new CallerGone());
    if (!this.active) return;
    this.begin();
    this.activeSince = performance.now();
    this.timer = setTimeout(() => this.giveUp(tooLong()), LONGEST_MS);
    const { job } = this.active;
    this.worker!.postMessage(job, handsOver(job.sent.body));
  }

  private start(): Worker {
    const worker = new Worker(join(packageRoot(), 'dist/service/aside/worker.js'), {
      workerData: this.service.database.path,
      resourceLimits: { maxOldGenerationSizeMb: MOST_HEAP_MB },
    });
    // It alone keeps no process from ending.
    worker.unref();
    worker.on('message', (outcome: Outcome) => {
      // Of one that was given up: another is at work.
      if (this.worker !== worker) return;
      const { active } = this;
      this.end();
      active?.resolve(outcome);
    });
    worker.on('error', (error: Error & { code?: string }) => {
      if (this.worker === worker) this.giveUp(error.code === 'ERR_WORKER_OUT_OF_MEMORY' ? tooLong() : error);
    });
    return worker;
  }

  /** Ends the thread with what it is at; the next work gets a new one. */
  private giveUp(error: Error): void {
    const { worker, active } = this;
    this.worker = undefined;
    void worker?.terminate();
    this.end();
    active?.reject(error);
  }

  private end(): void {
    clearTimeout(this.timer);
    if (this.active) {
      const tookMs = performance.now() - this.activeSince;
      this.usualMs += WEIGHT * (tookMs - this.usualMs);
      this.active.tell(this.activeSince - this.active.sinceMs, tookMs);
    }
    this.active = undefined;
    this.next();
  }

  async close(): Promise<void> {
    for (const { reject } of this.queue.clear()) reject(new Error('the service stops'));
    const { worker, active } = this;
    this.worker = undefined;
    clearTimeout(this.timer);
    await worker?.terminate();
    active?.reject(new Error('the service stops'));
  }
}

const tooLong = (): Problem =>
  new Problem(
    'too-much-work',
    `It took more than ${LONGEST_MS / 1000} s or too much memory, and was given up. Ask for less at once.`,
  );
