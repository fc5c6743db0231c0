/** The threads beside the one that serves players. */
import type { Operation } from '../contract/index.js';
import { Aside } from './aside/aside.js';
import { RankingThread } from './rankings/thread.js';
import type { Service } from './service.js';

/** Saves and questions go through `first`, what they must not wait for through `second`, and rankings have their own. */
export interface Threads {
  first: Aside;
  second: Aside;
  rankings: RankingThread;
}

export const threadsOf = (service: Service): Threads => ({
  first: new Aside(service),
  second: new Aside(service),
  rankings: new RankingThread(service),
});

export const threadOf = ({ first, second, rankings }: Threads, { aside }: Operation): Aside | RankingThread =>
  aside === 'behind-no-save' ? second : aside === 'rankings' ? rankings : first;
