/** The thread that answers for rankings: the same service on a connection that only reads, told of what is written. */
import { parentPort, workerData } from 'node:worker_threads';
import { handsOver, jobDo, jobTold } from '../aside/job.js';
import { serviceCreate } from '../service.js';
import type { Answered, Told } from './thread.js';

let nowMs = 0;
const service = serviceCreate({ data: workerData as string, readOnly: true, logLevel: 'silent', now: () => nowMs });
const { raw } = service.database;
/** Questions that somebody waits for. */
const wanted = new Set<number>();
let seen: unknown;
// Before anybody asks.
void service.sources.warm();

parentPort!.on('message', (told: Told) => {
  switch (told.kind) {
    case 'changes':
      for (const change of told.changes) service.rankings.take(change);
      return;
    case 'gone':
      for (const number of told.numbers) wanted.delete(number);
      return;
    case 'ask':
      void answer(told);
  }
});

async function answer({ number, job }: Extract<Told, { kind: 'ask' }>): Promise<void> {
  const startMs = performance.now();
  wanted.add(number);
  nowMs = job.nowMs;
  const version = raw.pragma('data_version', { simple: true });
  if (version !== seen) service.caches.refresh();
  seen = version;
  const outcome = jobTold(await jobDo(service, job, () => wanted.has(number)));
  wanted.delete(number);
  const answered: Answered = { number, outcome, ms: performance.now() - startMs };
  parentPort!.postMessage(answered, outcome.kind === 'reply' ? handsOver(outcome.reply.bytes?.content) : []);
}
