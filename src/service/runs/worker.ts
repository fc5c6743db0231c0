/** The body of a thread that plays runs, one after the other, and reports how far each is. */
import { setPriority } from 'node:os';
import { parentPort } from 'node:worker_threads';
import { gzipSync } from 'node:zlib';
import { RunStopped, targetMissed } from '../../core/simulation/index.js';
import type { SimulationResult } from '../../core/simulation/index.js';
import type { RunMarks } from '../../contract/index.js';
import { runPlay } from '../../runs/play.js';
import type { RunTask } from '../../runs/task.js';

export interface RunOrder {
  task: RunTask;
  /** How many threads it may use; as many as are worth it where this is left out. */
  workers?: number;
  /** What it may take, in bytes. */
  freeBytes: number;
}
export type RunMessage =
  /** Days that are done, and which part of all. */
  | { kind: 'progress'; day: number; done: number }
  /** JSON, compressed. */
  | { kind: 'done'; result: Uint8Array; day: number; marks: RunMarks }
  /** `fault`: it should not have. */
  | { kind: 'failed'; error: string; fault: boolean };

/** Players are served first. */
const NICE = 10;
const PROGRESS_MS = 100;

giveWay();
const post = (message: RunMessage): void => parentPort!.postMessage(message);

parentPort!.on('message', ({ task, workers, freeBytes }: RunOrder) => {
  let toldMs = 0;
  let toldDay = 0;
  runPlay(task, {
    workers,
    freeBytes,
    onProgress: (played, of) => {
      const day = Math.floor(played);
      const nowMs = performance.now();
      if (nowMs - toldMs < PROGRESS_MS && day === toldDay) return;
      [toldMs, toldDay] = [nowMs, day];
      post({ kind: 'progress', day, done: played / of });
    },
  }).then(
    (result) =>
      post({ kind: 'done', result: gzipSync(JSON.stringify(result)), day: result.days, marks: marksOf(result) }),
    (error: Error) => post({ kind: 'failed', error: error.message, fault: !(error instanceof RunStopped) }),
  );
});

function marksOf({ targets }: SimulationResult): RunMarks {
  const met = targets.filter(({ mark }) => mark === 'met').length;
  const missed = targets.filter(targetMissed).length;
  return { met, missed, open: targets.length - met - missed };
}

/** On Linux this is of the thread alone. Where a sandbox forbids it, the system shares out the time. */
function giveWay(): void {
  if (process.platform !== 'linux') return;
  try {
    setPriority(NICE);
  } catch {
    // Runs go on, no less politely than everything else.
  }
}
