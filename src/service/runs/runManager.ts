/** Simulations in the background: one at a time in a worker thread, the others wait their turn. */
import { Worker } from 'node:worker_threads';
import { join } from 'node:path';
import type { EconomyDocument } from '../../core/document/index.js';
import { scenarioResolve } from '../../core/simulation/index.js';
import type { SimulationResult } from '../../core/simulation/index.js';
import type { RunSetupView, RunStatus, RunView } from '../../contract/index.js';
import { packageRoot } from '../packageRoot.js';
import { invalid, numberNotFound } from '../problem.js';
import type { RunChange, RunStore } from '../store/runStore.js';
import type { WorkerInput, WorkerMessage } from './worker.js';

/** The heap a run may fill, in MB: a run that wants more fails alone, not the service with it. */
const MOST_HEAP_MB = 2048;

type Listener = (run: RunView) => void;

export class RunManager {
  private readonly waiting: { id: number; input: WorkerInput }[] = [];
  private active: { id: number; worker: Worker } | undefined;
  private readonly listeners = new Map<number, Set<Listener>>();
  /** Days done, held apart so that progress costs no writes. */
  private readonly days = new Map<number, number>();

  constructor(
    private readonly store: RunStore,
    private readonly now: () => number,
    private readonly report: (error: unknown) => void,
  ) {}

  /** When the service starts: runs that its last stop cut off cannot go on. */
  endUnfinished(): void {
    this.store.failUnfinished('the service stopped while it ran; run it again');
  }

  /** Checks the scenario first; a problem lists everything that is wrong with it. */
  start(document: EconomyDocument, setup: RunSetupView, who: string): RunView {
    const resolved = scenarioResolve(document, setup.scenario, setup.options);
    if (!resolved.ok) throw invalid('The scenario cannot be run.', resolved.issues);
    const id = this.store.add({
      name: resolved.value.name,
      setup,
      status: 'waiting',
      day: 0,
      days: resolved.value.days,
      createdMs: this.now(),
      createdBy: who,
    });
    this.waiting.push({ id, input: { document, scenario: setup.scenario, options: setup.options } });
    this.next();
    return this.get(id);
  }

  private next(): void {
    if (this.active) return;
    const task = this.waiting.shift();
    if (!task) return;
    const worker = new Worker(join(packageRoot(), 'dist/service/runs/worker.js'), {
      workerData: task.input,
      resourceLimits: { maxOldGenerationSizeMb: MOST_HEAP_MB },
    });
    this.active = { id: task.id, worker };
    this.change(task.id, { status: 'running' });
    worker.on('message', (message: WorkerMessage) => {
      if (message.kind === 'day') this.progress(task.id, message.day);
      else this.finish(task.id, { status: 'done', result: message.result });
    });
    worker.on('error', (error) => {
      this.report(error);
      this.finish(task.id, { status: 'failed', error: error.message });
    });
    worker.on('exit', () => this.finish(task.id, { status: 'failed', error: 'the run ended without a result' }));
  }

  private progress(id: number, day: number): void {
    this.days.set(id, day);
    this.tell(id);
  }

  /** Ends the active run once; later reports about it change nothing. */
  private finish(id: number, outcome: { status: RunStatus; result?: string; error?: string }): void {
    if (this.active?.id !== id) return;
    this.active = undefined;
    this.change(id, { ...outcome, day: this.days.get(id) ?? 0 });
    this.days.delete(id);
    this.next();
  }

  private change(id: number, change: RunChange): void {
    this.store.change(id, change);
    this.tell(id);
  }

  private tell(id: number): void {
    const listeners = this.listeners.get(id);
    if (!listeners) return;
    const view = this.get(id);
    for (const listener of listeners) listener(view);
  }

  cancel(id: number): RunView {
    const { status } = this.get(id);
    const place = this.waiting.findIndex((task) => task.id === id);
    if (place >= 0) {
      this.waiting.splice(place, 1);
      this.change(id, { status: 'cancelled' });
    } else if (this.active?.id === id && status === 'running') {
      const { worker } = this.active;
      this.finish(id, { status: 'cancelled' });
      void worker.terminate();
    }
    return this.get(id);
  }

  get(id: number): RunView {
    const run = this.store.find(id);
    if (!run) throw numberNotFound('run', id, this.store.list(Number.MAX_SAFE_INTEGER, 1)[0]?.id ?? 0);
    return this.withProgress(run);
  }

  private withProgress(run: RunView): RunView {
    return { ...run, day: this.days.get(run.id) ?? run.day };
  }

  list(cursor: number, limit: number): RunView[] {
    return this.store.list(cursor, limit).map((run) => this.withProgress(run));
  }

  /** The result as JSON text, as the worker wrote it; undefined while there is none. */
  resultText(id: number): string | undefined {
    return this.store.resultText(id);
  }

  result(id: number): SimulationResult | undefined {
    const text = this.resultText(id);
    return text === undefined ? undefined : (JSON.parse(text) as SimulationResult);
  }

  /** Calls `listener` at every change until the returned function is called. */
  watch(id: number, listener: Listener): () => void {
    const listeners = this.listeners.get(id) ?? new Set();
    this.listeners.set(id, listeners.add(listener));
    return () => {
      listeners.delete(listener);
      if (listeners.size === 0) this.listeners.delete(id);
    };
  }

  async close(): Promise<void> {
    this.waiting.length = 0;
    const { active } = this;
    this.active = undefined;
    await active?.worker.terminate();
  }
}

export const runIsOver = (status: RunStatus): boolean =>
  status === 'done' || status === 'failed' || status === 'cancelled';
