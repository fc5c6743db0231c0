/** How much memory there is for work that takes much of it. */
import { freemem, totalmem } from 'node:os';

/** What the rest of the process may still grow by: code that is compiled, caches that fill, threads that are begun. */
const REST = 0.1;

/** What this process may take altogether, in bytes: what the machine has, or the limit of the container that it runs in. */
export const memoryLimit = (): number => Math.min(process.constrainedMemory() || Infinity, totalmem());

/** What it may still take, in bytes; a part is left for everything else. */
export const memoryFree = (): number =>
  Math.max(0, Math.min(freemem(), memoryLimit() - process.memoryUsage.rss()) - REST * Math.min(memoryLimit(), 2e9));
