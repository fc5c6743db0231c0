/** The thread beside the one that serves players: the same service on a connection that only reads. */
import { parentPort, workerData } from 'node:worker_threads';
import { serviceCreate } from '../service.js';
import { handsOver, jobDo, jobTold } from './job.js';
import type { Job } from './job.js';

let nowMs = 0;
const service = serviceCreate({ data: workerData as string, readOnly: true, logLevel: 'silent', now: () => nowMs });
const { raw } = service.database;
let seen: unknown;

/** In one transaction, so that everything that is read is of one moment. */
parentPort!.on('message', (job: Job) => {
  nowMs = job.nowMs;
  raw.exec('BEGIN');
  // The first read decides which moment that is; what is held from before is looked at again if others have written.
  raw.prepare('SELECT 1 FROM draft_revisions LIMIT 1').get();
  const version = raw.pragma('data_version', { simple: true });
  if (version !== seen) service.caches.refresh();
  seen = version;
  void jobDo(service, job).then((outcome) => {
    raw.exec('COMMIT');
    const told = jobTold(outcome);
    parentPort!.postMessage(told, told.kind === 'reply' ? handsOver(told.reply.bytes?.content) : []);
  });
});
