/** Prometheus metrics: requests by route and status, and what the writer and the storefront did. */
import { Counter, Gauge, Histogram, Registry, collectDefaultMetrics } from 'prom-client';
import { methodOf, pathOf } from '../contract/index.js';
import type { Key } from '../contract/index.js';
import { KEPT } from './retention/policy.js';
import type { Service } from './service.js';
import type { Threads } from './threads.js';

const FRESH_MS = 1000;

export type Metrics = ReturnType<typeof metricsCreate>;

export function metricsCreate(service: Service, threads: Threads) {
  const registers = [new Registry()];
  const [registry] = registers as [Registry];
  collectDefaultMetrics({ register: registry });
  const seconds = new Histogram({
    name: 'dimestall_request_seconds',
    help: 'Time to answer, by route and status',
    labelNames: ['method', 'route', 'status'],
    buckets: [0.001, 0.005, 0.02, 0.1, 0.5, 2],
    registers,
  });
  const gauge = (name: string, help: string, read: () => number) =>
    new Gauge({
      name,
      help,
      registers,
      collect() {
        this.set(read());
      },
    });
  /** Of what is counted elsewhere since the start. */
  const counter = (name: string, help: string, read: () => number) =>
    new Counter({
      name,
      help,
      registers,
      collect() {
        this.reset();
        this.inc(read());
      },
    });
  const { writer, hotFront, faults, runs, database } = service;
  counter('dimestall_writer_groups_total', 'Groups that the writer committed', () => writer.committed.groups);
  counter('dimestall_writer_tasks_total', 'Pieces of work in those groups', () => writer.committed.tasks);
  counter('dimestall_front_kept_total', 'Storefront reads answered from prepared bytes', () => hotFront.counts.kept);
  counter('dimestall_front_made_total', 'Storefront reads that were worked out', () => hotFront.counts.made);
  counter('dimestall_faults_total', 'What failed while nobody waited for it', () => faults.count);
  gauge('dimestall_writer_waiting', 'Pieces of work that wait for the writer', () => writer.waiting);
  gauge('dimestall_runs_waiting', 'Simulations that wait for their turn', () => runs.counts.waiting);
  gauge('dimestall_runs_active', 'Simulations that run', () => runs.counts.active);
  gauge('dimestall_aside_waiting', 'Requests that wait to be worked out by another thread', () =>
    Object.values(threads).reduce((sum, { waiting }) => sum + waiting, 0),
  );
  gauge('dimestall_streams_open', 'Streams of events that are open', () => service.streams.count);
  gauge('dimestall_database_bytes', 'Size of the database file', () => database.size());
  gauge('dimestall_disk_free_bytes', 'What is left of its disk', () =>
    Math.min(database.diskFree(), Number.MAX_SAFE_INTEGER),
  );
  gauge('dimestall_ready', '1 where /readyz says that it is ready', () =>
    service.readiness.problem() === undefined ? 1 : 0,
  );
  new Gauge({
    name: 'dimestall_backup_age_seconds',
    help: 'Since the newest backup that comes by itself was made; nothing where there is none',
    registers,
    collect() {
      this.reset();
      const newestMs = service.newestBackupMs();
      if (newestMs === undefined) this.remove();
      else this.set((service.now() - newestMs) / 1000);
    },
  });
  new Counter({
    name: 'dimestall_removed_total',
    help: 'Rows that were kept long enough and have gone, by what they were',
    labelNames: ['kind'],
    registers,
    collect() {
      this.reset();
      for (const kind of KEPT) this.inc({ kind }, service.retention.removed[kind]);
    },
  });
  const refused = new Counter({
    name: 'dimestall_refused_total',
    help: 'Requests that were refused, by the kind of the problem and by what refused a purchase or an act',
    labelNames: ['code'],
    registers,
  });
  const work = new Counter({
    name: 'dimestall_work_seconds_total',
    help: "Time of the players' thread that was used, by the name of who asked; none without a token",
    labelNames: ['holder'],
    registers,
  });
  let made: { text: Promise<string>; ms: number } | undefined;
  return {
    refused: (code: string) => refused.inc({ code }),
    worked: (holder: string, ms: number) =>
      work.inc({ holder: holder.startsWith('address ') ? 'none' : holder }, ms / 1000),
    begin: (key: Key) => {
      const stop = seconds.startTimer({ method: methodOf(key).toLowerCase(), route: pathOf(key) });
      return (status: number): void => {
        stop({ status: String(status) });
      };
    },
    /** As it was within the last second: it costs too much to be made for each who asks. */
    text: (): Promise<string> => {
      const now = performance.now();
      if (!made || now - made.ms > FRESH_MS) made = { text: registry.metrics(), ms: now };
      return made.text;
    },
  };
}
