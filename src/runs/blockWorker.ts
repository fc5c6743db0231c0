/** The body of a thread that plays one block of a run, a day at a time. */
import { parentPort, workerData } from 'node:worker_threads';
import { Block, RunStopped, slotsMake, stocksBetween } from '../core/simulation/index.js';
import type { BlockDay, BlockEnd, BlockRange, SharedMemory } from '../core/simulation/index.js';
import { taskSetup } from './task.js';
import type { RunTask } from './task.js';

export interface BlockInput {
  task: RunTask;
  range: BlockRange;
  /** Which of the blocks it is, in the order of their players. */
  block: number;
  memory: SharedMemory;
}
/** Play a day, or tell what came of it all. */
export type BlockOrder = { kind: 'day'; day: number } | { kind: 'end' };
export type BlockAnswer =
  | { kind: 'part'; share: number }
  | { kind: 'day'; played: BlockDay }
  | { kind: 'end'; end: BlockEnd }
  | { kind: 'stopped'; message: string; sessionMs: number };

const { task, range, block: place, memory } = workerData as BlockInput;
const setup = taskSetup(task);
const slots = slotsMake(setup);
const block = new Block(setup, slots, range, stocksBetween(memory, place));
const tell = (answer: BlockAnswer): void => parentPort!.postMessage(answer);

parentPort!.on('message', (order: BlockOrder) => {
  if (order.kind === 'end') {
    tell({ kind: 'end', end: block.end() });
    return;
  }
  try {
    tell({ kind: 'day', played: block.day(order.day, (share) => tell({ kind: 'part', share })) });
  } catch (error) {
    if (!(error instanceof RunStopped)) throw error;
    tell({ kind: 'stopped', message: error.message, sessionMs: error.sessionMs });
  }
});
