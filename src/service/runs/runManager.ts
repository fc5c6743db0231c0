/** Simulations in the background: one at a time in a worker thread, the others wait their turn. */
import { setTimeout as delay } from 'node:timers/promises';
import { Worker } from 'node:worker_threads';
import { join } from 'node:path';
import type { EconomyDocument } from '../../core/document/index.js';
import { scenarioResolve } from '../../core/simulation/index.js';
import type { SimulationResult } from '../../core/simulation/index.js';
import type { RunSetupView, RunStatus, RunView } from '../../contract/index.js';
import { packageRoot } from '../../packageRoot.js';
import type { Faults } from '../faults.js';
import { Problem, invalid, numberNotFound } from '../problem.js';
import type { RunChange, RunStore } from '../store/runStore.js';
import type { Writer } from '../store/writer.js';
import type { WorkerInput, WorkerMessage } from './worker.js';

/** The heap a run may fill, in MB: a run that wants more fails alone, not the service with it. */
const MOST_HEAP_MB = 2048;

type Listener = (run: RunView) => void;

/** How long after a failure of storage what came of a run is written again, in ms; the last one again and again. */
const TRY_AGAIN_MS = [250, 1000, 5000, 15_000];

const CLOSING_MS = 1000;
/** Each holds its economy in memory. */
const MOST_WAITING = 50;

/** A run that can be begun: its scenario is there and fits. */
export interface RunAsked {
  name: string;
  days: number;
  setup: RunSetupView;
  /** The economy as JSON. */
  text: string;
}

/** Throws a problem that lists everything that is wrong with the scenario. */
export function runAsked(document: EconomyDocument, setup: RunSetupView): RunAsked {
  const resolved = scenarioResolve(document, setup.scenario, setup.options);
  if (!resolved.ok) throw invalid('The scenario cannot be run.', resolved.issues);
  const { name, days } = resolved.value;
  return { name, days, setup, text: JSON.stringify(document) };
}

export class RunManager {
  private readonly waiting: { id: number; input: WorkerInput }[] = [];
  private active: { id: number; worker: Worker } | undefined;
  private readonly listeners = new Map<number, Set<Listener>>();
  /** What is true already and not on disk: days done, which cost no writes, and how a run stands. */
  private readonly ahead = new Map<number, RunChange>();
  /** What came of each run is written in turn. */
  private readonly writing = new Map<number, Promise<void>>();
  private closed = false;

  constructor(
    private readonly store: RunStore,
    private readonly writer: Writer,
    private readonly faults: Faults,
    private readonly now: () => number,
  ) {}

  /** When the service starts: runs that its last stop cut off cannot go on. */
  async endUnfinished(): Promise<void> {
    await this.writer.submit(() => this.store.failUnfinished('the service stopped while it ran; run it again'));
  }

  async begin({ name, days, setup, text }: RunAsked, who: string): Promise<RunView> {
    if (this.waiting.length >= MOST_WAITING)
      throw new Problem('too-many', `${MOST_WAITING} runs wait already. Cancel some, or wait until they are done.`);
    const run = { name, setup, status: 'waiting', day: 0, days, createdMs: this.now(), createdBy: who } as const;
    const id = await this.writer.submit(() => this.store.add(run));
    this.waiting.push({ id, input: { text, scenario: setup.scenario, options: setup.options } });
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
      this.faults.note(`run ${task.id}`, error);
      this.finish(task.id, { status: 'failed', error: error.message });
    });
    worker.on('exit', () => this.finish(task.id, { status: 'failed', error: 'the run ended without a result' }));
  }

  private progress(id: number, day: number): void {
    if (this.active?.id !== id) return;
    this.ahead.set(id, { ...this.ahead.get(id), day });
    this.tell(id);
  }

  /** Ends the active run once; later reports about it change nothing. */
  private finish(id: number, outcome: { status: RunStatus; result?: string; error?: string }): void {
    if (this.active?.id !== id) return;
    this.active = undefined;
    this.change(id, { ...outcome, day: this.ahead.get(id)?.day ?? 0 });
    this.next();
  }

  /** A run is told as done once its result can be read. */
  private change(id: number, change: RunChange & { status: RunStatus }): void {
    if (change.status !== 'done') {
      this.ahead.set(id, { ...this.ahead.get(id), ...change });
      this.tell(id);
    }
    const before = this.writing.get(id) ?? Promise.resolve();
    this.writing.set(
      id,
      before.then(() => this.write(id, change)),
    );
  }

  /** Tries until it is on disk, however often storage fails before. */
  private async write(id: number, change: RunChange & { status: RunStatus }): Promise<void> {
    for (let tries = 0; !this.closed; tries++) {
      try {
        await this.writer.submit(() => this.store.change(id, change));
        if (!runIsOver(change.status)) return;
        this.ahead.delete(id);
        this.writing.delete(id);
        this.tell(id);
        return;
      } catch (error) {
        this.faults.note(`what came of run ${id} could not be written; it is kept and tried again`, error);
        await delay(TRY_AGAIN_MS[Math.min(tries, TRY_AGAIN_MS.length - 1)], undefined, { ref: false });
      }
    }
  }

  private tell(id: number): void {
    const listeners = this.listeners.get(id);
    if (!listeners) return;
    const view = this.get(id);
    for (const listener of listeners) this.faults.guard(`a listener of run ${id}`, () => listener(view));
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
    return { ...run, ...this.ahead.get(run.id) };
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
    this.closed = true;
    this.waiting.length = 0;
    const { active } = this;
    this.active = undefined;
    await active?.worker.terminate();
    // What is being written is on disk before it closes; what storage does not take now is lost with the process.
    await Promise.race([Promise.all(this.writing.values()), delay(CLOSING_MS, undefined, { ref: false })]);
  }
}

export const runIsOver = (status: RunStatus): boolean =>
  status === 'done' || status === 'failed' || status === 'cancelled';
