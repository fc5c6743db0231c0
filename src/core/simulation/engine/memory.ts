/** Whether a run fits into the memory that is there. */
import { crowdSize } from '../scenario.js';
import type { RunSetup } from '../scenario.js';
import { bytesPerPlayer } from './crowd.js';
import { slotsMake } from './slots.js';

/** Names, attributes, and the result as objects and as text come to about as much as the columns (measured on the demo). */
const WITH_RESULT = 2;

const gigabytes = (bytes: number): string => `${(bytes / 1e9).toFixed(bytes < 1e10 ? 1 : 0)} GB`;

/** What to say of a run that needs more than `freeBytes`, with how many players would fit; nothing where it fits. */
export function memoryProblem(setup: RunSetup, freeBytes: number): string | undefined {
  const each = WITH_RESULT * bytesPerPlayer(slotsMake(setup));
  const players = crowdSize(setup);
  if (players * each <= freeBytes) return undefined;
  const most = Math.floor(freeBytes / each / 1000) * 1000;
  return `${players.toLocaleString('en')} players need about ${gigabytes(players * each)} of memory, and ${gigabytes(freeBytes)} are free: play ${most.toLocaleString('en')} at most`;
}
