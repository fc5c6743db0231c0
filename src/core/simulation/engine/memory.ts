/** Whether a run fits into the memory that is there. */
import { crowdSize } from '../scenario.js';
import type { RunSetup } from '../scenario.js';
import { bytesPerPlayer } from './crowd.js';
import { slotsMake } from './slots.js';

/** Names, attributes, and the result as objects and as text come to about as much as the columns (measured on the demo). */
const WITH_RESULT = 2;

const gigabytes = (bytes: number): string =>
  bytes < 1e9 ? `${Math.max(0, Math.round(bytes / 1e6))} MB` : `${(bytes / 1e9).toFixed(bytes < 1e10 ? 1 : 0)} GB`;

/** About how many bytes a run takes, its result included. */
export const memoryNeeded = (setup: RunSetup): number => crowdSize(setup) * eachNeeds(setup);

const eachNeeds = (setup: RunSetup): number => WITH_RESULT * bytesPerPlayer(slotsMake(setup));

/** What to say of a run that needs more than `freeBytes`, with how many players would fit; nothing where it fits. */
export function memoryProblem(setup: RunSetup, freeBytes: number): string | undefined {
  const needed = memoryNeeded(setup);
  if (needed <= freeBytes) return undefined;
  const most = Math.floor(Math.max(0, freeBytes) / eachNeeds(setup));
  // Told in thousands, unless it is less than one.
  const told = most < 1000 ? most : Math.floor(most / 1000) * 1000;
  const way = told === 0 ? 'give it more memory' : `play ${told.toLocaleString('en')} at most`;
  return `${crowdSize(setup).toLocaleString('en')} players need about ${gigabytes(needed)} of memory, and ${gigabytes(freeBytes)} are free: ${way}`;
}
