/** Simulations in the background: a few at once, each in a thread of its own that is kept for the next; the others wait their turn. */
import { availableParallelism } from 'node:os';
import { setTimeout as delay } from 'node:timers/promises';
import { Worker } from 'node:worker_threads';
import { join } from 'node:path';
import { placeWords } from '../../core/document/index.js';
import type { Logger } from 'pino';
import type { EconomyDocument } from '../../core/document/index.js';
import { countText, pointerSegments } from '../../core/issue/index.js';
import { crowdSize, memoryNeeded, scenarioResolve } from '../../core/simulation/index.js';
import type { SimulationResult } from '../../core/simulation/index.js';
import type { Page, RunSetupView, RunStatus, RunView } from '../../contract/index.js';
import { memoryFree, memoryLimit } from '../../runs/memory.js';
import { packageRoot } from '../../packageRoot.js';
import { FairQueue } from '../fairQueue.js';
import type { Faults } from '../faults.js';
import { Problem, invalid, numberNotFound } from '../problem.js';
import type { RunChange, RunStore } from '../store/runStore.js';
import type { Writer } from '../store/writer.js';
import type { RunTask } from '../../runs/task.js';
import type { RunMessage, RunOrder } from './worker.js';

/** The heap a run may fill, in MB: a run that wants more fails alone, not the service with it. */
const MOST_HEAP_MB = Math.min(2048, Math.floor(memoryLimit() / 2 ** 21));
/** What the thread of a run takes beside its players, in bytes. */
const THREAD_BYTES = 40e6;
/** A thread that had a larger run is ended, which gives its memory back; others are kept for the next. */
const KEPT_BYTES = 100e6;

type Listener = (run: RunView) => void;

/** How long after a failure of storage what came of a run is written again, in ms; the last one again and again. */
const TRY_AGAIN_MS = [250, 1000, 5000, 15_000];

const CLOSING_MS = 1000;
/** How many run at once; the others wait. One place is left for whoever else comes: nobody waits for the hours of another. */
const MOST_ACTIVE = Math.max(2, availableParallelism());
/** Each holds its economy in memory. */
const MOST_WAITING = 50;
const MOST_WAITING_EACH = 25;
/** A run is given up after so long by the clock: some hundred million days of players. */
const LONGEST_MS = 2 * 3_600_000;
/** Of a run that has done less, it is not foretold how long it takes. */
const LEAST_DONE = 0.02;
/** How much the last run changes what is expected of the next. */
const WEIGHT = 0.3;

/** A run that can be begun: its scenario is there and fits. */
export interface RunAsked {
  name: string;
  days: number;
  setup: RunSetupView;
  /** The economy as JSON. */
  text: string;
  /** About what it takes of memory. */
  bytes: number;
  /** Days of players that it plays. */
  playerDays: number;
}

/** Throws a problem that lists everything that is wrong with the scenario. `named` is a name of its own. */
export function runAsked(document: EconomyDocument, setup: RunSetupView, named?: string): RunAsked {
  const resolved = scenarioResolve(document, setup.scenario, setup.options);
  if (!resolved.ok) throw invalid('The scenario cannot be run.', resolved.issues);
  const { name, days } = resolved.value;
  return {
    name: named ?? name,
    days,
    setup: setupTold(document, setup),
    text: JSON.stringify(document),
    bytes: THREAD_BYTES + memoryNeeded(resolved.value),
    playerDays: days * crowdSize(resolved.value),
  };
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

interface Waiting {
  id: number;
  who: string;
  task: RunTask;
  bytes: number;
  playerDays: number;
}

interface Active extends Omit<Waiting, 'task'> {
  thread: Worker;
  sinceMs: number;
  /** Ends it when it takes too long. */
  timer: NodeJS.Timeout;
}

export class RunManager {
  private readonly waiting = new FairQueue<Waiting>();
  private readonly active = new Map<number, Active>();
  /** What a day of a player took of late, in ms. */
  private dayMs: number | undefined;
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
    private readonly log: Logger,
    private readonly now: () => number,
    private readonly longestMs = LONGEST_MS,
  ) {}

  get counts(): { waiting: number; active: number } {
    return { waiting: this.waiting.size, active: this.active.size };
  }

  /** When the service starts: runs that its last stop cut off cannot go on. */
  async endUnfinished(): Promise<void> {
    await this.writer.submit(() => this.store.failUnfinished('the service stopped while it ran; run it again'));
  }

  async begin({ name, days, setup, text, bytes, playerDays }: RunAsked, who: string): Promise<RunView> {
    if (this.waiting.size >= MOST_WAITING || this.waiting.sizeOf(who) >= MOST_WAITING_EACH)
      throw new Problem(
        'too-many',
        `${countText(this.waiting.size, 'run')} wait already, ${this.waiting.sizeOf(who)} of them of "${who}". Cancel some, or wait until they are done.`,
      );
    const run = { name, setup, status: 'waiting', day: 0, days, createdMs: this.now(), createdBy: who } as const;
    const id = await this.writer.submit(() => this.store.add(run));
    this.waiting.push(who, {
      id,
      who,
      bytes,
      playerDays,
      task: { text, scenario: setup.scenario, options: setup.options },
    });
    this.next();
    return this.get(id);
  }

  /** Begins those that there are places and memory for, by holder in turn. */
  private next(): void {
    if (this.closed) return;
    const [run] = this.waiting.inOrder().filter(({ who }) => this.hasPlace(who));
    if (!run) return;
    const freeBytes = memoryFree() - [...this.active.values()].reduce((sum, { bytes }) => sum + bytes, 0);
    // Alone, it is told what it lacks; beside others, it waits until they are done.
    if (this.active.size > 0 && run.bytes > freeBytes) return;
    this.waiting.take(run);
    const { id, who, bytes, playerDays, task } = run;
    // A run that is alone may use all there is; one beside another has a thread, and the system shares the cores out.
    const alone = this.active.size === 0 && this.waiting.size === this.waiting.sizeOf(who);
    // A thread that is there has taken its part already.
    const forThread = this.idle.length > 0 ? 0 : THREAD_BYTES;
    const thread = this.idle.pop() ?? this.thread();
    const timer = setTimeout(() => this.giveUp(id), this.longestMs).unref();
    this.active.set(id, { id, who, bytes, playerDays, thread, timer, sinceMs: performance.now() });
    this.log.info({ run: id, who, playerDays }, 'a run has begun');
    this.change(id, { status: 'running' });
    const order: RunOrder = { task, freeBytes: freeBytes - forThread, ...(alone ? {} : { workers: 1 }) };
    thread.postMessage(order);
    for (const other of this.waiting.inOrder()) this.tell(other.id);
    this.next();
  }

  private hasPlace(who: string): boolean {
    const own = [...this.active.values()].filter((run) => run.who === who).length;
    return this.active.size < MOST_ACTIVE && own < MOST_ACTIVE - 1;
  }

  private giveUp(id: number): void {
    const gone = this.active.get(id)?.thread.terminate();
    const error = `it took more than ${this.longestMs / 3_600_000} hours and was given up: play fewer players, or fewer days`;
    this.finish(id, { status: 'failed', error }, gone);
  }

  private thread(): Worker {
    const worker = new Worker(join(packageRoot(), 'dist/service/runs/worker.js'), {
      resourceLimits: { maxOldGenerationSizeMb: MOST_HEAP_MB },
    });
    const run = (): number | undefined => [...this.active.values()].find(({ thread }) => thread === worker)?.id;
    worker.on('message', (message: RunMessage) => {
      const id = run();
      if (id === undefined) return;
      if (message.kind === 'progress') {
        this.ahead.set(id, { ...this.ahead.get(id), day: message.day, done: message.done });
        this.tell(id);
        return;
      }
      const isLarge = this.active.get(id)!.bytes > KEPT_BYTES;
      if (!isLarge) this.idle.push(worker);
      const gone = isLarge ? worker.terminate() : undefined;
      if (message.kind === 'done')
        this.finish(
          id,
          { status: 'done', result: Buffer.from(message.result), day: message.day, marks: message.marks },
          gone,
        );
      else {
        if (message.fault) this.faults.note(`run ${id}`, new Error(message.error));
        this.finish(id, { status: 'failed', error: message.error }, gone);
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

  /** Ends an active run once; later reports about it change nothing. The next begins when its thread and memory are `gone`. */
  private finish(id: number, outcome: RunChange & { status: RunStatus }, gone?: Promise<unknown>): void {
    const run = this.active.get(id);
    if (!run) return;
    clearTimeout(run.timer);
    this.active.delete(id);
    const ms = Math.round(performance.now() - run.sinceMs);
    this.log.info({ run: id, status: outcome.status, ms, error: outcome.error }, 'a run is over');
    if (outcome.status === 'done') {
      const tookMs = (performance.now() - run.sinceMs) / run.playerDays;
      this.dayMs = this.dayMs === undefined ? tookMs : this.dayMs + WEIGHT * (tookMs - this.dayMs);
    }
    this.change(id, { day: this.ahead.get(id)?.day ?? 0, ...outcome });
    if (gone) void gone.then(() => this.next());
    else this.next();
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
    const active = this.active.get(id);
    const waiting = this.waiting.inOrder().find((one) => one.id === id);
    if (waiting) {
      this.waiting.take(waiting);
      this.change(id, { status: 'cancelled' });
    } else if (active) {
      this.finish(id, { status: 'cancelled' }, active.thread.terminate());
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
    const ahead = this.waiting.inOrder().findIndex(({ id }) => id === run.id);
    const waits = ahead < 0 ? {} : { waits: { ahead, aboutMs: this.waitMs(ahead) } };
    return { ...run, ...this.ahead.get(run.id), ...waits };
  }

  /** About how long a run waits before which so many others have their turn; null while nothing can be told. */
  private waitMs(ahead: number): number | null {
    const { dayMs } = this;
    const nowMs = performance.now();
    const left = [...this.active.values()].map(({ id, sinceMs, playerDays }) => {
      const { done = 0 } = this.ahead.get(id) ?? {};
      const tookMs = nowMs - sinceMs;
      if (done > LEAST_DONE) return (tookMs * (1 - done)) / done;
      return dayMs === undefined ? Infinity : Math.max(0, playerDays * dayMs - tookMs);
    });
    const before = this.waiting.inOrder().slice(0, ahead);
    const beforeMs = before.reduce((sum, { playerDays }) => sum + playerDays * (dayMs ?? Infinity), 0);
    const allMs = Math.min(...left) + beforeMs / MOST_ACTIVE;
    return Number.isFinite(allMs) ? Math.round(allMs) : null;
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
    this.waiting.clear();
    const threads = [...[...this.active.values()].map(({ thread }) => thread), ...this.idle];
    for (const { timer } of this.active.values()) clearTimeout(timer);
    this.active.clear();
    await Promise.all(threads.map((thread) => thread.terminate()));
    // What is being written is on disk before it closes; what storage does not take now is lost with the process.
    await Promise.race([Promise.all(this.writing.values()), delay(CLOSING_MS, undefined, { ref: false })]);
  }
}

export const runIsOver = (status: RunStatus): boolean =>
  status === 'done' || status === 'failed' || status === 'cancelled';
