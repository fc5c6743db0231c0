/** Threads that play one scenario many times, each with other values: what a search over levers asks for. */
import { availableParallelism } from 'node:os';
import { join } from 'node:path';
import { Worker } from 'node:worker_threads';
import { RunStopped } from '../core/simulation/index.js';
import type { SimulationResult } from '../core/simulation/index.js';
import { packageRoot } from '../packageRoot.js';
import type { RunTask } from './task.js';
import type { TryAnswer, TryOrder } from './tryWorker.js';

interface Asked {
  order: TryOrder;
  done: (result: SimulationResult) => void;
  failed: (error: Error) => void;
}

export class Tries {
  /** By thread, what it plays; nothing while it is idle. */
  private readonly threads = new Map<Worker, Asked | undefined>();
  private readonly waiting: Asked[] = [];

  /** `most`: how many play at once; as many as there are cores where it is left out. */
  constructor(
    private readonly task: RunTask,
    private readonly most = availableParallelism(),
  ) {}

  /** Rejects with what stopped the run, where it cannot be played to its end. */
  readonly play = (set: Record<string, unknown>, players: number): Promise<SimulationResult> =>
    new Promise((done, failed) => {
      this.waiting.push({ order: { set, players }, done, failed });
      this.next();
    });

  private next(): void {
    if (this.waiting.length === 0) return;
    const idle = [...this.threads].find(([, asked]) => asked === undefined)?.[0];
    const thread = idle ?? (this.threads.size < this.most ? this.begin() : undefined);
    if (!thread) return;
    const asked = this.waiting.shift()!;
    this.threads.set(thread, asked);
    thread.postMessage(asked.order);
  }

  private begin(): Worker {
    const thread = new Worker(join(packageRoot(), 'dist/runs/tryWorker.js'), { workerData: this.task });
    thread.on('message', (answer: TryAnswer) => {
      const asked = this.threads.get(thread)!;
      this.threads.set(thread, undefined);
      this.next();
      if (answer.kind === 'done') asked.done(answer.result);
      else asked.failed(new RunStopped(answer.why));
    });
    const lost = (error: Error): void => {
      const asked = this.threads.get(thread);
      this.threads.delete(thread);
      asked?.failed(error);
      this.next();
    };
    thread.on('error', lost);
    thread.on('exit', () => lost(new Error('a thread of the search ended before its time')));
    return thread;
  }

  /** What is not answered yet fails. */
  async close(): Promise<void> {
    this.waiting.length = 0;
    await Promise.all([...this.threads.keys()].map((thread) => thread.terminate()));
  }
}
