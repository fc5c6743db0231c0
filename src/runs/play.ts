/** Plays a run, over several threads where that is worth it: what comes of it is the same for any number of them. */
import { availableParallelism } from 'node:os';
import { join } from 'node:path';
import { Worker } from 'node:worker_threads';
import {
  ResultMaker,
  RunStopped,
  blocksOf,
  crowdSize,
  dayOpens,
  endsJoined,
  holdingsJoined,
  memoryProblem,
  sharedMemory,
  simulateEngine,
  slotsMake,
  tallyAdd,
} from '../core/simulation/index.js';
import type { BlockDay, BlockEnd, RunSetup, SimulationResult } from '../core/simulation/index.js';
import { memoryFree } from './memory.js';
import { packageRoot } from '../packageRoot.js';
import type { BlockAnswer, BlockInput, BlockOrder } from './blockWorker.js';
import { taskSetup } from './task.js';
import type { RunTask } from './task.js';

export interface PlayOptions {
  /** How many threads; as many as are worth it by default. */
  workers?: number | undefined;
  /** The memory that it may take, in bytes; what is free by default. */
  freeBytes?: number | undefined;
  /** How many days are done, with the part of the one that is being played. */
  onProgress?: ((days: number, of: number) => void) | undefined;
}

/** Below, a thread of its own costs more than it saves. */
const WORTH_PLAYER_DAYS = 200_000;

export const workersWorth = (setup: RunSetup): number =>
  crowdSize(setup) * setup.days < WORTH_PLAYER_DAYS ? 1 : availableParallelism();

/** Throws a `RunStopped` where the run does not fit into memory, or a formula of it fails. */
export async function runPlay(
  task: RunTask,
  { workers, freeBytes = memoryFree(), onProgress }: PlayOptions = {},
): Promise<SimulationResult> {
  const setup = taskSetup(task);
  const tooLarge = memoryProblem(setup, freeBytes);
  if (tooLarge !== undefined) throw new RunStopped(tooLarge);
  const ranges = blocksOf(setup, workers ?? workersWorth(setup));
  const told = (days: number): void => onProgress?.(days, setup.days);
  if (ranges.length === 1) return simulateEngine(setup, { onProgress: told });
  const slots = slotsMake(setup);
  const memory = sharedMemory(slots, ranges.length);
  const threads = ranges.map((range, block) => new BlockThread({ task, range, block, memory }));
  try {
    return await playTogether(new ResultMaker(setup, slots), setup.days, threads, () => dayOpens(memory), told);
  } finally {
    await Promise.all(threads.map((thread) => thread.close()));
  }
}

/** A day of all blocks at a time; while they play the next, what came of the last is put together. */
async function playTogether(
  maker: ResultMaker,
  days: number,
  threads: readonly BlockThread[],
  open: () => void,
  onProgress: (played: number) => void,
): Promise<SimulationResult> {
  const parts = threads.map(() => 0);
  const playDay = (day: number): Promise<BlockDay[]> => {
    open();
    return together(
      threads.map((thread, block) =>
        thread.day(day, (share) => {
          parts[block] = share;
          onProgress(day + Math.min(...parts));
        }),
      ),
    );
  };
  let playing = playDay(0);
  for (let day = 0; day < days; day++) {
    const [first, ...others] = await playing;
    parts.fill(0);
    onProgress(day + 1);
    if (day + 1 < days) playing = playDay(day + 1);
    // It is awaited in the next turn; until then its failure is nobody's surprise.
    playing.catch(() => undefined);
    for (const { tally } of others) tallyAdd(first!.tally, tally);
    maker.dayEnds(day, first!.tally, holdingsJoined([first!, ...others].map(({ holdings }) => holdings)));
  }
  const [first, ...others] = await together(threads.map((thread) => thread.end()));
  for (const { tally } of others) tallyAdd(first!.tally, tally);
  return maker.result(first!.tally, endsJoined([first!, ...others].map(({ ends }) => ends)));
}

/** All of them; of several that are stopped, the one that was first by the clock of the run. */
async function together<T>(all: readonly Promise<T>[]): Promise<T[]> {
  const settled = await Promise.allSettled(all);
  const failed = settled.flatMap((one) => (one.status === 'rejected' ? [one.reason as Error] : []));
  const sessionMs = (error: Error): number => (error instanceof RunStopped ? error.sessionMs : -Infinity);
  failed.sort((a, b) => sessionMs(a) - sessionMs(b));
  if (failed[0]) throw failed[0];
  return settled.map((one) => (one as PromiseFulfilledResult<T>).value);
}

/** A thread with one block: asked one thing at a time. */
class BlockThread {
  private readonly worker: Worker;
  private waiting: { done: (answer: BlockAnswer) => void; failed: (error: Error) => void } | undefined;
  private onPart: (share: number) => void = () => undefined;
  private failure: Error | undefined;

  constructor(input: BlockInput) {
    this.worker = new Worker(join(packageRoot(), 'dist/runs/blockWorker.js'), { workerData: input });
    this.worker.on('message', (answer: BlockAnswer) => {
      if (answer.kind === 'part') this.onPart(answer.share);
      else this.waiting?.done(answer);
    });
    const fail = (error: Error): void => {
      this.failure ??= error;
      this.waiting?.failed(this.failure);
    };
    this.worker.on('error', fail);
    this.worker.on('exit', () => fail(new Error('a thread of the run ended before its time')));
  }

  private ask(order: BlockOrder): Promise<BlockAnswer> {
    return new Promise((done, failed) => {
      if (this.failure) failed(this.failure);
      this.waiting = { done, failed };
      this.worker.postMessage(order);
    });
  }

  async day(day: number, onPart: (share: number) => void): Promise<BlockDay> {
    this.onPart = onPart;
    const answer = await this.ask({ kind: 'day', day });
    if (answer.kind === 'day') return answer.played;
    throw stopped(answer);
  }

  async end(): Promise<BlockEnd> {
    const answer = await this.ask({ kind: 'end' });
    if (answer.kind === 'end') return answer.end;
    throw stopped(answer);
  }

  async close(): Promise<void> {
    await this.worker.terminate();
  }
}

function stopped(answer: BlockAnswer): Error {
  if (answer.kind !== 'stopped') return new Error(`a thread of the run answered ${answer.kind}`);
  return Object.assign(new RunStopped(answer.message), { sessionMs: answer.sessionMs });
}
