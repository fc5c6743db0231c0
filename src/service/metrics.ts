/** Prometheus metrics: requests by route and status, and what the writer and the storefront did. */
import { Gauge, Histogram, Registry, collectDefaultMetrics } from 'prom-client';
import { methodOf, pathOf } from '../contract/index.js';
import type { Key } from '../contract/index.js';
import type { Service } from './service.js';

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
  return {
    begin: (key: Key) => {
      const stop = seconds.startTimer({ method: methodOf(key).toLowerCase(), route: pathOf(key) });
      return (status: number): void => {
        stop({ status: String(status) });
      };
    },
    text: () => registry.metrics(),
  };
}
