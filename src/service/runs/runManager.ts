/** Simulations in the background: a few at once, each in a thread of its own that is kept for the next; the others wait their turn. */
import { availableParallelism } from 'node:os';
import { setTimeout as delay } from 'node:timers/promises';
import { Worker } from 'node:worker_threads';
import { join } from 'node:path';
import { placeWords } from '../../core/document/index.js';
import type { EconomyDocument } from '../../core/document/index.js';
import { pointerSegments } from '../../core/issue/index.js';
import { scenarioResolve } from '../../core/simulation/index.js';
import type { SimulationResult } from '../../core/simulation/index.js';
import type { Page, RunSetupView, RunStatus, RunView } from '../../contract/index.js';
import { packageRoot } from '../../packageRoot.js';
import type { Faults } from '../faults.js';
import { Problem, invalid, numberNotFound } from '../problem.js';
import type { RunChange, RunStore } from '../store/runStore.js';
import type { Writer } from '../store/writer.js';
import type { RunTask } from '../../runs/task.js';
import type { RunMessage, RunOrder } from './worker.js';

/** The heap a run may fill, in MB: a run that wants more fails alone, not the service with it. */
const MOST_HEAP_MB = 2048;

type Listener = (run: RunView) => void;

/** How long after a failure of storage what came of a run is written again, in ms; the last one again and again. */
const TRY_AGAIN_MS = [250, 1000, 5000, 15_000];

const CLOSING_MS = 1000;
/** How many run at once; the others wait. */
const MOST_ACTIVE = Math.max(2, availableParallelism());
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

/** Throws a problem that lists everything that is wrong with the scenario. `named` is a name of its own. */
export function runAsked(document: EconomyDocument, setup: RunSetupView, named?: string): RunAsked {
  const resolved = scenarioResolve(document, setup.scenario, setup.options);
  if (!resolved.ok) throw invalid('The scenario cannot be run.', resolved.issues);
  const { name, days } = resolved.value;
  return { name: named ?? name, days, setup: setupTold(document, setup), text: JSON.stringify(document) };
}

/** With what is set for this run alone, in words: things may be called otherwise later. */
function setupTold(document: EconomyDocument, setup: RunSetupView): RunSetupView {
  const set = Object.entries(setup.options.set ?? {});
  if (set.length === 0) return setup;
  const value = (one: unknown): string => (typeof one === 'string' ? one : JSON.stringify(one));
  return {
    ...setup,
    differs: set.map(([pointer, one]) => `${placeWords(document, pointerSegments(pointer))} ${value(one)}`),
  };
}

export class RunManager {
  private readonly waiting: { id: number; task: RunTask }[] = [];
  private readonly active = new Map<number, Worker>();
  /** Threads without a run: what they have learned of the engine makes the next run begin at full speed. */
  private readonly idle: Worker[] = [];
  private readonly listeners = new Map<number, Set<Listener>>();
  /** What is true already and not on disk: days done, which cost no writes, and how a run stands. */
  private readonly ahead = new Map<number, Omit<RunChange, 'result'> & { done?: number }>();
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
    this.waiting.push({ id, task: { text, scenario: setup.scenario, options: setup.options } });
    this.next();
    return this.get(id);
  }

  private next(): void {
    if (this.active.size >= MOST_ACTIVE) return;
    const waiting = this.waiting.shift();
    if (!waiting) return;
    const { id, task } = waiting;
    // A run that is alone may use all there is; one beside another has a thread, and the system shares the cores out.
    const alone = this.active.size === 0 && this.waiting.length === 0;
    const worker = this.idle.pop() ?? this.thread();
    this.active.set(id, worker);
    this.change(id, { status: 'running' });
    worker.postMessage({ task, ...(alone ? {} : { workers: 1 }) } satisfies RunOrder);
  }

  private thread(): Worker {
    const worker = new Worker(join(packageRoot(), 'dist/service/runs/worker.js'), {
      resourceLimits: { maxOldGenerationSizeMb: MOST_HEAP_MB },
    });
    const run = (): number | undefined => [...this.active].find(([, one]) => one === worker)?.[0];
    worker.on('message', (message: RunMessage) => {
      const id = run();
      if (id === undefined) return;
      if (message.kind === 'progress') {
        this.ahead.set(id, { ...this.ahead.get(id), day: message.day, done: message.done });
        this.tell(id);
        return;
      }
      this.idle.push(worker);
      if (message.kind === 'done')
        this.finish(id, {
          status: 'done',
          result: Buffer.from(message.result),
          day: message.day,
          marks: message.marks,
        });
      else {
        if (message.fault) this.faults.note(`run ${id}`, new Error(message.error));
        this.finish(id, { status: 'failed', error: message.error });
      }
    });
    worker.on('error', (error) => {
      const id = run();
      this.faults.note(id === undefined ? 'a thread of runs' : `run ${id}`, error);
      if (id !== undefined) this.finish(id, { status: 'failed', error: error.message });
    });
    worker.on('exit', () => {
      const place = this.idle.indexOf(worker);
      if (place >= 0) this.idle.splice(place, 1);
      const id = run();
      if (id !== undefined) this.finish(id, { status: 'failed', error: 'the run ended without a result' });
    });
    return worker;
  }

  /** Ends an active run once; later reports about it change nothing. */
  private finish(id: number, outcome: RunChange & { status: RunStatus }): void {
    if (!this.active.delete(id)) return;
    this.change(id, { day: this.ahead.get(id)?.day ?? 0, ...outcome });
    this.next();
  }

  /** A run is told as done once its result can be read. */
  private change(id: number, change: RunChange & { status: RunStatus }): void {
    if (change.status !== 'done') {
      const { result: _, ...told } = change;
      this.ahead.set(id, { ...this.ahead.get(id), ...told });
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
    // A run that was deleted meanwhile has nothing to tell.
    const run = this.store.find(id);
    if (!run) return;
    const view = this.withProgress(run);
    for (const listener of listeners) this.faults.guard(`a listener of run ${id}`, () => listener(view));
  }

  /** Cancels a run that waits or runs, and deletes one that is over: the run as it was last. */
  async end(id: number): Promise<RunView> {
    const run = this.get(id);
    if (runIsOver(run.status)) {
      await this.writer.submit(() => this.store.remove(id));
      return run;
    }
    const place = this.waiting.findIndex((task) => task.id === id);
    const worker = this.active.get(id);
    if (place >= 0) {
      this.waiting.splice(place, 1);
      this.change(id, { status: 'cancelled' });
    } else if (worker) {
      void worker.terminate();
      this.finish(id, { status: 'cancelled' });
    }
    return this.get(id);
  }

  async rename(id: number, name: string): Promise<RunView> {
    this.get(id);
    await this.writer.submit(() => this.store.change(id, { name }));
    return this.get(id);
  }

  get(id: number): RunView {
    const run = this.store.find(id);
    if (!run) throw numberNotFound('run', id, this.store.list(Number.MAX_SAFE_INTEGER, 1).runs[0]?.id ?? 0);
    return this.withProgress(run);
  }

  private withProgress(run: RunView): RunView {
    return { ...run, ...this.ahead.get(run.id) };
  }

  page(cursor: number, limit: number): Page<RunView> {
    const { runs, isFull } = this.store.list(cursor, limit);
    return { items: runs.map((run) => this.withProgress(run)), next: isFull ? String(runs.at(-1)!.id) : null };
  }

  /** The result as bytes of JSON, as the worker wrote it; undefined while there is none. */
  resultJson(id: number): Buffer | undefined {
    return this.store.resultJson(id);
  }

  result(id: number): SimulationResult | undefined {
    const json = this.resultJson(id);
    return json && (JSON.parse(json.toString()) as SimulationResult);
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
    const threads = [...this.active.values(), ...this.idle];
    this.active.clear();
    await Promise.all(threads.map((thread) => thread.terminate()));
    // What is being written is on disk before it closes; what storage does not take now is lost with the process.
    await Promise.race([Promise.all(this.writing.values()), delay(CLOSING_MS, undefined, { ref: false })]);
  }
}

export const runIsOver = (status: RunStatus): boolean =>
  status === 'done' || status === 'failed' || status === 'cancelled';
