/** Whether the service can do its work now: what a load balancer, or whoever watches over it, asks. */
import type { Database } from './store/database.js';

/** So much must be free on the disk, in bytes, for what is written soon. */
const LEAST_FREE_BYTES = 64 * 2 ** 20;

/** How long a failure of the storage counts. */
const FAILED_MS = 10_000;

export class Readiness {
  /** Set when the service begins to stop. */
  isStopping = false;
  private failedMs = -Infinity;

  constructor(private readonly database: Database) {}

  /** What was to be written could not be. It is tried again when somebody asks for something. */
  storageFailed(): void {
    this.failedMs = performance.now();
  }

  /** Why it cannot; undefined where it can. */
  problem(): string | undefined {
    if (this.isStopping) return 'it stops';
    if (!this.database.isOnDisk()) return 'the database file is not where it was';
    const free = this.database.diskFree();
    if (free < LEAST_FREE_BYTES) return `the disk of the database has ${Math.floor(free / 2 ** 20)} MB left`;
    if (performance.now() - this.failedMs < FAILED_MS) return 'the storage could not be written just now';
    return undefined;
  }
}
