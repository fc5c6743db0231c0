/** Prometheus metrics: requests by route and status, and what the writer and the storefront did. */
import { Counter, Gauge, Histogram, Registry, collectDefaultMetrics } from 'prom-client';
import { methodOf, pathOf } from '../contract/index.js';
import type { Key } from '../contract/index.js';
import type { Service } from './service.js';

const FRESH_MS = 1000;

export type Metrics = ReturnType<typeof metricsCreate>;

export function metricsCreate(service: Service) {
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
  gauge('dimestall_writer_groups', 'Groups that the writer committed', () => service.writer.committed.groups);
  gauge('dimestall_writer_tasks', 'Pieces of work in those groups', () => service.writer.committed.tasks);
  gauge('dimestall_front_kept', 'Storefront reads answered from prepared bytes', () => service.hotFront.counts.kept);
  gauge('dimestall_front_made', 'Storefront reads that were worked out', () => service.hotFront.counts.made);
  gauge('dimestall_faults', 'What failed while nobody waited for it, since the start', () => service.faults.count);
  const work = new Counter({
    name: 'dimestall_work_seconds_total',
    help: "Time of the players' thread that was used, by the name of who asked; none without a token",
    labelNames: ['holder'],
    registers,
  });
  let made: { text: Promise<string>; ms: number } | undefined;
  return {
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
