/** The body of a worker thread: resolves a scenario, simulates, and reports each day. */
import { freemem } from 'node:os';
import { parentPort, workerData } from 'node:worker_threads';
import { memoryProblem, scenarioResolve, simulateEngine } from '../../core/simulation/index.js';
import type { ScenarioOptions } from '../../core/simulation/index.js';
import type { EconomyDocument } from '../../core/document/index.js';

export interface WorkerInput {
  /** The economy as JSON. */
  text: string;
  scenario: string;
  options: ScenarioOptions;
}
export type WorkerMessage = { kind: 'day'; day: number; days: number } | { kind: 'done'; result: string };

const { text, scenario, options } = workerData as WorkerInput;
const post = (message: WorkerMessage): void => parentPort!.postMessage(message);

const setup = scenarioResolve(JSON.parse(text) as EconomyDocument, scenario, options);
// The service has resolved the same scenario before it started the thread, so this cannot fail for a user's mistake.
if (!setup.ok) throw new Error(setup.issues.map(({ message }) => message).join('; '));
const tooLarge = memoryProblem(setup.value, freemem());
if (tooLarge !== undefined) throw new Error(tooLarge);
const result = simulateEngine(setup.value, { onDay: (day, days) => post({ kind: 'day', day, days }) });
post({ kind: 'done', result: JSON.stringify(result) });
