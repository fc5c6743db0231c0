/** The body of a thread that plays one scenario again and again, with other values set each time. */
import { parentPort, workerData } from 'node:worker_threads';
import type { EconomyDocument } from '../core/document/index.js';
import { scenarioResolve, simulateEngine } from '../core/simulation/index.js';
import type { SimulationResult } from '../core/simulation/index.js';
import type { RunTask } from './task.js';

export interface TryOrder {
  set: Record<string, unknown>;
  players: number;
}
/** `why` of one that cannot be played, or stops. */
export type TryAnswer = { kind: 'done'; result: SimulationResult } | { kind: 'failed'; why: string };

const { text, scenario, options } = workerData as RunTask;
const document = JSON.parse(text) as EconomyDocument;

function tried({ set, players }: TryOrder): TryAnswer {
  const setup = scenarioResolve(document, scenario, { ...options, players, set: { ...options.set, ...set } });
  if (!setup.ok) return { kind: 'failed', why: setup.issues.map(({ message }) => message).join('; ') };
  try {
    return { kind: 'done', result: simulateEngine(setup.value) };
  } catch (error) {
    return { kind: 'failed', why: (error as Error).message };
  }
}

parentPort!.on('message', (order: TryOrder) => parentPort!.postMessage(tried(order)));
