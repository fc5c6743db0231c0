/**
 * The thread that answers for rankings: neither their reading nor the memory that they take delays who plays. It is begun
 * when a ranking is first asked for, and told of every change from then on.
 */
import { join } from 'node:path';
import { Worker } from 'node:worker_threads';
import { packageRoot } from '../../packageRoot.js';
import type { Tell } from '../aside/aside.js';
import { jobDo, outcomeDone } from '../aside/job.js';
import type { Done, Job, Outcome } from '../aside/job.js';
import { MOST_HEAP_MB } from '../aside/heap.js';
import { Problem } from '../problem.js';
import type { Service } from '../service.js';
import type { Change } from './changes.js';

/** Of one holder of a token: each question is short, or waits with the others for the same. */
const MOST_WAITING_EACH = 1000;
/** How often it is looked who has gone. */
const GONE_MS = 500;

export type Told =
  | { kind: 'ask'; number: number; job: Job }
  | { kind: 'gone'; numbers: number[] }
  | { kind: 'changes'; changes: Change[] };

export interface Answered {
  number: number;
  outcome: Outcome;
  /** What it took of the thread and of waiting in it. */
  ms: number;
}

interface Waiting {
  holder: string;
  isWanted: () => boolean;
  sinceMs: number;
  tell: Tell;
  resolve: (outcome: Outcome) => void;
  reject: (error: Error) => void;
}

export class RankingThread {
  private worker: Worker | undefined;
  private readonly asked = new Map<number, Waiting>();
  private number = 0;
  private changes: Change[] = [];
  private timer: NodeJS.Timeout | undefined;
  /** `service` answers itself where its database is in memory, where no other thread can see it. */
  private readonly isHere: boolean;

  constructor(private readonly service: Service) {
    this.isHere = service.database.path === ':memory:';
    if (this.isHere) service.rankingChanges.tell((change) => service.rankings.take(change));
  }

  get waiting(): number {
    return this.asked.size;
  }

  /** Has the thread load what it needs before it is asked. */
  begin(): void {
    if (!this.isHere) this.worker ??= this.start();
  }

  async ask(job: Omit<Job, 'nowMs'>, isWanted: () => boolean, tell: Tell): Promise<Done> {
    const whole = { ...job, nowMs: this.service.now() };
    return outcomeDone(
      this.isHere ? await jobDo(this.service, whole, isWanted) : await this.submit(whole, isWanted, tell),
    );
  }

  /** Throws where this holder waits for too much. */
  mustHaveRoom(holder: string): void {
    let own = 0;
    for (const waiting of this.asked.values()) if (waiting.holder === holder) own++;
    if (own >= MOST_WAITING_EACH)
      throw new Problem(
        'too-many',
        `"${holder}" waits for ${own} answers about rankings. Try again in a second.`,
        {},
        1,
      );
  }

  private submit(job: Job, isWanted: () => boolean, tell: Tell): Promise<Outcome> {
    const worker = (this.worker ??= this.start());
    return new Promise((resolve, reject) => {
      const number = ++this.number;
      this.asked.set(number, { holder: job.who.name, isWanted, sinceMs: performance.now(), tell, resolve, reject });
      // What was written before it was asked is told before it.
      this.flush(worker);
      worker.postMessage({ kind: 'ask', number, job } satisfies Told);
      this.timer ??= setInterval(() => this.goneTell(worker), GONE_MS).unref();
    });
  }

  private start(): Worker {
    const worker = new Worker(join(packageRoot(), 'dist/service/rankings/worker.js'), {
      workerData: this.service.database.path,
      resourceLimits: { maxOldGenerationSizeMb: MOST_HEAP_MB },
    });
    // It alone keeps no process from ending.
    worker.unref();
    worker.on('message', ({ number, outcome, ms }: Answered) => {
      const waiting = this.asked.get(number);
      if (!waiting) return;
      this.asked.delete(number);
      waiting.tell(Math.max(0, performance.now() - waiting.sinceMs - ms), ms);
      waiting.resolve(outcome);
    });
    worker.on('error', (error: Error & { code?: string }) => {
      if (this.worker === worker) void this.end(error.code === 'ERR_WORKER_OUT_OF_MEMORY' ? tooMuch() : error);
    });
    // A transaction begins and ends in one turn of the loop: what was not told is stored, and what is told will be by then.
    this.service.rankingChanges.tell((change) => {
      if (this.changes.push(change) === 1) setImmediate(() => this.flush(worker));
    });
    return worker;
  }

  private flush(worker: Worker): void {
    // What is told since is of another's.
    if (worker !== this.worker || this.changes.length === 0) return;
    worker.postMessage({ kind: 'changes', changes: this.changes } satisfies Told);
    this.changes = [];
  }

  private goneTell(worker: Worker): void {
    const numbers = [...this.asked].filter(([, { isWanted }]) => !isWanted()).map(([number]) => number);
    if (numbers.length > 0) worker.postMessage({ kind: 'gone', numbers } satisfies Told);
    if (this.asked.size > 0) return;
    clearInterval(this.timer);
    this.timer = undefined;
  }

  /** The next who asks begins another. */
  private async end(error: Error): Promise<void> {
    const { worker } = this;
    this.worker = undefined;
    this.service.rankingChanges.tell(() => undefined);
    this.changes = [];
    clearInterval(this.timer);
    this.timer = undefined;
    for (const { reject } of this.asked.values()) reject(error);
    this.asked.clear();
    await worker?.terminate();
  }

  close(): Promise<void> {
    return this.end(new Error('the service stops'));
  }
}

const tooMuch = (): Problem =>
  new Problem(
    'too-much-work',
    'There is not enough memory for as many places as this ranking has. Give the service more memory, or rank by something else.',
  );
